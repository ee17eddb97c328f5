"""Days after sticking, windows, and what is due. Weeks are 7 days; months never count.

Why not dateutil: whole days added to a date are all there is, and ``datetime`` does that.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.question.rules import LATEST_DAY

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


def das_in_words(day: date, day_zero: DayZero) -> str:
    """``day 42``, or ``day 40 to 44`` when day 0 is approximate."""
    if day_zero.exact:
        return f"day {days_after_sticking(day, day_zero)}"
    return f"day {(day - day_zero.last).days} to {(day - day_zero.first).days}"


def check_after_sticking(day: date, day_zero: DayZero) -> None:
    """Refuse a check that certainly lies before sticking.

    Raises
    ------
    InvalidInput
        When ``day`` is before the first possible sticking day.
    """
    if day < day_zero.first:
        raise InvalidInput(
            "date of the check", f"lies before the cuttings were stuck on {day_zero.first:%d %b %Y}", f"{day:%d %b %Y}"
        )


def due_state(today: date, due: date, window_days: int, done: bool) -> DueState:
    """Due from the window's start, overdue from the day after its end."""
    if done:
        return DueState.DONE
    if today > due + timedelta(days=window_days):
        return DueState.OVERDUE
    return DueState.DUE if today >= due - timedelta(days=window_days) else DueState.LATER


def read_days(text: str, endpoint_day: int) -> list[int]:
    """Check days before the endpoint, typed as ``14, 28``; sorted, each once.

    Raises
    ------
    InvalidInput
        A day that is no whole number, below 1, or not before the endpoint day.
    """
    days = set()
    for piece in text.replace(";", ",").split(","):
        if not piece.strip():
            continue
        if not piece.strip().isdecimal():
            raise InvalidInput("check days", "write whole days with commas between: 14, 28", piece.strip())
        day = int(piece)
        if not 1 <= day < min(endpoint_day, LATEST_DAY):
            raise InvalidInput(
                "check days", f"must lie between day 1 and the day before the endpoint, {endpoint_day}", day
            )
        days.add(day)
    if len(days) > 40:
        raise InvalidInput("check days", "40 checks are the most one trial holds", len(days))
    return sorted(days)


def care_days(every_days: int, until_day: int) -> list[int]:
    """Days of a repeating job: every so many days up to, not on, the endpoint day; none when 0."""
    return list(range(every_days, until_day, every_days)) if every_days > 0 else []
