"""What closed checks leave to be done: what *looks dead* is looked at again, plants not fit get a day, rooted ones are potted on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy import exists, func, select
from sqlalchemy.orm import Session

from orderly_bench.core.messages.translation import all_of, dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.vocabulary import Roots, State
from orderly_bench.trial.models import CheckVisit, PlantEnd, ScoreRecord, Trial

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
            _("{n} {state}", n=str(self.counts[state]), state=state.value) for state in AGAIN if self.counts.get(state)
        )
        return _("{told} on {day}", told=told, day=dated(self.check.day or self.due, "%-d %b"))

    def when(self, today: date) -> str:
        """From when, as it lies from today."""
        return from_today(self.due, today)


def from_today(due: date, today: date) -> str:
    """A day to look again, as it lies from today."""
    away = (due - today).days
    if away > 0:
        return _("look again in {n:day|days}", n=away)
    return _("look again today") if away == 0 else _("due {n:day|days} ago", n=-away)


def plants_again(trials: Sequence[Trial], today: date) -> list[tuple[Trial, date, str]]:
    """Trials of which plants that were not fit are looked at again soon or by now: with the day, and how it lies from today."""
    days = [(trial, trial.plants_again) for trial in trials if trial.plants_again is not None]
    soon = [(trial, day, from_today(day, today)) for trial, day in days if (day - today).days <= AHEAD]
    return sorted(soon, key=lambda one: (one[1], one[0].id))


@dataclass(frozen=True)
class Standing:
    """Rooted plants of a trial that still stand where they were scored at the end; ``since`` is the day of that check."""

    trial: Trial
    rooted: int
    since: date

    @property
    def words(self) -> str:
        """How many, and since when."""
        return _(
            "{n:rooted plant stands|rooted plants stand} since {day}", n=self.rooted, day=dated(self.since, "%-d %b")
        )


@dataclass(frozen=True)
class After:
    """What closed checks leave to be done."""

    again: list[LookAgain]
    standing: list[Standing]


Counts = dict[int, dict[tuple[State, bool], int]]


def after_checks(session: Session, trials: Sequence[Trial], today: date) -> After:
    """Of trials that are loaded with their checks and lots: what the last check of each lot left open, the earliest due first, and
    rooted plants that stand since the end, those that stand longest first. A plant whose end is written is in neither.
    """
    last: dict[int, CheckVisit] = {}
    for trial in trials:
        for check in sorted(trial.checks, key=lambda check: check.planned_das):
            if check.closed_at is not None and check.day is not None:
                last[check.lot_id] = check
            elif check.is_open:
                last.pop(check.lot_id, None)
    counts = _counts(session, [check.id for check in last.values()])
    dated_checks = [(check, check.day) for check in last.values() if check.id in counts and check.day is not None]
    looks = [
        one
        for check, day in dated_checks
        if (one := _look(check, day, counts[check.id])) and (one.due - today).days <= AHEAD
    ]
    standing: dict[int, Standing] = {}
    for check, day in dated_checks:
        rooted, known = counts[check.id].get((State.ALIVE, True), 0), standing.get(check.trial_id)
        if check.is_endpoint and rooted:
            standing[check.trial_id] = Standing(
                check.trial, rooted + (known.rooted if known else 0), min(day, known.since) if known else day
            )
    return After(
        sorted(looks, key=lambda one: (one.due, one.check.id)),
        sorted(standing.values(), key=lambda one: (one.since, one.trial.id)),
    )


def _counts(session: Session, checks: Sequence[int]) -> Counts:
    """Cuttings of each check by state and whether roots were seen, but for those whose end is written."""
    if not checks:
        return {}
    seen = ScoreRecord.roots.in_([Roots.COUNTED.value, Roots.SEEN.value])
    ended = exists().where(PlantEnd.cutting_id == ScoreRecord.cutting_id)
    asked = [state.value for state in (*AGAIN, State.ALIVE)]
    query = select(ScoreRecord.check_id, ScoreRecord.state, seen, func.count(ScoreRecord.cutting_id.distinct())).where(
        ScoreRecord.check_id.in_(checks), ScoreRecord.current == 1, ScoreRecord.state.in_(asked), ~ended
    )
    found: Counts = {}
    for check_id, state, rooted, n in session.execute(query.group_by(ScoreRecord.check_id, ScoreRecord.state, seen)):
        found.setdefault(check_id, {})[State(state), bool(rooted)] = n
    return found


def _look(check: CheckVisit, day: date, counts: dict[tuple[State, bool], int]) -> LookAgain | None:
    open_ones = {state: n for state in AGAIN if (n := counts.get((state, False), 0) + counts.get((state, True), 0))}
    due = day + timedelta(days=check.trial.plan.question.second_look_days)
    return LookAgain(check.trial, check, open_ones, due) if open_ones else None
