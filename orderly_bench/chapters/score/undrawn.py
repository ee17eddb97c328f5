"""What stands beside the trial is counted whole, or by the check of a trial of its own; it is never put among the arms."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload

from orderly_bench.core.errors import Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.question.undrawn_group import counted
from orderly_bench.core.score.undrawn import UndrawnCount, check_undrawn
from orderly_bench.core.stick.tally import Status
from orderly_bench.core.vocabulary import Score
from orderly_bench.record.gather import undrawn_counts
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import CheckVisit, Cutting, Person, SideCount, SideTrial, Trial
from orderly_bench.trial.progress import progress_of


def trials_of_undrawn(session: Session, trial: Trial) -> dict[str, Trial]:
    """Groups of a trial that are trials of their own."""
    query = select(SideTrial).where(SideTrial.trial_id == trial.id).options(joinedload(SideTrial.own))
    return {one.group: one.own for one in session.scalars(query)}


def keep_count(session: Session, trial: Trial, actor: Person, now: datetime, count: UndrawnCount, today: date) -> None:
    """Keep a count; one of the same group and day is put right by it. The same twice is kept once.

    Raises
    ------
    InvalidInput
        See `check_beside`.
    Refused
        Before anything is stuck, or of a group that is scored piece by piece.
    """
    if not trial.lots:
        raise Refused(_("Nothing is stuck yet, so nothing can be counted. Set the sticking day first."))
    own = trials_of_undrawn(session, trial).get(count.group)
    if own is not None:
        raise Refused(
            _(
                "{group} is scored piece by piece in {code}; its closed check counts it here.",
                group=count.group,
                code=own.code,
            )
        )
    check_undrawn(trial.plan, count, min(lot.day_zero.first for lot in trial.lots), today)
    _keep(session, trial, actor, now, count)


def _keep(session: Session, trial: Trial, actor: Person, now: datetime, count: UndrawnCount) -> None:
    known = {(one.group, one.day): one for one in undrawn_counts(session, trial)}
    before = known.get((count.group, count.day))
    if before == count:
        return
    session.add(
        SideCount(
            trial_id=trial.id, group=count.group, day=count.day, stuck=count.stuck, rooted=count.rooted, bare=count.bare,
            dead=count.dead, at=now, person_id=actor.id,
        )
    )  # fmt: skip
    session.flush()
    old = {"counted": before.words} if before else None
    record(session, actor, now, Action.COUNTED_BESIDE_THE_TRIAL, trial, old=old, new={"counted": count.words})


def count_there(session: Session, check: CheckVisit, actor: Person, now: datetime) -> None:
    """What the closed checks of a day after sticking found, lots together, goes to the trial that theirs stands beside."""
    beside = session.scalars(select(SideTrial).where(SideTrial.own_id == check.trial_id)).first()
    if beside is None:
        return
    closed = [one for one in check.trial.checks if one.closed_at and one.planned_das == check.planned_das]
    pieces: dict[int, list[Score]] = {}
    for spot in (spot for one in closed for spot in progress_of(session, one).spots):
        pieces.setdefault(spot.cutting, []).extend([spot.known] if spot.known else [])
    stuck = session.scalar(
        select(func.count(Cutting.id)).where(Cutting.trial_id == check.trial_id, Cutting.status == Status.STUCK.value)
    )
    day = max((one.day for one in closed if one.day), default=None)
    if day is None or not stuck:
        return
    found = counted(beside.group, day, stuck, pieces.values())
    if found.not_known < found.stuck:
        _keep(session, beside.trial, actor, now, found)
