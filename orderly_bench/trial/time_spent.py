"""Minutes of work on a trial, kept as typed; put right by withdrawing an entry with a reason and writing it anew."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from orderly_bench.core.conclude.time_spent import Work, check_minutes
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.words import dated, shown, tell
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Person, TimeSpent, Trial


@dataclass(frozen=True)
class Told:
    """An entry as it is typed; ``arms`` are letters, none for all."""

    work: str
    day: date
    minutes: float
    arms: Sequence[str] = ()
    key: str | None = None


def spent_on(session: Session, trial: Trial) -> list[TimeSpent]:
    """All of a trial, the newest first."""
    query = select(TimeSpent).where(TimeSpent.trial_id == trial.id).options(joinedload(TimeSpent.person))
    return list(session.scalars(query.order_by(TimeSpent.day.desc(), TimeSpent.id.desc())))


def keep_time(session: Session, trial: Trial, actor: Person, now: datetime, told: Told, today: date) -> TimeSpent:
    """Keep an entry; the same request twice is kept once.

    Raises
    ------
    InvalidInput
        Work that is none, minutes that can't be, a day to come, an arm that there is not.
    """
    known = session.scalar(select(TimeSpent).where(TimeSpent.request_key == told.key)) if told.key else None
    if known is not None and known.trial_id == trial.id:
        return known
    if told.work not in list(Work):
        raise InvalidInput(tell("work"), tell("choose one of: {names}", names=", ".join(map(shown, Work))), told.work)
    if told.day > today:
        raise InvalidInput(tell("day"), tell("lies in the future; write what was done"), dated(told.day, "%d %b %Y"))
    wrong = [arm for arm in told.arms if arm not in {one.letter for one in trial.arms}]
    if wrong:
        raise InvalidInput(tell("arms"), tell("choose arms of this trial"), ", ".join(wrong))
    made = TimeSpent(
        trial_id=trial.id, work=told.work, day=told.day, minutes=check_minutes(told.minutes), arms=",".join(sorted(set(told.arms))), at=now,
        person_id=actor.id, request_key=told.key,
    )  # fmt: skip
    session.add(made)
    session.flush()
    record(
        session,
        actor,
        now,
        Action.KEPT_MINUTES,
        trial,
        new={"work": told.work, "minutes": told.minutes, "day": str(told.day)},
    )
    return made


def withdraw_time(session: Session, trial: Trial, actor: Person, now: datetime, one: TimeSpent, why: str) -> None:
    """It no longer counts, and says why; it stays on record."""
    if not 0 < len(why.strip()) <= 300:
        raise InvalidInput(tell("why it is withdrawn"), tell("say it within 300 characters"))
    if not one.withdrawn:
        one.withdrawn = why.strip()
        session.flush()
        record(
            session, actor, now, Action.WITHDREW_MINUTES, trial, new={"work": one.work, "minutes": one.minutes}, why=why
        )
