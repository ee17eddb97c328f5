"""Away: who covers, what would go undone without, and the page to hand over."""

from __future__ import annotations

from datetime import timedelta

import pytest
from sqlalchemy.orm import Session

from orderly_bench.trial.models import Away, Person
from tests.factories import TODAY, create_person, create_stuck
from tests.web.conftest import SignIn, flat

SOON, LATER = TODAY + timedelta(days=1), TODAY + timedelta(days=9)


@pytest.fixture
def scorer(session: Session) -> Person:
    """A scorer, and a trial that is misted every week."""
    create_stuck(session, create_person(session), TODAY - timedelta(days=10))
    made = create_person(session, "scorer")
    session.commit()
    return made


def sent(**more: str) -> dict[str, str]:
    return {"first_day": str(SOON), "last_day": str(LATER), "cover": "", "away_note": "key under the third pot", **more}


def test_what_nobody_covers_is_said_with_its_gap(session: Session, sign_in: SignIn, scorer: Person) -> None:
    client = sign_in(person=scorer)
    assert client.post("/away", data=sent()).status_code == 303
    page = flat(client.get("/away").text)
    assert "nobody covers" in page and "Mist: " in page and "days without" in page
    cover = create_person(session, "scorer", "Bo Tarn")
    session.commit()
    assert client.post("/away", data=sent(cover=str(cover.id))).status_code == 303
    assert flat(client.get("/away").text).count("days without") == page.count("days without")
    assert "Bo Tarn covers" in flat(client.get("/away").text)


def test_the_page_to_hand_over_has_what_falls_into_those_days(
    session: Session, sign_in: SignIn, scorer: Person
) -> None:
    client = sign_in(person=scorer)
    client.post("/away", data=sent())
    one = session.query(Away).one()
    page = flat(sign_in("reader").get(f"/away/{one.id}").text)
    assert "key under the third pot" in page and "Mist" in page and "For whoever covers" in page
    assert sign_in().get("/away/9999").status_code == 404


def test_only_who_is_away_takes_it_back(session: Session, sign_in: SignIn, scorer: Person) -> None:
    sign_in(person=scorer).post("/away", data=sent())
    number = str(session.query(Away).one().id)
    assert sign_in().post("/away/withdraw", data={"away_id": number}).status_code == 422
    assert sign_in(person=scorer).post("/away/withdraw", data={"away_id": number}).status_code == 303
    assert "Nobody is away" in sign_in().get("/away").text


@pytest.mark.parametrize(
    "wrong",
    [
        {"last_day": str(TODAY)},
        {"last_day": str(TODAY + timedelta(days=400))},
        {"cover": "9999"},
        {"away_note": "x" * 501},
        {"first_day": ""},
    ],
)
def test_what_cannot_be_is_refused_and_kept_in_the_form(
    session: Session, sign_in: SignIn, scorer: Person, wrong: dict[str, str]
) -> None:
    refused = sign_in(person=scorer).post("/away", data=sent(**wrong))
    assert refused.status_code in (404, 422) and session.query(Away).count() == 0
    assert sign_in(person=scorer).post("/away", data=sent(cover=str(scorer.id))).status_code == 422
    assert sign_in("reader").post("/away", data=sent()).status_code == 403
