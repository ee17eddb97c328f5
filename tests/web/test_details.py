"""What else is said of roots and shoots, from the pad through the file to Compare."""

from __future__ import annotations

import csv
import io
from dataclasses import replace

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.score.details import DETAILS
from orderly_bench.trial.models import CheckVisit, ScoreRecord, Trial
from tests.factories import NOW, ROOTED, create_person, create_stuck, open_endpoint
from tests.web.conftest import SignIn, flat

SAID = {
    "thickness": "fine",
    "arise": "at a node",
    "ball_percent": "60",
    "colour": "white",
    "torn": "some",
    "washed": "yes",
    "shoot_below": "no",
}
PAD = {"state": "alive", "roots": "counted", "root_number": "4", "fit": "not judged", "revision": "0"}


@pytest.fixture
def there(session: Session) -> tuple[Trial, CheckVisit]:
    lead = create_person(session)
    trial = create_stuck(session, lead, factors=[("medium", "medium", ["bark", "pumice"])], cuttings_per_arm="8")
    check = open_endpoint(session, trial, lead)
    session.commit()
    return trial, check


def test_the_pad_keeps_and_shows_them_and_refuses_what_nobody_saw(
    session: Session, sign_in: SignIn, there: tuple[Trial, CheckVisit]
) -> None:
    trial, check = there
    client, cutting = sign_in("scorer"), str(trial.units[0].cuttings[0].id)
    refused = client.post(
        f"/checks/{check.id}/scores", data=PAD | SAID | {"cutting": cutting, "roots": "none", "root_number": ""}
    )
    assert refused.status_code == 422 and "none were seen" in flat(refused.text)
    assert session.scalar(select(ScoreRecord.id)) is None
    assert (
        client.post(f"/checks/{check.id}/scores", data=PAD | SAID | {"cutting": cutting, "torn": "a bit"}).status_code
        == 422
    )
    assert client.post(f"/checks/{check.id}/scores", data=PAD | SAID | {"cutting": cutting}).status_code == 303
    assert session.scalars(select(ScoreRecord)).one().details == SAID
    page = BeautifulSoup(client.get(f"/trials/{trial.id}/score?check={check.id}&cutting={cutting}").text, "html.parser")
    shown = {
        one: page.select_one(f"[data-pad] select[name='{one}'] option[selected]")
        for one in SAID
        if one != "ball_percent"
    }
    assert {name: option["value"] for name, option in shown.items() if option} == {
        k: v for k, v in SAID.items() if k != "ball_percent"
    }
    assert page.select_one("[data-pad] [name='ball_percent']")["value"] == "60"


def test_they_go_out_and_come_in_by_the_file_unchanged_and_stand_by_arm(
    session: Session, sign_in: SignIn, there: tuple[Trial, CheckVisit]
) -> None:
    trial, check = there
    scorer = create_person(session, "scorer")
    for unit in trial.units:
        torn = "many" if unit.arm.letter == "A" else "no"
        said = replace(ROOTED, details=(("colour", "white"), ("torn", torn)))
        score.keep_score(session, check, unit.cuttings[0], scorer, NOW, said)
    session.commit()
    client = sign_in("researcher")
    text = client.get(f"/trials/{trial.id}/scores.csv").get_data(as_text=True)
    rows = [row for row in csv.DictReader(io.StringIO(text.lstrip("\ufeff"))) if row["state"] != "unaccounted"]
    assert {row["colour"] for row in rows} == {"white"} and {row["torn"] for row in rows} == {"many", "no"}
    assert list(rows[0])[-len(DETAILS) :] == [detail.name for detail in DETAILS]
    back = client.post(
        f"/checks/{check.id}/file",
        data={"file": (io.BytesIO(text.encode()), "scores.csv"), "file_why": ""},
        content_type="multipart/form-data",
    )
    assert back.status_code == 303 and "new=0&corrected=0" in back.location
    score.close_check(session, check, create_person(session), NOW)
    session.commit()
    more = flat(client.get(f"/trials/{trial.id}/compare/more").text)
    assert "white 8 of 8 judged" in more and "many 8 of 8 judged" in more
    for page in ("compare", "conclude", "report"):
        assert "Roots were torn in lifting in 8 of 8" in flat(client.get(f"/trials/{trial.id}/{page}").text), page
