"""Late plans and predictions: kept, and called what they are."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.schedule import DayZero


def is_retrospective(made_on: date, stuck: Sequence[DayZero]) -> bool:
    """Whether a plan or a prediction was certainly made after something of it was stuck.

    An approximate day 0 counts by its last possible day; made on the day of sticking is in time.
    """
    return any(zero.last < made_on for zero in stuck)


def in_words(what: str, made_on: date, stuck: Sequence[DayZero]) -> str:
    """The sentence, blank when it was in time.

    Examples
    --------
    >>> in_words("the plan was locked", date(2026, 5, 20), [DayZero(date(2026, 4, 1), date(2026, 4, 1))])
    'retrospective: the plan was locked on 20 May 2026, 49 days after sticking'
    """
    if not is_retrospective(made_on, stuck):
        return ""
    first = min(zero.last for zero in stuck)
    days = (made_on - first).days
    return _(
        "retrospective: {what} on {made_on:%-d %B %Y}, {days:day|days} after sticking",
        what=what,
        made_on=made_on,
        days=days,
    )
