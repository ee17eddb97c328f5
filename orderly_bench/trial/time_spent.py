"""Minutes of work on a trial: typed, or read off the moments at which pieces were stuck and scored. Put right, or withdrawn, with a reason."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from orderly_bench.core.conclude.time_spent import Work, check_minutes, off_the_marks
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import CheckVisit, Cutting, Job, Lot, Person, ScoreRecord, TimeSpent, Trial


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
        raise InvalidInput(_("work"), _("choose one of: {names}", names=", ".join(map(_, Work))), told.work)
    if told.day > today:
        raise InvalidInput(_("day"), _("lies in the future; write what was done"), dated(told.day, "%d %b %Y"))
    arms = _arms_of(trial, told.arms)
    made = TimeSpent(
        trial_id=trial.id, work=told.work, day=told.day, minutes=check_minutes(told.minutes), arms=arms, at=now,
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


def _arms_of(trial: Trial, letters: Sequence[str]) -> str:
    """Letters as they are kept; blank for all."""
    wrong = [arm for arm in letters if arm not in {one.letter for one in trial.arms}]
    if wrong:
        raise InvalidInput(_("arms"), _("choose arms of this trial"), ", ".join(wrong))
    return ",".join(sorted(set(letters)))


def withdraw_time(session: Session, trial: Trial, actor: Person, now: datetime, one: TimeSpent, why: str) -> None:
    """It no longer counts, and says why; it stays on record."""
    if not 0 < len(why.strip()) <= 300:
        raise InvalidInput(_("why it is withdrawn"), _("say it within 300 characters"))
    if not one.withdrawn:
        one.withdrawn = why.strip()
        session.flush()
        record(
            session, actor, now, Action.WITHDREW_MINUTES, trial, new={"work": one.work, "minutes": one.minutes}, why=why
        )


def put_right(
    session: Session,
    trial: Trial,
    actor: Person,
    now: datetime,
    one: TimeSpent,
    right: tuple[float, Sequence[str] | None],
    why: str,
) -> None:
    """Other minutes than were kept, or for other arms (None: as they were), with a reason; the old ones stay on record."""
    minutes, arms = right
    if not 0 < len(why.strip()) <= 300:
        raise InvalidInput(_("why they are put right"), _("say it within 300 characters"))
    if one.withdrawn:
        raise Refused(_("These minutes were withdrawn. Write them down anew."))
    old = {"work": one.work, "minutes": one.minutes, "arms": one.arms}
    one.minutes, one.put_right = check_minutes(minutes), why.strip()
    one.arms = one.arms if arms is None else _arms_of(trial, arms)
    session.flush()
    record(
        session, actor, now, Action.PUT_MINUTES_RIGHT, trial, old=old,
        new={"minutes": one.minutes, "arms": one.arms}, why=why.strip(),
    )  # fmt: skip


def keep_for_job(session: Session, job: Job, actor: Person, now: datetime, minutes: float) -> None:
    """Minutes a care job took that was done; typed again they take the place of those before."""
    if job.done_on is None:
        raise Refused(_("This is not done. Mark it done first, then say how long it took."))
    known = session.scalar(select(TimeSpent).where(TimeSpent.job_id == job.id))
    if known is None:
        known = TimeSpent(trial_id=job.trial_id, work=Work.CARE, job_id=job.id, person_id=actor.id)
        session.add(known)
    known.day, known.minutes, known.arms, known.at, known.withdrawn = (
        job.done_on, check_minutes(minutes), job.arms, now, "",
    )  # fmt: skip
    session.flush()
    new = {"work": known.work, "minutes": minutes, "day": str(known.day), "job": job.title}
    record(session, actor, now, Action.KEPT_MINUTES, job.trial, new=new)


def keep_sticking(session: Session, lot: Lot, actor: Person, now: datetime) -> None:
    """What a person's pieces, stuck in lots of this day 0, say of the minutes it took."""
    marks = session.scalars(
        select(Cutting.stuck_at)
        .join(Lot, Cutting.lot_id == Lot.id)
        .where(Lot.trial_id == lot.trial_id, Lot.day_zero_first == lot.day_zero_first, Cutting.stuck_by_id == actor.id)
        .distinct()
    )
    minutes = off_the_marks([at for at in marks if at is not None])
    _keep_read(session, lot.trial_id, (Work.STICKING, actor.id, lot.day_zero_first), minutes, now)


def keep_check(session: Session, check: CheckVisit, now: datetime) -> None:
    """What the scores of a check say of the minutes it took, by person and day."""
    rows = session.execute(
        select(ScoreRecord.person_id, ScoreRecord.scored_on, ScoreRecord.at).where(ScoreRecord.check_id == check.id)
    )
    moments: dict[tuple[int, date], list[datetime]] = defaultdict(list)
    for person, day, at in rows:
        moments[person, day].append(at)
    for (person, day), each in sorted(moments.items()):
        _keep_read(session, check.trial_id, (Work.CHECK, person, day), off_the_marks(each), now)


def _keep_read(
    session: Session, trial_id: int, whose: tuple[Work, int, date], minutes: float | None, now: datetime
) -> None:
    """Minutes read off the marks; what a person put right or withdrew stays as it is."""
    work, person, day = whose
    mine = TimeSpent.trial_id == trial_id, TimeSpent.person_id == person, TimeSpent.work == work, TimeSpent.day == day
    known = session.scalar(select(TimeSpent).where(*mine, TimeSpent.off_the_marks))
    if minutes is None or (known is not None and (known.put_right or known.withdrawn)):
        return
    if known is None:
        known = TimeSpent(trial_id=trial_id, work=work, person_id=person, day=day, off_the_marks=True)
        session.add(known)
    known.minutes, known.at = minutes, now
    session.flush()
