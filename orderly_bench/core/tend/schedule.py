"""Days after sticking, windows, and what is due. Weeks are 7 days; months never count.

Why not dateutil: whole days added to a date are all there is, and ``datetime`` does that.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.care_lines import WEEKDAYS, CareRule
from orderly_bench.core.plan.rules import endpoint_window_days
from orderly_bench.core.plan.value import Schedule

#: Days either side within which a check before the endpoint is on its day.
CHECK_WINDOW_DAYS = 2


class DueState(StrEnum):
    """Where a job stands today."""

    LATER = "later"
    DUE = "due"
    OVERDUE = "overdue"
    DONE = "done"


@dataclass(frozen=True)
class DayZero:
    """A lot's sticking day: a first and a last possible day, the same when known exactly."""

    first: date
    last: date

    @property
    def exact(self) -> bool:
        """Whether the day is known."""
        return self.first == self.last

    @property
    def middle(self) -> date:
        """The day used where one number is needed."""
        return self.first + (self.last - self.first) // 2


def about(day: date, give_or_take_days: int = 2) -> DayZero:
    """``about the 12th``: two days either way unless typed otherwise."""
    return DayZero(day - timedelta(days=give_or_take_days), day + timedelta(days=give_or_take_days))


def days_after_sticking(day: date, day_zero: DayZero) -> int:
    """Whole days from the middle of day 0; the sticking day is 0."""
    return (day - day_zero.middle).days


def days_outside(day: date, planned: int, either_side: int, day_zero: DayZero) -> int | None:
    """Days by which a day of looking lies outside the window of a check; None inside.

    Parameters
    ----------
    planned, either_side : int
        Day after sticking, and days either side of it.
    """
    away = abs(days_after_sticking(day, day_zero) - planned) - either_side
    return away if away > 0 else None


def das_in_words(day: date, day_zero: DayZero) -> str:
    """``day 42``, or ``day 40 to 44`` when day 0 is approximate."""
    if day_zero.exact:
        return _("day {days_after_sticking}", days_after_sticking=days_after_sticking(day, day_zero))
    return _("day {days} to {days2}", days=(day - day_zero.last).days, days2=(day - day_zero.first).days)


def check_after_sticking(day: date, day_zero: DayZero) -> None:
    """Refuse a check that certainly lies before sticking.

    Raises
    ------
    InvalidInput
        When ``day`` is before the first possible sticking day.
    """
    if day < day_zero.first:
        raise InvalidInput(
            "date of the check",
            _("lies before the cuttings were stuck on {first:%d %b %Y}", first=day_zero.first),
            dated(day, "%d %b %Y"),
        )


def due_state(today: date, due: date, window_days: int, done: bool) -> DueState:
    """Due from the window's start, overdue from the day after its end."""
    if done:
        return DueState.DONE
    if today > due + timedelta(days=window_days):
        return DueState.OVERDUE
    return DueState.DUE if today >= due - timedelta(days=window_days) else DueState.LATER


def window_of(schedule: Schedule, day: int, endpoint_day: int) -> int:
    """Days either side within which a planned check is on its day: as typed, else the usual."""
    typed = next((w.either_side for w in schedule.windows if w.number == day), None)
    usual = endpoint_window_days(day) if day == endpoint_day else CHECK_WINDOW_DAYS
    return usual if typed is None else typed


def rule_days(rule: CareRule, endpoint_day: int, zero: date | None) -> list[int]:
    """Days after sticking of one kind of care, up to, not on, the endpoint; of weekdays none before day 0 is known."""
    last = min(rule.last or endpoint_day - 1, endpoint_day - 1)
    if rule.every_days:
        return list(range(rule.first or rule.every_days, last + 1, rule.every_days))
    if zero is None:
        return []
    wanted = {WEEKDAYS.index(day) for day in rule.weekdays}
    return [day for day in range(max(1, rule.first), last + 1) if (zero + timedelta(days=day)).weekday() in wanted]


def care_days(every_days: int, until_day: int) -> list[int]:
    """Days of a repeating job: every so many days up to, not on, the endpoint day; none when 0."""
    return list(range(every_days, until_day, every_days)) if every_days > 0 else []
