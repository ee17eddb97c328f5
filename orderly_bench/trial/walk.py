"""The walk: where a trial stands, chapter by chapter, derived from facts."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from sqlalchemy import Select, exists, func, or_, select
from sqlalchemy.orm import Session, joinedload, selectinload

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.stick.tally import Status
from orderly_bench.core.tend.schedule import days_after_sticking
from orderly_bench.trial.blindness import closed_for_all, endpoint_closed
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
    GIVEN_UP = "closed without a verdict"


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
    """Gather the facts of one trial in a few small queries."""
    concluded = session.scalar(select(Conclusion.id).where(Conclusion.trial_id == trial.id).limit(1)) is not None
    closed = endpoint_closed(session, trial)
    planned = 0 if trial.checks else len(trial.planned_checks)
    return _facts(trial, _counts(session, trial), concluded, closed, today, planned)


def under_way() -> Select[Trial]:
    """Trials that nobody has concluded, oldest first."""
    return select(Trial).where(Trial.id.not_in(select(Conclusion.trial_id))).order_by(Trial.id)


def under_way_or_plants_again() -> Select[Trial]:
    """The same, and concluded ones whose plants have a day to be looked at again."""
    open_or_day = or_(Trial.id.not_in(select(Conclusion.trial_id)), Trial.plants_again.is_not(None))
    return select(Trial).where(open_or_day).order_by(Trial.id)


def trials_with_facts(session: Session, query: Select[Trial], today: date) -> list[tuple[Trial, Facts]]:
    """Trials with their facts, in as many queries for many as for one."""
    loaded = query.options(
        joinedload(Trial.waves), selectinload(Trial.lots), selectinload(Trial.checks).joinedload(CheckVisit.planned)
    )
    judged = exists().where(Conclusion.trial_id == Trial.id)
    found = session.execute(loaded.add_columns(judged)).unique().all()
    trials = [trial for trial, _ in found]
    ids = [trial.id for trial in trials]
    concluded = {trial.id for trial, is_concluded in found if is_concluded}
    rows = select(Cutting.trial_id, Cutting.status, Cutting.lot_id, func.count()).where(
        Cutting.trial_id.in_(ids), Cutting.replaces_id.is_(None)
    )
    counts: dict[int, Counter[str]] = {number: Counter() for number in ids}
    used: dict[int, set[int | None]] = {number: set() for number in ids}
    for trial_id, status, lot_id, number in session.execute(
        rows.group_by(Cutting.trial_id, Cutting.status, Cutting.lot_id)
    ):
        counts[trial_id][status] += number
        if status == Status.STUCK:
            used[trial_id].add(lot_id)
    return [
        (trial, _facts(trial, counts[trial.id], trial.id in concluded, closed_for_all(trial, used[trial.id]), today, 0))
        for trial in trials
    ]


def _facts(
    trial: Trial, counts: Mapping[str, int], concluded: bool, closed: bool, today: date, planned_checks: int
) -> Facts:
    planned, stuck = sum(counts.values()), counts.get(Status.STUCK, 0)
    checks = sorted(trial.checks, key=lambda check: (check.planned_das, check.lot_id))
    das = days_after_sticking(today, trial.day_zero) if trial.day_zero else None
    judged = any(check.is_endpoint and check.closed_at for check in checks) and closed
    state = _state(trial, stuck, checks, concluded, judged)
    decided = stuck + counts.get(Status.NOT_STUCK, 0)
    return Facts(state, planned, stuck, decided, checks, das, concluded, len(checks) or planned_checks)


def _counts(session: Session, trial: Trial) -> dict[str, int]:
    """Planned places by what became of them; replacements are no planned places."""
    units = trial.__dict__.get("units")
    if units and "cuttings" in units[0].__dict__:
        return Counter(c.status for unit in units for c in unit.cuttings if c.replaces_id is None)
    query = select(Cutting.status, func.count()).where(Cutting.trial_id == trial.id, Cutting.replaces_id.is_(None))
    return {status: number for status, number in session.execute(query.group_by(Cutting.status))}


def _state(trial: Trial, stuck: int, checks: list[CheckVisit], concluded: bool, judged: bool) -> TrialState:
    if concluded:
        return TrialState.CONCLUDED if judged else TrialState.GIVEN_UP
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
    return TrialState.DESIGNING if trial.plan.treatments.arms else TrialState.ASKING


def _concluded(known: Facts) -> str:
    if known.state is TrialState.GIVEN_UP:
        return "no verdict"
    return "concluded" if known.concluded else ""


def leaves(trial: Trial, known: Facts) -> list[Leaf]:
    """The eight leaves, in order."""
    locked_on = _("locked {locked_at:%-d %b}", locked_at=trial.locked_at) if trial.locked_at else ""
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
            _("{stuck} of {planned}", stuck=known.stuck, planned=known.planned) if after_lock else "",
            "done" if grown else _when(after_lock),
        ),
        Leaf("Tend", _("day {das}", das=known.das) if known.das is not None else "", "done" if judged else "open"),
        Leaf("Score", _score_note(known, closed), "done" if judged else _when(known.open_check is not None)),
        Leaf("Compare", "" if not judged else "ready", "done" if state is TrialState.CONCLUDED else _when(judged)),
        Leaf("Conclude", _concluded(known), "done" if known.concluded else _when(judged)),
    ]


def _when(needed: bool) -> str:
    return "needs you" if needed else "open"


def _score_note(known: Facts, closed: int) -> str:
    if known.open_check:
        return _("day {planned_das} check open", planned_das=known.open_check.planned_das)
    return (
        _("{closed} of {planned_checks:check|checks}", closed=closed, planned_checks=known.planned_checks)
        if known.planned_checks
        else ""
    )
