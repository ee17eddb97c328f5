"""Days of checks as people say them: ``14, 28 ± 3, weeks 6 to 7, 42-49``, or by months once the sticking is dated.

A range becomes its middle day with days either side. Weeks are 7 days: week 6 begins on day 42.
"""

from __future__ import annotations

import re
from calendar import month_name, monthrange
from dataclasses import dataclass
from datetime import date

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan.question import LATEST_DAY

MOST_CHECKS = 40
_MONTHS = "|".join(name.lower() for name in month_name if name)
_DAY = re.compile(r"(?:day )?(\d{1,4})(?: ?(?:±|\+-|\+/-) ?(\d{1,3}))?")
_RANGE = re.compile(r"(?:days? )?(\d{1,4}) ?(?:-|–|to) ?(\d{1,4})")
_WEEKS = re.compile(r"weeks? (\d{1,3})(?: ?(?:-|–|to) ?(\d{1,3}))?")
_IN_MONTHS = re.compile(rf"({_MONTHS})(?: ?(?:-|–|to) ?({_MONTHS}))?")
#: What people write before a day that is meant with its usual window.
ABOUT = re.compile(r"^(?:about|around|roughly|approx\.?|ca\.?|circa|~) ?")
HOW = N_("write days after sticking with commas between: 14, 28 ± 3, weeks 6 to 7, 42-49")


@dataclass(frozen=True)
class Looked:
    """A check: its day after sticking, and the days either side typed with it; None for the usual window."""

    day: int
    either_side: int | None = None


def read_looks(text: str, endpoint_day: int, planned_for: date | None = None) -> list[Looked]:
    """Checks before the endpoint, sorted, each day once.

    Parameters
    ----------
    planned_for : date, optional
        When it is to be stuck; months need it.

    Raises
    ------
    InvalidInput
        What can't be read, lies outside, comes twice, or too many.
    """
    found: dict[int, Looked] = {}
    for piece in (part.strip().casefold() for part in re.split("[,;]", text)):
        if not piece:
            continue
        look = _read(ABOUT.sub("", " ".join(piece.split())), planned_for)
        if not 1 <= look.day < min(endpoint_day, LATEST_DAY):
            rule = _(
                "must lie between day 1 and the day before the endpoint, {endpoint_day}", endpoint_day=endpoint_day
            )
            raise InvalidInput("check days", rule, look.day if piece.isdecimal() else f"{piece}: day {look.day}")
        found.setdefault(look.day, look)
    if len(found) > MOST_CHECKS:
        raise InvalidInput(
            "check days", _("{most_checks} checks are the most one trial holds", most_checks=MOST_CHECKS), len(found)
        )
    return [found[day] for day in sorted(found)]


def _read(piece: str, planned_for: date | None) -> Looked:
    if match := _DAY.fullmatch(piece):
        return Looked(int(match[1]), int(match[2]) if match[2] else None)
    if match := _RANGE.fullmatch(piece):
        return _between(int(match[1]), int(match[2]), piece)
    if match := _WEEKS.fullmatch(piece):
        return _between(7 * int(match[1]), 7 * int(match[2] or match[1]) + (0 if match[2] else 6), piece)
    if match := _IN_MONTHS.fullmatch(piece):
        return _months(match[1], match[2] or match[1], planned_for, piece)
    raise InvalidInput("check days", HOW, piece)


def _between(first: int, last: int, piece: str) -> Looked:
    if first >= last:
        raise InvalidInput("check days", _("a range runs from the earlier to the later day"), piece)
    middle = (first + last) // 2
    return Looked(middle, last - middle)


def _months(first: str, last: str, planned_for: date | None, piece: str) -> Looked:
    if planned_for is None:
        raise InvalidInput(
            "check days", _("months need the day of sticking; plan the first wave, or write weeks"), piece
        )
    names = [name.lower() for name in month_name]
    start, end = names.index(first), names.index(last)
    year = planned_for.year + (1 if start < planned_for.month else 0)
    opens = date(year, start, 1)
    closing_year = year + (1 if end < start else 0)
    closes = date(closing_year, end, monthrange(closing_year, end)[1])
    return _between((opens - planned_for).days, (closes - planned_for).days, piece)


def write_looks(days: tuple[int, ...], windows: dict[int, int]) -> str:
    """Checks as they are typed: ``14, 28 ± 3``."""
    return ", ".join(f"{day} ± {windows[day]}" if day in windows else str(day) for day in days)
