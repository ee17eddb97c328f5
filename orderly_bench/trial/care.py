"""A trial's care as the core takes it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.messages.words import tell
from orderly_bench.core.tend.care import CareDay
from orderly_bench.trial.models import Job, Trial


def first_days(trial: Trial) -> dict[int, date]:
    """Of each wave that is stuck, by its id, the first day 0 of its lots: care counts from it."""
    stuck = {wave.id for wave in trial.waves if wave.sticking_done_at is not None}
    found: dict[int, date] = {}
    for lot in trial.lots:
        if lot.wave_id in stuck:
            found[lot.wave_id] = min(found.get(lot.wave_id, lot.day_zero.middle), lot.day_zero.middle)
    return found


def care_days(trial: Trial, jobs: Sequence[Job]) -> dict[int, list[CareDay]]:
    """Care jobs of each stuck wave, by its id; a title carries its wave where there are several."""
    zero = first_days(trial)
    found: dict[int, list[CareDay]] = {wave: [] for wave in zero}
    for job in jobs:
        if job.wave_id in zero:
            due = zero[job.wave_id] + timedelta(days=job.due_das)
            of_wave = tell(", wave {number}", number=job.wave.number) if len(trial.waves) > 1 else ""
            until = due + timedelta(days=job.window_days)
            found[job.wave_id].append(CareDay(job.title + of_wave, due, until, job.done_on, job.skipped))
    return found


def care_in(jobs: Sequence[Job], trial: Trial) -> tuple[tuple[date, tuple[CareDay, ...]], ...]:
    """Each stuck wave's first day 0 with its care."""
    zero = first_days(trial)
    return tuple((zero[wave], tuple(days)) for wave, days in care_days(trial, jobs).items())


def care_of(session: Session, trial: Trial) -> tuple[tuple[date, tuple[CareDay, ...]], ...]:
    """The same, of all jobs there are."""
    return care_in(list(session.scalars(select(Job).where(Job.trial_id == trial.id).order_by(Job.due_das))), trial)
