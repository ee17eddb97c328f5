"""The way of looking of a whole check is put right with a reason, score by score, or not at all."""

from __future__ import annotations

from dataclasses import replace

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.score.correcting import correct_way
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.vocabulary import KnownBy, Roots, Score, State
from orderly_bench.trial.models import AuditEntry, CheckVisit, Person, ScoreRecord, Trial
from tests.factories import NOW, ROOTED, create_finished, create_person, create_stuck, evidence, open_endpoint

SEEN = Score(State.ALIVE, Roots.SEEN, known_by=KnownBy.LIFTED)


def standing(session: Session, check: CheckVisit) -> list[ScoreRecord]:
    return session.query(ScoreRecord).filter_by(check_id=check.id, current=1).order_by(ScoreRecord.cutting_id).all()


def test_every_score_known_that_way_is_corrected_and_the_old_one_kept(session: Session) -> None:
    trial, check, actor = opened(session)
    seen = [score.keep_score(session, check, trial.units[n].cuttings[0], actor, NOW, ROOTED) for n in range(3)]
    own = replace(ROOTED, known_by=KnownBy.SCRAPED)
    score.keep_score(session, check, trial.units[3].cuttings[0], actor, NOW, own)
    assert correct_way(session, check, actor, NOW, KnownBy.WALL, "the tray was never lifted") == 3
    after = standing(session, check)
    assert check.way == KnownBy.WALL
    assert sorted(s.known_by for s in after) == [KnownBy.SCRAPED, *[KnownBy.WALL] * 3]
    assert {(s.root_number, s.state) for s in after} == {(ROOTED.root_number, ROOTED.state)}
    assert {s.reason for s in after} == {"", "the tray was never lifted"}
    assert all(session.get_one(ScoreRecord, old.id).current is None for old in seen), "the old scores stay on record"
    entry = session.query(AuditEntry).filter_by(action="corrected the way of looking").one()
    assert (entry.old["way"], entry.new["way"], entry.why) == (
        "lifted and counted",
        "through the wall",
        "the tray was never lifted",
    )


def test_after_the_close_the_evidence_speaks_of_the_way_as_it_was(session: Session) -> None:
    lead = create_person(session)
    trial = create_finished(session, lead, create_person(session, "scorer"))
    check = next(check for check in trial.checks if check.is_endpoint)
    scores = len(standing(session, check))
    assert correct_way(session, check, lead, NOW, KnownBy.WALL, "never lifted") == scores
    found = evidence(session, trial)
    assert found.check.way == KnownBy.WALL
    assert {way for arm in found.known_by.values() for way in arm} == {KnownBy.WALL.value}


@pytest.mark.parametrize(
    ("way", "why", "says"),
    [
        ("by ear", "x", "choose one of"),
        (KnownBy.TUG, " ", "say why"),
        (KnownBy.TUG, "x" * 301, "300"),
        (KnownBy.LIFTED, "x", "is that already"),
    ],
)
def test_what_it_can_not_be_is_refused(session: Session, way: str, why: str, says: str) -> None:
    trial, check, actor = opened(session)
    with pytest.raises(InvalidInput, match=says):
        correct_way(session, check, actor, NOW, way, why)


def test_a_score_that_can_not_be_known_that_way_is_named(session: Session) -> None:
    trial, check, actor = opened(session)
    cutting = trial.units[0].cuttings[0]
    score.keep_score(session, check, cutting, actor, NOW, ROOTED)
    with pytest.raises(InvalidInput, match=f"{cutting.code}.*Correct that score first"):
        correct_way(session, check, actor, NOW, KnownBy.TUG, "only tugged")
    assert check.way == KnownBy.LIFTED


def opened(session: Session) -> tuple[Trial, CheckVisit, Person]:
    actor = create_person(session)
    trial = create_stuck(session, actor)
    return trial, open_endpoint(session, trial, actor), actor
