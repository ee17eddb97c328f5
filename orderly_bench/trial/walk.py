"""The walk: where a trial stands, chapter by chapter, derived from facts."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.core.messages.words import tell
from orderly_bench.core.stick.tally import Status
from orderly_bench.core.tend.schedule import days_after_sticking
from orderly_bench.trial.blindness import endpoint_closed
from orderly_bench.trial.models import CheckVisit, Conclusion, Cutting, Trial


class TrialState(StrEnum):
    """Derived from facts, changed by guarded verbs."""

    ASKING = "question open"
    DESIGNING = "being designed"
    LOCKED = "locked"
    STICKING = "sticking"
    GROWING = "growing"
    CHECK_OPEN = "check open"
    ENDPOINT_CLOSED = "endpoint closed"
    CONCLUDED = "concluded"


@dataclass(frozen=True)
class Leaf:
    """One leaf of the folding rule: chapter, a few words, and open | needs you | locked | done."""

    chapter: str
    note: str
    state: str


@dataclass(frozen=True)
class Facts:
    """The facts a trial's state is derived from."""

    state: TrialState
    planned: int
    stuck: int
    decided: int
    checks: list[CheckVisit]
    das: int | None
    concluded: bool
    planned_checks: int = 0

    @property
    def open_check(self) -> CheckVisit | None:
        """The check that is open now."""
        return next((check for check in self.checks if check.is_open), None)

    @property
    def endpoint(self) -> CheckVisit | None:
        """The endpoint check."""
        return next((check for check in self.checks if check.is_endpoint), None)


def facts(session: Session, trial: Trial, today: date) -> Facts:
    """Gather the facts in a few small queries."""
    counts = _counts(session, trial)
    planned, stuck = sum(counts.values()), counts.get(Status.STUCK, 0)
    checks = sorted(trial.checks, key=lambda check: (check.planned_das, check.lot_id))
    planned_checks = len(checks) or len(trial.planned_checks)
    concluded = session.scalar(select(Conclusion.id).where(Conclusion.trial_id == trial.id).limit(1)) is not None
    das = days_after_sticking(today, trial.day_zero) if trial.day_zero else None
    judged = any(check.is_endpoint and check.closed_at for check in checks) and endpoint_closed(session, trial)
    state = _state(trial, stuck, checks, concluded, judged)
    decided = stuck + counts.get(Status.NOT_STUCK, 0)
    return Facts(state, planned, stuck, decided, checks, das, concluded, planned_checks)


def _counts(session: Session, trial: Trial) -> dict[str, int]:
    """Planned places by what became of them; replacements are no planned places."""
    units = trial.__dict__.get("units")
    if units and "cuttings" in units[0].__dict__:
        return Counter(c.status for unit in units for c in unit.cuttings if c.replaces_id is None)
    query = select(Cutting.status, func.count()).where(Cutting.trial_id == trial.id, Cutting.replaces_id.is_(None))
    return {status: number for status, number in session.execute(query.group_by(Cutting.status))}


def _state(trial: Trial, stuck: int, checks: list[CheckVisit], concluded: bool, judged: bool) -> TrialState:
    if concluded:
        return TrialState.CONCLUDED
    if judged:
        return TrialState.ENDPOINT_CLOSED
    if any(check.is_open for check in checks):
        return TrialState.CHECK_OPEN
    if trial.anything_stuck:
        return TrialState.GROWING
    if stuck:
        return TrialState.STICKING
    if trial.locked_at:
        return TrialState.LOCKED
    return TrialState.DESIGNING if trial.arms else TrialState.ASKING


def leaves(trial: Trial, known: Facts) -> list[Leaf]:
    """The eight leaves, in order."""
    locked_on = tell("locked {locked_at:%-d %b}", locked_at=trial.locked_at) if trial.locked_at else ""
    closed = sum(1 for check in known.checks if check.closed_at)
    state = known.state
    after_lock = trial.locked_at is not None
    grown = trial.sticking_done_at is not None
    judged = state in (TrialState.ENDPOINT_CLOSED, TrialState.CONCLUDED)
    return [
        Leaf("Question", "locked" if locked_on else "open", "locked" if locked_on else _when(not trial.arms)),
        Leaf(
            "Design",
            locked_on or ("drawn" if trial.draws else "open"),
            "locked" if locked_on else _when(bool(trial.arms)),
        ),
        Leaf(
            "Prepare",
            "ready" if trial.prepared_at else "",
            "done" if trial.prepared_at else _when(after_lock and not known.stuck),
        ),
        Leaf(
            "Stick",
            tell("{stuck} of {planned}", stuck=known.stuck, planned=known.planned) if after_lock else "",
            "done" if grown else _when(after_lock),
        ),
        Leaf("Tend", tell("day {das}", das=known.das) if known.das is not None else "", "done" if judged else "open"),
        Leaf("Score", _score_note(known, closed), "done" if judged else _when(known.open_check is not None)),
        Leaf("Compare", "" if not judged else "ready", "done" if state is TrialState.CONCLUDED else _when(judged)),
        Leaf("Conclude", "concluded" if known.concluded else "", "done" if known.concluded else _when(judged)),
    ]


def _when(needed: bool) -> str:
    return "needs you" if needed else "open"


def _score_note(known: Facts, closed: int) -> str:
    if known.open_check:
        return tell("day {planned_das} check open", planned_das=known.open_check.planned_das)
    return (
        tell("{closed} of {planned_checks} checks", closed=closed, planned_checks=known.planned_checks)
        if known.planned_checks
        else ""
    )
