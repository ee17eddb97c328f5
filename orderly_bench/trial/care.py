"""A trial's care as the core takes it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.messages.words import tell
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
    arms = tell(", arm {letters}", letters=job.arms.replace(",", ", ")) if job.arms and not hidden else ""
    return job.title + arms + (tell(", wave {number}", number=job.wave.number) if len(trial.waves) > 1 else "")


def plan_care(session: Session, trial: Trial, plan: Plan, wave: Wave, zero: date | None = None) -> None:
    """The jobs of a wave: at the lock all that count from day 0, and with ``zero`` those that go by the day of the week."""
    schedule, end = plan.schedule, plan.question.endpoint_day
    usual = care_lasting(schedule.care_every_days, end) if schedule.care_task and zero is None else []
    jobs = [(schedule.care_task, "", day) for day in usual]
    for rule in schedule.care_rules:
        if bool(rule.weekdays) is (zero is not None):
            jobs += [(rule.title, ",".join(rule.arms), day) for day in rule_days(rule, end, zero)]
    for title, arms, day in jobs:
        session.add(Job(trial_id=trial.id, wave_id=wave.id, title=title, arms=arms, due_das=day, window_days=0))


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
