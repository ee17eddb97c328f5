"""What looked dead, or could not be told, is looked at again before anything is written off: Today says when."""

from __future__ import annotations

from datetime import timedelta

import pytest
from bs4 import BeautifulSoup
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.vocabulary import KnownBy, Roots, Score, State
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import CheckVisit, PlantEnd, Trial
from orderly_bench.trial.second_looks import after_checks
from tests.factories import NOW, ROOTED, TODAY, create_finished, create_person, create_stuck
from tests.web.conftest import SignIn, flat

DOUBTFUL = {
    0: Score(State.LOOKS_DEAD, Roots.NONE),
    1: Score(State.LOOKS_DEAD, Roots.NOT_LOOKED),
    2: Score(State.CANNOT_TELL, Roots.NOT_LOOKED),
}


def looked(session: Session, trial: Trial, check: CheckVisit, found: dict[int, Score]) -> None:
    lead = create_person(session)
    for n, unit in enumerate(trial.units):
        score.keep_score(session, check, unit.cuttings[0], lead, NOW, found.get(n, ROOTED))
    score.close_check(session, check, lead, NOW)
    session.commit()


@pytest.fixture
def trial(session: Session) -> Trial:
    """A first look four days ago that left three open."""
    lead = create_person(session)
    made = create_stuck(session, lead, TODAY - timedelta(days=14))
    check = checks_of(session, made)[0]
    score.open_check(session, check, lead, NOW, score.Looking(TODAY - timedelta(days=4), KnownBy.LIFTED.value), TODAY)
    looked(session, made, check, DOUBTFUL)
    return made


def test_today_says_how_many_since_when_and_from_which_day(session: Session, sign_in: SignIn, trial: Trial) -> None:
    page = flat(sign_in("scorer").get("/today").text)
    assert "To be looked at again" in page
    assert (
        f"2 looks dead and 1 cannot tell yet on {TODAY - timedelta(days=4):%-d %b}" in page
        and "look again in 3 days" in page
    )
    (one,) = after_checks(session, [trial], TODAY + timedelta(days=3)).again
    assert (
        one.when(TODAY + timedelta(days=3)) == "look again today"
        and one.when(TODAY + timedelta(days=5)) == "due 2 days ago"
    )
    assert after_checks(session, [trial], TODAY - timedelta(days=5)).again == [], "not yet"


def test_the_next_look_takes_its_place(session: Session, trial: Trial) -> None:
    lead = create_person(session)
    check = checks_of(session, trial)[-1]
    score.open_check(session, check, lead, NOW, score.Looking(TODAY, KnownBy.LIFTED.value, "the frost came"), TODAY)
    session.expire_all()
    assert after_checks(session, [trial], TODAY).again == [], "it is being looked at"
    looked(session, trial, check, {})
    assert after_checks(session, [trial], TODAY).again == []


def test_rooted_plants_stand_on_today_until_their_end_is_written(session: Session, sign_in: SignIn) -> None:
    trial = create_finished(session, create_person(session), create_person(session, "scorer"))
    rooted = [unit.cuttings[0] for unit in trial.units if unit.arm.letter in "AB"]
    (one,) = after_checks(session, [trial], TODAY).standing
    assert (one.trial.id, one.rooted, one.since) == (trial.id, len(rooted), TODAY)
    page = flat(BeautifulSoup(sign_in().get("/today").text, "html.parser").get_text(" "))
    assert f"{len(rooted)} rooted plants stand since" in page and "Pot on, or say where they went" in page
    for cutting in rooted[1:]:
        session.add(
            PlantEnd(
                trial_id=trial.id,
                cutting_id=cutting.id,
                fate="potted on",
                day=TODAY,
                at=NOW,
                person_id=trial.created_by_id,
            )
        )
    session.flush()
    (one,) = after_checks(session, [trial], TODAY).standing
    assert one.rooted == 1 and "1 rooted plant stands since" in one.words
