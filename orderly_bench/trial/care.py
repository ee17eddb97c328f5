"""A trial's care as the core takes it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.tend.care import CareDay
from orderly_bench.core.tend.schedule import care_days as care_lasting
from orderly_bench.core.tend.schedule import rule_days
from orderly_bench.trial.models import Job, Trial, Wave


def first_days(trial: Trial) -> dict[int, date]:
    """Of each wave that is stuck, by its id, the first day 0 of its lots: care counts from it."""
    stuck = {wave.id for wave in trial.waves if wave.sticking_done_at is not None}
    found: dict[int, date] = {}
    for lot in trial.lots:
        if lot.wave_id in stuck:
            found[lot.wave_id] = min(found.get(lot.wave_id, lot.day_zero.middle), lot.day_zero.middle)
    return found


def title_of(trial: Trial, job: Job, hidden: bool = False) -> str:
    """What a job is called: with its arms, unless they are hidden, and its wave where there are several."""
    arms = _(", arm {letters}", letters=job.arms.replace(",", ", ")) if job.arms and not hidden else ""
    return job.title + arms + (_(", wave {number}", number=job.wave.number) if len(trial.waves) > 1 else "")


def _planned(plan: Plan, zero: date | None) -> list[Job]:
    """The jobs of a wave, by every so many days and, with its day 0, by the day of the week; of no wave yet."""
    schedule, end = plan.schedule, plan.question.endpoint_day
    usual = care_lasting(schedule.care_every_days, end) if schedule.care_task else []
    made = [Job(title=schedule.care_task, arms="", due_das=day, window_days=0, step="", until="") for day in usual]
    for rule in schedule.care_rules:
        for day, task, step in rule.times(rule_days(rule, end, zero)):
            made.append(
                Job(title=task, arms=",".join(rule.arms), due_das=day, window_days=rule.either_side, step=step, until=rule.until)
            )  # fmt: skip
    return made


def _there(session: Session, wave: Wave) -> set[tuple[str, int]]:
    """Title and day of the jobs that a wave has."""
    query = select(Job.title, Job.due_das).where(Job.wave_id == wave.id)
    return {(title, day) for title, day in session.execute(query)}


def plan_care(session: Session, trial: Trial, plan: Plan, wave: Wave, zero: date | None = None) -> None:
    """The jobs of a wave that are not there yet: at the lock all that count from day 0, and with ``zero`` those by the day of the week."""
    there = _there(session, wave)
    for job in _planned(plan, zero):
        if (job.title, job.due_das) not in there:
            job.trial_id, job.wave_id = trial.id, wave.id
            session.add(job)
            there.add((job.title, job.due_das))


def plan_care_anew(session: Session, trial: Trial, plan: Plan, today: date) -> None:
    """After the plan was amended: what is to come and not decided follows it, what was due until today stays."""
    zero = first_days(trial)
    for wave in trial.waves:
        begun = zero.get(wave.id)
        over = (today - begun).days if begun else -1
        jobs = session.scalars(select(Job).where(Job.wave_id == wave.id, Job.due_das > over)).all()
        for job in jobs:
            if not job.decided:
                session.delete(job)
        session.flush()
        there = _there(session, wave)
        for job in _planned(plan, begun):
            if job.due_das > over and (job.title, job.due_das) not in there:
                job.trial_id, job.wave_id = trial.id, wave.id
                session.add(job)
                there.add((job.title, job.due_das))
    session.flush()


def care_days(trial: Trial, jobs: Sequence[Job], hidden: bool = False) -> dict[int, list[CareDay]]:
    """Care jobs of each stuck wave, by its id."""
    zero = first_days(trial)
    found: dict[int, list[CareDay]] = {wave: [] for wave in zero}
    for job in jobs:
        if job.wave_id in zero:
            due = zero[job.wave_id] + timedelta(days=job.due_das)
            until = due + timedelta(days=job.window_days)
            found[job.wave_id].append(CareDay(title_of(trial, job, hidden), due, until, job.done_on, job.skipped))
    return found


def care_in(jobs: Sequence[Job], trial: Trial, hidden: bool = False) -> tuple[tuple[date, tuple[CareDay, ...]], ...]:
    """Each stuck wave's first day 0 with its care."""
    zero = first_days(trial)
    return tuple((zero[wave], tuple(days)) for wave, days in care_days(trial, jobs, hidden).items())


def care_of(session: Session, trial: Trial) -> tuple[tuple[date, tuple[CareDay, ...]], ...]:
    """The same, of all jobs there are."""
    return care_in(list(session.scalars(select(Job).where(Job.trial_id == trial.id).order_by(Job.due_das))), trial)
