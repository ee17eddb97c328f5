"""Who is away when, who covers, and what falls into those days."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.away import Care, check_away
from orderly_bench.trial.access import Act, may
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.care import first_days, title_of
from orderly_bench.trial.models import Away, Job, Person, Trial

LONGEST_NOTE = 500


def say_away(
    session: Session, actor: Person, now: datetime, first: date, last: date, cover: Person | None, note: str = ""
) -> Away:
    """Keep that one is away oneself, and who covers.

    Raises
    ------
    InvalidInput
        Days that can't be, oneself or someone who may not tend as cover, a long note.
    """
    check_away(first, last)
    if cover is not None and (cover.id == actor.id or not cover.active or not may(cover, Act.TEND)):
        raise InvalidInput("who covers", _("choose another person who may tend"), cover.name)
    if len(note) > LONGEST_NOTE:
        raise InvalidInput("note", _("keep it within {n} characters", n=str(LONGEST_NOTE)), f"{len(note)} characters")
    made = Away(
        person_id=actor.id,
        first_day=first,
        last_day=last,
        cover_id=cover.id if cover else None,
        note=note.strip(),
        at=now,
    )
    session.add(made)
    session.flush()
    new = {"first": str(first), "last": str(last), "cover": cover.id if cover else None}
    record(session, actor, now, Action.SAID_WHO_IS_AWAY, new=new)
    return made


def take_back(session: Session, actor: Person, now: datetime, away: Away) -> None:
    """One's own days away come to nothing."""
    if away.person_id != actor.id:
        raise Refused(_("Whose days these are takes them back."))
    if not away.withdrawn:
        away.withdrawn = True
        record(
            session,
            actor,
            now,
            Action.TOOK_BACK_WHO_IS_AWAY,
            old={"first": str(away.first_day), "last": str(away.last_day)},
        )


def away_now(session: Session, today: date) -> list[Away]:
    """Days away that are not over, the soonest first."""
    query = select(Away).where(Away.last_day >= today, Away.withdrawn.is_(False)).order_by(Away.first_day, Away.id)
    return list(session.scalars(query.options(joinedload(Away.person), joinedload(Away.cover))))


def care_of_trials(session: Session, trials: Sequence[Trial], hidden: bool) -> list[Care]:
    """Each kind of care of trials that are loaded with waves and lots: its days and when it was last done; no arm where those are hidden."""
    of_trial = {trial.id: trial for trial in trials}
    jobs = select(Job).where(Job.trial_id.in_(of_trial), Job.skipped == "").options(joinedload(Job.wave))
    due: dict[tuple[str, str], list[date]] = {}
    done: dict[tuple[str, str], date] = {}
    for job in session.scalars(jobs):
        trial = of_trial[job.trial_id]
        first = first_days(trial).get(job.wave_id)
        if first is None:
            continue
        key = trial.code, title_of(trial, job, hidden)
        due.setdefault(key, []).append(first + timedelta(days=job.due_das))
        if job.done_on is not None:
            done[key] = max(done.get(key, job.done_on), job.done_on)
    return [
        Care(code, title, tuple(sorted(set(days))), done.get((code, title)))
        for (code, title), days in sorted(due.items())
    ]
