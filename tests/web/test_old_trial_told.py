"""What is said of a finished trial that came in: its margin, each factor once, and nothing that nobody wrote down."""

from __future__ import annotations

import re

from bs4 import BeautifulSoup
from flask.testing import FlaskClient
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.trial.models import Trial
from tests.factories import evidence
from tests.web.conftest import SignIn, flat
from tests.web.test_old_trial import CLEAR, TRAYS, bring, lines


def test_the_margin_is_asked_for_in_the_endpoint_s_own_unit(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    for more in ({"margin": "5"}, {"margin": "1,5", "endpoint": "root_count"}, {}):
        rows = (
            "\n".join(f"grit,{i % 4 + 5},1" for i in range(12))
            + "\n"
            + "\n".join(f"bark,{i % 4 + 1},1" for i in range(12))
        )
        assert bring(client, f"medium,roots,rooted\n{rows}\n", **more).status_code == 303
    points, own, usual = (
        evidence(session, trial).analysis for trial in session.scalars(select(Trial).order_by(Trial.id))
    )
    assert points is not None and own is not None and usual is not None
    assert (points.settings.margin, own.settings.margin, usual.settings.margin) == (0.05, 1.5, 0.15)
    refused = bring(client, CLEAR, margin="0,5", endpoint="root_count")
    assert refused.status_code == 422 and len(list(session.scalars(select(Trial)))) == 3


def test_a_factor_beside_that_of_the_headline_is_named_once_and_arms_that_are_all_alike_are_not_listed(
    session: Session, sign_in: SignIn
) -> None:
    client = sign_in()
    did = {"none": 3, "IBA 1000": 6, "IBA 3000": 8}
    rows = [
        f"{m},{h},{b},10,{min(10, k + (b + len(m)) % 2)}"
        for b in range(6)
        for m in ("grit", "bark", "sand")
        for h, k in did.items()
    ]
    answer = bring(
        client, "\n".join(["medium,hormone,block,stuck,rooted", *rows, ""]), factors="medium, hormone", block="block"
    )
    assert answer.status_code == 303
    page = flat(client.get(answer.headers["Location"]).text)
    lede = page.split("</h1>")[1].split("<figure")[0]
    assert lede.count("Medium: ") == 1 and "Hormone: " not in lede
    assert ("No two arms were told apart." in page) is ("Arms that share a number" not in page)
    alike = lines("medium,rooted", ("grit", 9, 20), ("bark", 8, 20), ("sand", 9, 20))
    page = flat(client.get(bring(client, alike).headers["Location"]).text)
    assert "No two arms were told apart." in page and "Arms that share a number" not in page


def seen(client: FlaskClient, path: str) -> str:
    """What a page says, without its marks."""
    return " ".join(BeautifulSoup(client.get(path).text, "html.parser").get_text(" ").split())


def test_what_nobody_wrote_down_is_not_reported(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    bring(
        client,
        "medium,strength,rooted\n"
        + "".join(f"grit,{s},{int(i < k)}\n" for s, k in ((0, 3), (2000, 18)) for i in range(20)),
        factors="strength",
    )
    report = seen(client, f"/trials/{session.scalars(select(Trial.id)).one()}/report")
    assert "Held the same nothing described" in report and "60 mL" not in report
    for name in ("Root number", "Longest root", "Fit to pot on", "Days to root"):
        assert re.search(rf"{name} [a-z ,0-9-]+ not recorded", report), name
    assert "rooted only" not in report and "Alive of stuck 20 of 20" in report
    assert "no roots, not dead" in report
    page = seen(client, f"/trials/{session.scalars(select(Trial.id)).one()}/conclude")
    assert "Strength 2000 rooted more than strength 0: 18 of 20 rooted against 3 of 20." in page
    bring(
        client, "medium,rooted,roots\n" + "".join(f"{m},1,{i % 5 + 1}\n" for m in ("grit", "bark") for i in range(12))
    )
    last = session.scalars(select(Trial.id).order_by(Trial.id.desc())).first()
    told = seen(client, f"/trials/{last}/report")
    assert (
        "Root number mean per cutting counted 2" in told
        and "Longest root mean mm per cutting measured not recorded" in told
    )


def test_cuttings_across_and_merged_cells_come_in_as_trays(session: Session, sign_in: SignIn) -> None:
    """The eight trays above, with their cuttings side by side and the medium in a merged cell."""
    trays = [(m, n, k) for m, counts in (("grit", (9, 8, 10, 7)), ("bark", (3, 1, 2, 4))) for n, k in zip((10, 10, 10, 8), counts, strict=True)]  # fmt: skip
    sheet = "medium," + ",".join(f"c{i}" for i in range(1, 11)) + "\n"
    for at, (medium, n, k) in enumerate(trays):
        cells = ["y" if i < k else "n" for i in range(n)] + [""] * (10 - n)
        sheet += f"{medium if at % 4 == 0 else ''},{','.join(cells)}\n"
    client = sign_in()
    assert bring(client, TRAYS).status_code == bring(client, sheet).status_code == 303
    tally, across = (evidence(session, trial).analysis for trial in session.scalars(select(Trial).order_by(Trial.id)))
    assert tally is not None and across is not None and across.test.p == tally.test.p
    assert [(a.rooted, a.stuck) for a in across.arms] == [(a.rooted, a.stuck) for a in tally.arms]
    assert len({row.unit for row in across.observations.rows}) == 8
