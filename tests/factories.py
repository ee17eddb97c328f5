"""Makers of people and trials at every stage, through the operations."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from itertools import count

from sqlalchemy.orm import Session

from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.question import operations as question
from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.score.models import CheckVisit
from orderly_bench.chapters.stick import operations as stick
from orderly_bench.core.vocabulary import KnownBy, LayoutKind, Roots, Score, State, Top
from orderly_bench.trial.models import Person, Trial

NOW = datetime(2026, 5, 20, 9, 0, tzinfo=UTC)
TODAY = NOW.date()
DAY_ZERO = TODAY - timedelta(days=42)
_numbers = count(1)


def create_person(session: Session, role: str = "researcher", name: str | None = None) -> Person:
    number = next(_numbers)
    person = Person(
        name=name or f"{role.title()} {number}",
        sign_in_name=f"{role}{number}",
        role=role,
        password_hash="none",
        created_at=NOW,
    )
    session.add(person)
    session.flush()
    return person


def question_values(**changes: object) -> question.QuestionValues:
    values: dict = dict(
        kind="test", botanical_name="Lavandula angustifolia", cultivar="", source="bed 2", question="Does pumice root more?", why="",
        factors=[("medium", "medium", ["pumice", "bark"]), ("hormone", "hormone", ["IBA", "none"])], endpoint_day=42, check_days="14",
        margin_points=15.0, held_same="cells of 60 mL", stop_rule="", care_task="Mist", care_every_days=7, fit_least_roots=3,
        fit_least_mm=10.0, blind=True,
    )  # fmt: skip
    values.update(changes)
    return question.QuestionValues(**values)


def design_values(trial: Trial, **changes: object) -> design.DesignValues:
    values: dict = dict(
        arms=[" + ".join(c) for c in design.possible_arms(trial)], control="", cuttings_per_arm=4, layout=LayoutKind.COMPLETE_BLOCKS.value,
        blocks=2, gradient="warm to cool", bench="Bench 1", tray_rows=2, tray_columns=4, assumed_rates=None,
    )  # fmt: skip
    values.update(changes)
    return design.DesignValues(**values)


def create_trial(session: Session, actor: Person, **changes: object) -> Trial:
    trial = question.create_trial(session, actor, NOW, "Lavandula angustifolia")
    question.save_question(session, trial, actor, NOW, trial.version, question_values(**changes))
    return trial


def create_drawn(session: Session, actor: Person, seed: int = 5, **changes: object) -> Trial:
    trial = create_trial(session, actor)
    design.save_design(session, trial, actor, NOW, trial.version, design_values(trial, **changes))
    design.draw(session, trial, actor, NOW, seed)
    return trial


def create_locked(session: Session, actor: Person, **changes: object) -> Trial:
    trial = create_drawn(session, actor, **changes)
    design.lock_plan(session, trial, actor, NOW)
    return trial


def create_stuck(session: Session, actor: Person, day: date = DAY_ZERO, **changes: object) -> Trial:
    trial = create_locked(session, actor, **changes)
    stick.record_lot(session, trial, actor, NOW, day, False, "", TODAY)
    for tray in trial.trays:
        stick.confirm_tray(session, trial, actor, NOW, tray.number)
    stick.finish_sticking(session, trial, actor, NOW)
    return trial


def open_endpoint(session: Session, trial: Trial, actor: Person) -> CheckVisit:
    check = score.checks_of(session, trial)[-1]
    score.open_check(session, check, actor, NOW, TODAY, KnownBy.LIFTED.value, TODAY)
    return check


ROOTED = Score(State.ALIVE, Roots.COUNTED, 5, 20.0, top=Top.GROWING)
BARE = Score(State.ALIVE, Roots.NONE, top=Top.FRESH)


def score_all(session: Session, trial: Trial, check: CheckVisit, scorer: Person, rooted_letters: str = "AB") -> None:
    for unit in trial.units:
        found = ROOTED if unit.arm.letter in rooted_letters else BARE
        score.keep_score(session, check, unit.cuttings[0], scorer, NOW, found)


def create_finished(session: Session, researcher: Person, scorer: Person, rooted_letters: str = "AB") -> Trial:
    trial = create_stuck(session, researcher)
    check = open_endpoint(session, trial, researcher)
    score_all(session, trial, check, scorer, rooted_letters)
    score.close_check(session, check, researcher, NOW)
    return trial
