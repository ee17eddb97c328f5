"""Due jobs as views, for Tend and Today."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from flask import url_for
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score.models import CheckVisit
from orderly_bench.chapters.tend.models import Job
from orderly_bench.core.tend.schedule import DueState, das_in_words, due_state
from orderly_bench.trial.models import Trial


@dataclass(frozen=True)
class DueLine:
    """One job or check: when it is due, why it shows, and what one key does."""

    what: str
    trial: Trial
    due: date
    state: DueState
    why: str
    job: Job | None = None
    check: CheckVisit | None = None

    @property
    def href(self) -> str:
        """Where the work is done."""
        return (
            url_for("score.score_page", trial_id=self.trial.id)
            if self.check
            else url_for("tend.tend_page", trial_id=self.trial.id)
        )


def _due_on(trial: Trial, das: int) -> date | None:
    return trial.day_zero.middle + timedelta(days=das) if trial.day_zero else None


def _why(state: DueState, today: date, due: date, window: int) -> str:
    if state is DueState.OVERDUE:
        late = (today - due).days - window
        return f"{late} day{'s' if late != 1 else ''} past its window"
    if due == today:
        return "today"
    return f"in {(due - today).days} days" if due > today else f"{(today - due).days} days ago, inside its window"


def due_lines(session: Session, trial: Trial, today: date) -> list[DueLine]:
    """Everything of one trial with a day, in order; none before sticking is finished."""
    if trial.day_zero is None or trial.sticking_done_at is None:
        return []
    lines = []
    for check in session.scalars(select(CheckVisit).where(CheckVisit.trial_id == trial.id)):
        due = _due_on(trial, check.planned_das)
        if due:
            state = due_state(today, due, check.window_days, check.closed_at is not None)
            what = f"{'Endpoint check' if check.is_endpoint else 'Check'}, day {check.planned_das}" + (
                " (open)" if check.is_open else ""
            )
            lines.append(DueLine(what, trial, due, state, _why(state, today, due, check.window_days), check=check))
    for job in session.scalars(select(Job).where(Job.trial_id == trial.id)):
        due = _due_on(trial, job.due_das)
        if due:
            state = due_state(today, due, job.window_days, job.done_at is not None)
            lines.append(
                DueLine(
                    f"{job.title}, day {job.due_das}",
                    trial,
                    due,
                    state,
                    _why(state, today, due, job.window_days),
                    job=job,
                )
            )
    return sorted(lines, key=lambda line: (line.due, line.check is None))


def day_words(trial: Trial, today: date) -> str:
    """Today as days after sticking."""
    return das_in_words(today, trial.day_zero) if trial.day_zero else "not stuck yet"
