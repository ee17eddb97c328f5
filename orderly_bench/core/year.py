"""Days of the year without a year: a place's frosts and hot weeks, as it types them."""

from __future__ import annotations

import re
from calendar import isleap
from dataclasses import dataclass
from datetime import date

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _

_MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
_WORDS = re.compile(r"(?:(\d{1,2})\.? ?([a-z]{3,9})|([a-z]{3,9})\.? ?(\d{1,2}))", re.IGNORECASE)
_ISO = re.compile(r"(?:\d{4}-)?(\d{1,2})-(\d{1,2})")


def read_day_of_year(typed: str, label: str) -> str:
    """``05-15`` from ``15 May``, ``May 15``, ``05-15`` or a whole date; blank from nothing.

    Raises
    ------
    InvalidInput
        No day of a year.

    >>> read_day_of_year("15 May", "last frost")
    '05-15'
    """
    text = " ".join(typed.replace(",", " ").split())
    if not text:
        return ""
    month = day = 0
    if hit := _ISO.fullmatch(text):
        month, day = int(hit[1]), int(hit[2])
    elif hit := _WORDS.fullmatch(text):
        name = (hit[2] or hit[3])[:3].lower()
        month, day = (_MONTHS.index(name) + 1 if name in _MONTHS else 0), int(hit[1] or hit[4])
    try:
        date(2028, month, day)  # a leap year, so that 29 February is one
    except ValueError:
        raise InvalidInput(label, _("write a day and its month, such as 15 May"), typed[:30]) from None
    return f"{month:02d}-{day:02d}"


def in_year(day_of_year: str, year: int) -> date:
    """That day of a year; 29 February is the 28th where there is none.

    >>> in_year("02-29", 2027)
    datetime.date(2027, 2, 28)
    """
    month, day = map(int, day_of_year.split("-"))
    return date(year, month, 28 if (month, day) == (2, 29) and not isleap(year) else day)


def next_after(day_of_year: str, day: date) -> date:
    """The first time it comes on ``day`` or after it."""
    here = in_year(day_of_year, day.year)
    return here if here >= day else in_year(day_of_year, day.year + 1)


@dataclass(frozen=True)
class YearHere:
    """What a place says of its year, each a day of it; blank where it has not said."""

    last_frost: str = ""
    first_frost: str = ""
    hot_from: str = ""
    hot_to: str = ""

    def hot_between(self, first: date, last: date) -> tuple[date, date] | None:
        """The hot weeks that a stretch of days falls into; None where it falls into none, or they are not said."""
        if not (self.hot_from and self.hot_to):
            return None
        for year in range(first.year - 1, last.year + 1):
            begin = in_year(self.hot_from, year)
            end = next_after(self.hot_to, begin)
            if first <= end and last >= begin:
                return begin, end
        return None

    @property
    def hot_words(self) -> str:
        """Its hot weeks in words; blank where they are not said."""
        if not (self.hot_from and self.hot_to):
            return ""
        first, last = (dated(in_year(one, 2028), "%-d %b") for one in (self.hot_from, self.hot_to))
        return _("{first} to {last}", first=first, last=last)
