"""What looked dead, or could not be told, is looked at again before anything is written off: Today says when."""

from __future__ import annotations

from datetime import timedelta

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.vocabulary import KnownBy, Roots, Score, State
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import CheckVisit, Trial
from orderly_bench.trial.second_looks import looks_again
from tests.factories import NOW, ROOTED, TODAY, create_person, create_stuck
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
    (one,) = looks_again(session, [trial], TODAY + timedelta(days=3))
    assert (
        one.when(TODAY + timedelta(days=3)) == "look again today"
        and one.when(TODAY + timedelta(days=5)) == "due 2 days ago"
    )
    assert looks_again(session, [trial], TODAY - timedelta(days=5)) == [], "not yet"


def test_the_next_look_takes_its_place(session: Session, trial: Trial) -> None:
    lead = create_person(session)
    check = checks_of(session, trial)[-1]
    score.open_check(session, check, lead, NOW, score.Looking(TODAY, KnownBy.LIFTED.value, "the frost came"), TODAY)
    session.expire_all()
    assert looks_again(session, [trial], TODAY) == [], "it is being looked at"
    looked(session, trial, check, {})
    assert looks_again(session, [trial], TODAY) == []
