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
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.part import Page, written_part
from orderly_bench.core.plan.table import Table, crossed, without_arm
from orderly_bench.core.typed import written
from orderly_bench.core.vocabulary import KnownBy, LayoutKind, Roots, Score, State, Top
from orderly_bench.evidence.verdict import Evidence, evidence_at
from orderly_bench.record.gather import gather
from orderly_bench.trial.checks import checks_of
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


FACTORS = [("medium", "medium", ["pumice", "bark"]), ("hormone", "hormone", ["IBA", "none"])]
#: What is said in the Question's table, before its arms are typed.
IN_TABLE = ("factors", "arms", "control")
USUAL = {
    "source": "bed 2", "sentence": "Does pumice root more?", "check_days": "14", "care_task": "Mist", "care_every_days": "7", "blind": "yes",
}  # fmt: skip


def crossed_table(factors: list = FACTORS, arms: list[str] | None = None, control: str = "") -> Table:
    """Every combination of the factors, or the arms of these names; the control by its name."""
    asked = [(AspectKind(kind), name, levels) for kind, name, levels in factors]
    table = crossed(asked)
    names = [" + ".join(line.values[i] for line in table.lines) for i in range(table.arms)]
    for i in reversed([i for i, name in enumerate(names) if arms is not None and name not in arms]):
        table = without_arm(table, i)
    left = [name for name in names if arms is None or name in arms]
    return replace(table, control=left.index(control) if control else None)


def question_form(trial: Trial, **changes: object) -> dict[str, str]:
    """The Question form as it stands beside its table, with what is typed into it."""
    return question.as_typed(trial.plan) | {name: written(value) for name, value in changes.items()}


def design_form(trial: Trial, **changes: object) -> dict[str, str]:
    """The Design form as it stands, with what is typed into it: text, or values that are written as the page would.

    ``container`` and ``own`` (by letter of the arm, its ``container`` among them) are written field by field; an aspect may be named.
    """
    form = design.as_typed(trial.plan) | {
        "cuttings_per_arm": "4", "layout": LayoutKind.COMPLETE_BLOCKS.value, "blocks": "2", "gradient": "warm to cool", "rows": "2",
    }  # fmt: skip
    form["columns"] = "4"
    named = {a.name: a.id for a in trial.plan.treatments.asked}
    for name, value in changes.items():
        if name == "container":
            form |= written_part(value, Page.DESIGN)
        elif name == "own":
            for letter, own in value.items():
                form |= {f"own_{letter}_{key}": written(it) for key, it in own.items() if key != "container"}
                form |= written_part(own["container"], Page.DESIGN, f"own_{letter}_") if "container" in own else {}
        elif name == "waves":
            form["waves"] = str(len(value))
            for n, (day, season) in enumerate(value, start=1):
                form |= {f"wave_{n}_planned_for": written(day), f"wave_{n}_season": season}
        else:
            form[name] = named.get(value, written(value)) if name == "whole_aspect" else written(value)
    return form


def save_question(session: Session, trial: Trial, actor: Person, at: datetime = NOW, **changes: object) -> None:
    """The question saved with this typed; its arms are crossed anew."""
    table = crossed_table(**{name: changes.pop(name) for name in IN_TABLE if name in changes})
    question.save_question(session, trial, actor, at, trial.version, question_form(trial, **changes), table)


def save_design(session: Session, trial: Trial, actor: Person, at: datetime = NOW, **changes: object) -> None:
    design.save_design(session, trial, actor, at, trial.version, design_form(trial, **changes))


def create_trial(session: Session, actor: Person, **changes: object) -> Trial:
    trial = question.create_trial(session, actor, NOW, "Lavandula angustifolia")
    save_question(session, trial, actor, **{**USUAL, **changes})
    return trial


def create_drawn(session: Session, actor: Person, seed: int = 5, **changes: object) -> Trial:
    trial = question.create_trial(session, actor, NOW, "Lavandula angustifolia")
    asked = {name: changes.pop(name) for name in [*question.as_typed(trial.plan), *IN_TABLE] if name in changes}
    save_question(session, trial, actor, **{**USUAL, **asked})
    save_design(session, trial, actor, **changes)
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
    check = checks_of(session, trial)[-1]
    score.open_check(session, check, actor, NOW, score.Looking(TODAY, KnownBy.LIFTED.value), TODAY)
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
