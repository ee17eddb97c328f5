"""A small trial from the least that fixes it: drawn, locked and given its day 0, so that it is never retrospective."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import date, datetime

from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.question import operations as question
from orderly_bench.chapters.stick import operations as stick
from orderly_bench.core.design.convincing import why_not
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.plan.table import Line, Table
from orderly_bench.core.question.at_once import AtOnce, read_at_once
from orderly_bench.stock.operations import weeks_expected
from orderly_bench.trial.models import Person, Trial


def read(session: Session, typed: Mapping[str, str]) -> AtOnce:
    """What was typed, with the weeks of the plant's method cards."""
    return read_at_once(dict(typed), weeks_expected(session, typed.get("plant", "")))


def stick_first(session: Session, actor: Person, now: datetime, today: date, asked: AtOnce, seed: int) -> Trial:
    """The trial: a rate of one way, a test of several where some outcome could convince, else a look."""
    trial = question.create_trial(session, actor, now, asked.plant)
    kind = TrialKind.RATE if len(asked.ways) == 1 else TrialKind.TEST
    _ask(session, trial, actor, now, asked, kind)
    units = {f"own_{arm.letter}_units": str(n) for arm, n in zip(trial.arms, asked.of_arm, strict=True)}
    form = design.as_typed(trial.plan) | {"cuttings_per_arm": str(asked.of_arm[0])}
    design.save_design(session, trial, actor, now, trial.version, form | (units if len(set(asked.of_arm)) > 1 else {}))
    design.draw(session, trial, actor, now, seed)
    if why_not(trial.plan):
        _ask(session, trial, actor, now, asked, TrialKind.LOOK)
    locking.lock_plan(session, trial, actor, now)
    stick.add_lot(session, trial, actor, now, trial.waves[0], stick.LotValues(today), today)
    return trial


def _ask(session: Session, trial: Trial, actor: Person, now: datetime, asked: AtOnce, kind: TrialKind) -> None:
    """Ask it as a trial of this kind."""
    form = question.as_typed(trial.plan) | {
        "kind": kind.value, "source": asked.source, "endpoint_day": str(asked.endpoint_day), "check_days": "",
    }  # fmt: skip
    line = Line(asked.differs, asked.differs.value, len(asked.ways) > 1, asked.ways)
    if asked.differs.value == "other":
        line = replace(line, name="way")
    question.save_question(session, trial, actor, now, trial.version, form, Table(len(asked.ways), (line,)))
