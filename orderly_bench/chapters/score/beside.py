"""What stands beside the trial is counted whole: kept with who and when, and never put among the arms."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy.orm import Session

from orderly_bench.core.errors import Refused
from orderly_bench.core.messages.words import tell
from orderly_bench.core.score.beside import BesideCount, check_beside
from orderly_bench.record.gather import beside_counts
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Person, SideCount, Trial


def keep_count(session: Session, trial: Trial, actor: Person, now: datetime, count: BesideCount, today: date) -> None:
    """Keep a count; one of the same group and day is put right by it. The same twice is kept once.

    Raises
    ------
    InvalidInput
        See `check_beside`.
    Refused
        Before anything is stuck.
    """
    if not trial.lots:
        raise Refused(tell("Nothing is stuck yet, so nothing can be counted. Set the sticking day first."))
    check_beside(trial.plan, count, min(lot.day_zero.first for lot in trial.lots), today)
    known = {(one.group, one.day): one for one in beside_counts(session, trial)}
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
