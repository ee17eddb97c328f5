"""What was called *looks dead* or *cannot tell yet* is looked at again: so many days later as the plan says, before anything is written off."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.core.messages.words import all_of, dated, tell
from orderly_bench.core.vocabulary import State
from orderly_bench.trial.models import CheckVisit, ScoreRecord, Trial

AGAIN = (State.LOOKS_DEAD, State.CANNOT_TELL)
#: Days before it is due from which it stands on Today.
AHEAD = 7


@dataclass(frozen=True)
class LookAgain:
    """Cuttings of one check that are to be looked at again, from a day on; ``check`` is the one they were seen at."""

    trial: Trial
    check: CheckVisit
    counts: dict[State, int]
    due: date

    @property
    def words(self) -> str:
        """How many of which, and since when."""
        told = all_of(
            tell("{n} {state}", n=str(self.counts[state]), state=state.value)
            for state in AGAIN
            if self.counts.get(state)
        )
        return tell("{told} on {day}", told=told, day=dated(self.check.day or self.due, "%-d %b"))

    def when(self, today: date) -> str:
        """From when, as it lies from today."""
        return from_today(self.due, today)


def from_today(due: date, today: date) -> str:
    """A day to look again, as it lies from today."""
    away = (due - today).days
    if away > 0:
        return tell("look again in {n:day|days}", n=away)
    return tell("look again today") if away == 0 else tell("due {n:day|days} ago", n=-away)


def plants_again(trials: Sequence[Trial], today: date) -> list[tuple[Trial, date, str]]:
    """Trials of which plants that were not fit are looked at again soon or by now: with the day, and how it lies from today."""
    days = [(trial, trial.plants_again) for trial in trials if trial.plants_again is not None]
    soon = [(trial, day, from_today(day, today)) for trial, day in days if (day - today).days <= AHEAD]
    return sorted(soon, key=lambda one: (one[1], one[0].id))


def looks_again(session: Session, trials: Sequence[Trial], today: date) -> list[LookAgain]:
    """Of trials that are loaded with their checks and lots: what the last check of each lot left open, the earliest due first."""
    last: dict[int, CheckVisit] = {}
    for trial in trials:
        for check in sorted(trial.checks, key=lambda check: check.planned_das):
            if check.closed_at is not None and check.day is not None:
                last[check.lot_id] = check
            elif check.is_open:
                last.pop(check.lot_id, None)
    found: dict[int, dict[State, int]] = {}
    if last:
        ids = [check.id for check in last.values()]
        counted = select(ScoreRecord.check_id, ScoreRecord.state, func.count(ScoreRecord.cutting_id.distinct())).where(
            ScoreRecord.check_id.in_(ids),
            ScoreRecord.current == 1,
            ScoreRecord.state.in_([state.value for state in AGAIN]),
        )
        for check_id, state, n in session.execute(counted.group_by(ScoreRecord.check_id, ScoreRecord.state)):
            found.setdefault(check_id, {})[State(state)] = n
    looks = [
        LookAgain(
            check.trial, check, found[check.id], check.day + timedelta(days=check.trial.plan.question.second_look_days)
        )
        for check in last.values()
        if check.id in found and check.day is not None
    ]
    return sorted((one for one in looks if (one.due - today).days <= AHEAD), key=lambda one: (one.due, one.check.id))
