"""After a score the bench is read in few statements: it is the bench as a whole reading has it."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.core.score.on_table import Pile
from orderly_bench.core.vocabulary import KnownBy, Roots, Score, State
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import CheckVisit, Cutting, Trial
from orderly_bench.trial.progress import progress_around, progress_of
from tests.factories import BARE, DAY_ZERO, NOW, ROOTED, TODAY, create_person, create_stuck, open_endpoint

DEAD = replace(BARE, state=State.DEAD)
MISSING = Score(State.MISSING, Roots.NOT_LOOKED)
SEEN = replace(ROOTED, roots=Roots.SEEN, root_number=None)


@pytest.fixture
def bench(session: Session) -> tuple[Trial, CheckVisit, list[Cutting]]:
    """The endpoint of sixteen, of which the first died and the second was not found at an earlier check; another trial beside it."""
    actor = create_person(session)
    medium = [("medium", "medium", ["grit", "pumice"])]
    other = create_stuck(session, actor, factors=medium, cuttings_per_arm="8")
    score.keep_score(session, open_endpoint(session, other, actor), other.units[0].cuttings[0], actor, NOW, ROOTED)
    trial = create_stuck(session, actor, factors=medium, cuttings_per_arm="8")
    cuttings = [cutting for unit in trial.units for cutting in unit.cuttings]
    first = checks_of(session, trial)[0]
    day = DAY_ZERO + timedelta(days=first.planned_das)
    score.open_check(session, first, actor, NOW, score.Looking(day, KnownBy.LIFTED.value), TODAY)
    for cutting in cuttings:
        found = DEAD if cutting is cuttings[0] else MISSING if cutting is cuttings[1] else ROOTED
        score.keep_score(session, first, cutting, actor, NOW, found)
    score.close_check(session, first, actor, NOW)
    return trial, open_endpoint(session, trial, actor), cuttings


def test_it_is_the_bench_as_a_whole_reading_has_it(
    session: Session, bench: tuple[Trial, CheckVisit, list[Cutting]]
) -> None:
    _, check, cuttings = bench
    scorer = create_person(session, "scorer")
    for cutting, found in zip(cuttings[2:], (ROOTED, BARE, DEAD, MISSING, SEEN, ROOTED, ROOTED), strict=False):
        score.keep_score(session, check, cutting, scorer, NOW, found)
    assert score.take_back(session, check, scorer, NOW) is cuttings[8]
    score.keep_score(session, check, cuttings[7], scorer, NOW, BARE, score.Sent(seen_revision=1, reason="looked again"))
    lies = [Pile.ROOTED, Pile.BIN, Pile.BIN, Pile.NOT_FOUND, Pile.ROOTED, Pile.BIN]
    around = progress_around(session, check, (cuttings[7].id, 1))
    assert around.order == [(cutting.id, 1) for cutting in cuttings]
    assert around.lies == {(cutting.id, 1): pile for cutting, pile in zip(cuttings[2:8], lies, strict=True)}
    assert around.carried == {(cuttings[0].id, 1)}, "who was not found is looked for again"
    assert around.passed == [cuttings[1].id]
    whole = progress_of(session, check)
    for of in ("order", "kept", "lies", "carried", "tally", "piles", "passed", "newest"):
        assert getattr(around, of) == getattr(whole, of), of


def test_what_no_score_was_given_to_is_there_all_the_same(
    session: Session, bench: tuple[Trial, CheckVisit, list[Cutting]]
) -> None:
    _, check, cuttings = bench
    around = progress_around(session, check, (cuttings[3].id, 1))
    assert len(around.order) == 16 and around.kept == {} and around.tally.unaccounted == 15
