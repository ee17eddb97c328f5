"""Due jobs as views, for Tend and Today."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

from flask import url_for
from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.question.leafy import on_watering
from orderly_bench.core.tend.schedule import DueState, das_in_words, due_state
from orderly_bench.trial.care import first_days, title_of
from orderly_bench.trial.models import CheckVisit, Job, Trial


@dataclass(frozen=True)
class DueLine:
    """One job or check: when it is due, why it shows, what one key does, and what to mind at it."""

    what: str
    trial: Trial
    due: date
    state: DueState
    why: str
    job: Job | None = None
    check: CheckVisit | None = None
    mind: str = ""

    @property
    def href(self) -> str:
        """Where the work is done."""
        return (
            url_for("score.score_page", trial_id=self.trial.id)
            if self.check
            else url_for("tend.tend_page", trial_id=self.trial.id)
        )


def _why(state: DueState, today: date, due: date, window: int) -> str:
    if state is DueState.OVERDUE:
        late = (today - due).days - window
        return _("{late:day|days} past its window", late=late)
    if due == today:
        return _("today")
    return (
        _("in {days:day|days}", days=(due - today).days)
        if due > today
        else _("{days:day|days} ago, inside its window", days=(today - due).days)
    )


def due_lines(session: Session, trial: Trial, today: date, hidden: bool = False) -> list[DueLine]:
    """Everything of one trial with a day, in order; none of a wave before its sticking is finished.

    A check counts from its own lot, a care job from the first lot of its wave.
    """
    if not any(wave.sticking_done_at for wave in trial.waves):
        return []
    jobs = session.scalars(select(Job).where(Job.trial_id == trial.id).options(joinedload(Job.wave)))
    return _lines(trial, list(jobs), today, hidden)


def due_of_many(session: Session, trials: Sequence[Trial], today: date, hidden: Collection[int] = ()) -> list[DueLine]:
    """What is still to be done in trials that are loaded with their waves, lots and checks: no check that was passed by."""
    ids = [trial.id for trial in trials if any(wave.sticking_done_at for wave in trial.waves)]
    open_jobs = (
        select(Job).where(Job.trial_id.in_(ids), Job.done_at.is_(None), Job.skipped == "").options(joinedload(Job.wave))
    )
    of_trial: dict[int, list[Job]] = {}
    for job in session.scalars(open_jobs):
        of_trial.setdefault(job.trial_id, []).append(job)
    lines = [line for trial in trials for line in _lines(trial, of_trial.get(trial.id, []), today, trial.id in hidden)]
    return folded(
        [line for line in lines if line.state is not DueState.DONE and not (line.check and passed_by(line.check))]
    )


def folded(lines: Sequence[DueLine]) -> list[DueLine]:
    """Of one kind of care that was missed several times, the last time alone, saying how many; the rest as it is."""
    missed: dict[tuple[int, int, str], list[DueLine]] = {}
    for line in lines:
        if line.job and line.state is DueState.OVERDUE:
            missed.setdefault((line.trial.id, line.job.wave_id, line.job.title), []).append(line)
    last = {id(found[-1]): len(found) for found in missed.values()}
    kept = []
    for line in lines:
        if not (line.job and line.state is DueState.OVERDUE):
            kept.append(line)
        elif (times := last.get(id(line), 0)) > 1:
            kept.append(replace(line, why=_("missed {times} times, the last {why}", times=times, why=line.why)))
        elif times:
            kept.append(line)
    return kept


def along_the_benches(lines: Sequence[DueLine]) -> list[tuple[str, list[DueLine]]]:
    """Lines as one walks by: bench after bench, trial after trial, of each what is overdue first."""
    found: dict[str, list[DueLine]] = {}
    for line in sorted(lines, key=lambda one: (one.trial.code, one.state is not DueState.OVERDUE, one.due)):
        found.setdefault(line.trial.plan.design.bench, []).append(line)
    return sorted(found.items(), key=lambda bench: bench[0].casefold())


def checks_due(trial: Trial, today: date) -> dict[int, DueLine]:
    """The checks of one trial by their id, each with its day and how it stands."""
    return {line.check.id: line for line in _lines(trial, [], today, False) if line.check}


def passed_by(check: CheckVisit) -> bool:
    """Whether a later check of the same lot was opened, so that this one can't be any more."""
    later = (c for c in check.trial.checks if c.lot_id == check.lot_id and c.planned_das > check.planned_das)
    return check.opened_at is None and any(c.opened_at for c in later)


def _lines(trial: Trial, jobs: Sequence[Job], today: date, hidden: bool) -> list[DueLine]:
    stuck = {wave.id for wave in trial.waves if wave.sticking_done_at is not None}
    lines = []
    for check in trial.checks:
        if check.lot.wave_id not in stuck:
            continue
        due = check.lot.day_zero.middle + timedelta(days=check.planned_das)
        state = due_state(today, due, check.window_days, check.closed_at is not None)
        name = N_("Endpoint check") if check.is_endpoint else N_("Check")
        what = _("{what}, day {day}", what=name, day=check.planned_das)
        what += f", {check.lot.name}" if len(trial.lots) > 1 else ""
        what += _(" (open)") if check.is_open else ""
        lines.append(DueLine(what, trial, due, state, _why(state, today, due, check.window_days), check=check))
    first = first_days(trial)
    for job in (job for job in jobs if job.wave_id in first):
        due = first[job.wave_id] + timedelta(days=job.due_das)
        state = due_state(today, due, job.window_days, job.decided)
        what = _("{what}, day {day}", what=title_of(trial, job, hidden), day=job.due_das)
        what += f": {job.step}" if job.step else ""
        mind = on_watering(trial.plan, job.title)
        lines.append(DueLine(what, trial, due, state, _why(state, today, due, job.window_days), job=job, mind=mind))
    return sorted(lines, key=lambda line: (line.due, line.check is None, line.what))


def day_words(trial: Trial, today: date) -> str:
    """Today as days after sticking, lot by lot where they differ."""
    days = list(dict.fromkeys(das_in_words(today, lot.day_zero) for lot in trial.lots))
    return ", ".join(days) if days else _("not stuck yet")
