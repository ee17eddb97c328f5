"""Makers of people and trials at every stage, through the operations."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from itertools import count

from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.question import operations as question
from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.stick import operations as stick
from orderly_bench.core.plan.treatments import Container
from orderly_bench.core.vocabulary import KnownBy, LayoutKind, Roots, Score, State, Top
from orderly_bench.evidence.verdict import Evidence, evidence_at
from orderly_bench.record.gather import gather
from orderly_bench.trial.models import CheckVisit, Lot, Person, Trial

NOW = datetime(2026, 5, 20, 9, 0, tzinfo=UTC)
TODAY = NOW.date()
DAY_ZERO = TODAY - timedelta(days=42)
LOCKED = NOW - timedelta(days=43)
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
        margin_points=15.0, stop_rule="", care_task="Mist", care_every_days=7, fit_least_roots=3,
        fit_least_mm=10.0, blind=True,
    )  # fmt: skip
    values.update(changes)
    return question.QuestionValues(**values)


def design_values(trial: Trial, **changes: object) -> design.DesignValues:
    values: dict = dict(
        arms=list(design.possible_arms(trial.plan.treatments)), control="", cuttings_per_arm=4, layout=LayoutKind.COMPLETE_BLOCKS.value,
        blocks=2, gradient="warm to cool", bench="Bench 1", container=Container(rows=2, columns=4), assumed_rates=None,
    )  # fmt: skip
    sides = {side: int(changes.pop(f"tray_{side}")) for side in ("rows", "columns") if f"tray_{side}" in changes}
    values["container"] = replace(values["container"], **sides)
    if changes.get("whole_factor"):
        named = {a.name: a.id for a in trial.plan.treatments.asked}
        changes["whole_factor"] = named.get(str(changes["whole_factor"]), changes["whole_factor"])
    for name in ("arms", "control"):
        if name in changes:
            changes[name] = keys_of(trial, changes[name])
    values.update(changes)
    return design.DesignValues(**values)


def keys_of(trial: Trial, named: object) -> object:
    """Keys of arms given by name; a name that is none stays as it is."""
    keys = {" + ".join(names): key for key, names in design.possible_arms(trial.plan.treatments).items()}
    return [keys.get(n, n) for n in named] if isinstance(named, list) else keys.get(str(named), named)


def create_trial(session: Session, actor: Person, **changes: object) -> Trial:
    trial = question.create_trial(session, actor, NOW, "Lavandula angustifolia")
    question.save_question(session, trial, actor, NOW, trial.version, question_values(**changes))
    return trial


def create_drawn(session: Session, actor: Person, seed: int = 5, **changes: object) -> Trial:
    trial = create_trial(session, actor, blind=changes.pop("blind", True))
    design.save_design(session, trial, actor, NOW, trial.version, design_values(trial, **changes))
    design.draw(session, trial, actor, NOW, seed)
    return trial


def evidence(session: Session, trial: Trial, day: int | None = None) -> Evidence:
    return evidence_at(gather(session, trial), day)


def add_lot(session: Session, trial: Trial, actor: Person, day: date = DAY_ZERO, **more: object) -> Lot:
    return stick.add_lot(session, trial, actor, NOW, trial.waves[0], stick.LotValues(day, **more), TODAY)


def create_locked(session: Session, actor: Person, **changes: object) -> Trial:
    trial = create_drawn(session, actor, **changes)
    locking.lock_plan(session, trial, actor, LOCKED)
    return trial


def create_stuck(session: Session, actor: Person, day: date = DAY_ZERO, **changes: object) -> Trial:
    trial = create_locked(session, actor, **changes)
    stick_all(session, trial, actor, day)
    return trial


def stick_all(session: Session, trial: Trial, actor: Person, day: date = DAY_ZERO) -> None:
    """Every wave stuck whole, in one lot each."""
    for wave in trial.waves:
        lot = stick.add_lot(session, trial, actor, NOW, wave, stick.LotValues(day), TODAY)
        for tray in [t for t in trial.trays if t.wave_id == wave.id]:
            stick.confirm_tray(session, trial, actor, NOW, tray.number, lot)
        stick.finish_sticking(session, trial, actor, NOW, wave)


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


def create_finished(
    session: Session, researcher: Person, scorer: Person, rooted_letters: str = "AB", **changes: object
) -> Trial:
    trial = create_stuck(session, researcher, **changes)
    check = open_endpoint(session, trial, researcher)
    score_all(session, trial, check, scorer, rooted_letters)
    score.close_check(session, check, researcher, NOW)
    return trial
