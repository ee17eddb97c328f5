"""No key does two things on a page, wherever one looks and whatever is open there."""

from __future__ import annotations

import re

from bs4 import BeautifulSoup
from sqlalchemy import Connection, delete, select
from sqlalchemy.orm import Session

from orderly_bench.demo.tarn_head import load_demo
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import Lab, Person, Trial
from tests.web.conftest import client_of, make_app
from tests.web.test_language import PAGES

#: Taken by every page that has what they are for.
OF_THE_PAGE = {"?"}


def doubled(page: str) -> dict[str, list[str]]:
    """Keys of a page that two things answer to; a line of jobs answers to its own key when it is picked."""
    found: dict[str, list[str]] = {}
    soup = BeautifulSoup(page, "html.parser")
    for one in soup.select("[data-key]"):
        if not one.find_parent(attrs={"data-job": True}):
            found.setdefault(str(one["data-key"]).lower(), []).append(
                str(one.get("data-say") or one.get_text(strip=True))
            )
    if soup.select("[data-job]"):
        for key in "jkdz":
            found.setdefault(key, []).append("the jobs")
    return {key: does for key, does in found.items() if len(does) > 1 or key in OF_THE_PAGE}


def test_no_key_does_two_things_on_any_page(connection: Connection, session: Session) -> None:
    app = make_app(connection, DEMO=True)
    session.execute(delete(Lab))
    load_demo(session)
    session.commit()
    client = client_of(app, session.scalars(select(Person).where(Person.role == "lead")).one())
    trials = sorted(int(n) for n in set(re.findall(r"/trials/(\d+)/", client.get("/trials").text)))
    checks = [c for n in trials for c in checks_of(session, session.get_one(Trial, n)) if c.scores]
    pads = [f"/trials/{c.trial_id}/score?check={c.id}&cutting={c.scores[0].cutting_id}" for c in checks]
    assert pads
    keys = 0
    for path in [*(path.format(*trials) for path in PAGES), *pads, "/sums", "/away", "/along"]:
        answer = client.get(path, follow_redirects=True)
        assert answer.status_code == 200, path
        keys += answer.text.count("data-key=")
        assert doubled(answer.text) == {}, path
    assert keys > 150


def test_the_measure_sees_two() -> None:
    assert doubled('<a data-key="g" data-say="Today"></a><input data-key="G" data-say="longest root">') == {
        "g": ["Today", "longest root"]
    }
