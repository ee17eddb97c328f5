"""What the columns of a logger's own file hold, from what stands above them; and in which order its days are written.

Loggers name their columns as their makers please. What can be meant in one way is taken so and said; what can't is asked, never guessed.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from itertools import pairwise
from math import inf

from dateutil import parser as written_by_people

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.typed import Asked, named, read_those_typed, text

LONGEST = 80
#: Days from row to row: a logger's rows are hardly further apart than the first; read the wrong way about a new day is a month on.
FEW_DAYS, LONG_STEP = 10, 20
_TIME = re.compile(r"time|zeit|heure|hora|stamp|\bdate\b|\bdatum\b", re.IGNORECASE)
_DATE_ALONE = re.compile(r"\W*(date|datum|day|tag)\W*", re.IGNORECASE)
_TIME_ALONE = re.compile(r"\W*(time|zeit|uhrzeit|hour)\W*(\W.*)?", re.IGNORECASE)
_AIR = re.compile(r"temp|°|\bair\b|\bair_[cf]\b", re.IGNORECASE)
_NOT_AIR = re.compile(
    r"dew|soil|medium|substrate|water|root|leaf|\bmin\b|\bmax\b|board|battery|humid|\brh\b", re.IGNORECASE
)
_FAHRENHEIT = re.compile(r"°\s*F\b|\bdeg(?:rees)?\.?\s*F\b|\(\s*°?F\s*\)|_f\b|fahrenheit|,\s*F\b", re.IGNORECASE)
_RH = re.compile(r"\brh\b|humid|feuchte", re.IGNORECASE)
_PPFD = re.compile(r"ppfd|\bpar\b|mol", re.IGNORECASE)
_NUMERIC = re.compile(
    r"(\d{1,4})([-/.])(\d{1,2})\2(\d{2,4})[ T,]+(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,]\d+)?)?\s*([AaPp])?\.?(?:[Mm]\.?)?",
    re.ASCII,
)


@dataclass(frozen=True)
class LoggerColumns:
    """Names of a file's columns; ``date`` where the day stands apart from the time, blank where nothing holds it.

    ``unit`` is C or F, blank as its name says; ``order`` is day or month, which comes first, blank as the days themselves show.
    """

    time: str = ""
    date: str = ""
    air: str = ""
    unit: str = ""
    rh: str = ""
    ppfd: str = ""
    order: str = ""

    @property
    def fahrenheit(self) -> bool:
        """Whether the air is in Fahrenheit."""
        return self.unit == "F" or (not self.unit and bool(_FAHRENHEIT.search(self.air)))

    @property
    def words(self) -> str:
        """What was taken for what, in one line."""
        times = self.time if not self.date else _("{date} and {time}", date=self.date, time=self.time)
        told = _("Time from {times}, air from {air} in °{unit}", times=times, air=self.air, unit="F" if self.fahrenheit else "C")  # fmt: skip
        told += _(", humidity from {name}", name=self.rh) if self.rh else ""
        told += _(", light from {name}", name=self.ppfd) if self.ppfd else ""
        return told + _("; {which} first.", which=self.order) if self.order else told + "."


UNSAID = LoggerColumns()
ASKED = (
    Asked("time", N_("Column of the time"), text(LONGEST)), Asked("date", N_("of the day, where it stands apart"), text(LONGEST)),
    Asked("air", N_("of the air"), text(LONGEST)), Asked("unit", N_("in"), named(("", N_("as its name says")), ("C", "°C"), ("F", "°F"))),
    Asked("rh", N_("of the humidity, %"), text(LONGEST)), Asked("ppfd", N_("of the light, PPFD"), text(LONGEST)),
    Asked("order", N_("Days are written"), named(("", N_("as they show")), ("day", N_("day first")), ("month", N_("month first")))),
)  # fmt: skip


def read_columns(typed: Mapping[str, str]) -> LoggerColumns:
    """As typed; blank is found by itself."""
    return LoggerColumns(**read_those_typed(ASKED, typed))


def looks_like_header(cells: Sequence[str]) -> bool:
    """Whether a line names a time and an air, however many."""
    return any(_TIME.search(cell) for cell in cells) and any(_AIR.search(cell) for cell in cells)


def find_columns(header: Sequence[str], said: LoggerColumns = UNSAID) -> LoggerColumns:
    """What was said of the columns, and of the others what their names can mean in one way only.

    Raises
    ------
    UnusableData
        A name that is none of the file's; a time or an air that is not there, or can be meant in several ways.

    >>> find_columns(["#", "Date Time, GMT+00:00", "Temp, °F", "RH, %"]).words
    'Time from Date Time, GMT+00:00, air from Temp, °F in °F, humidity from RH, %.'
    """
    for name in filter(None, (said.time, said.date, said.air, said.rh, said.ppfd)):
        if name not in header:
            raise _unknown(name, header)
    taken = {said.time, said.date, said.air, said.rh, said.ppfd} - {""}
    left = [name for name in header if name not in taken]
    date, time = said.date, said.time
    if not time:
        date, time = _times(left, header)
    air = said.air or _one_of([n for n in left if _AIR.search(n) and not _NOT_AIR.search(n)], _("the air"), header)
    rh = said.rh or _at_most_one([n for n in left if _RH.search(n)])
    ppfd = said.ppfd or _at_most_one([n for n in left if _PPFD.search(n)])
    return LoggerColumns(time, date, air, said.unit, rh, ppfd, said.order)


def _times(left: Sequence[str], header: Sequence[str]) -> tuple[str, str]:
    """The columns of day and time; the day is blank where one column holds both."""
    found = [name for name in left if _TIME.search(name)]
    dates = [name for name in found if _DATE_ALONE.fullmatch(name)]
    times = [name for name in found if _TIME_ALONE.fullmatch(name) and name not in dates]
    if len(dates) == 1 and len(times) == 1:
        return dates[0], times[0]
    both = [name for name in found if name not in dates and name not in times]
    return "", _one_of(both or times or dates, _("the time"), header)


def _one_of(found: Sequence[str], what: str, header: Sequence[str]) -> str:
    if len(found) == 1:
        return found[0]
    said = _("The columns are: {names}", names=", ".join(filter(None, header)))
    if not found:
        raise UnusableData(_("no column says that it holds {what}", what=what), _("{said}. Name it below, once: it is remembered", said=said), row=1)  # fmt: skip
    raise UnusableData(
        _("several columns may hold {what}: {names}", what=what, names=", ".join(found)), _("Name it below, once: it is remembered"), row=1
    )  # fmt: skip


def _at_most_one(found: Sequence[str]) -> str:
    """The only one; of several none, since what is not needed is not worth a guess."""
    return found[0] if len(found) == 1 else ""


def _unknown(name: str, header: Sequence[str]) -> UnusableData:
    return UnusableData(
        _("there is no column {name!r}", name=name), _("The columns are: {names}", names=", ".join(filter(None, header))), row=1
    )  # fmt: skip


def times_of(texts: Sequence[str], lines: Sequence[int], order: str = "") -> list[str]:
    """Times as year-month-day and 24 hours, however a logger writes them.

    Parameters
    ----------
    order : str
        Which comes first, day or month; blank: as the days show.

    Raises
    ------
    UnusableData
        A time that can't be read, or days that can be read both ways throughout; names the row.

    >>> times_of(["5/14/26 2:30 PM", "05/15/26 02:30:00 AM"], [2, 3])
    ['2026-05-14T14:30:00', '2026-05-15T02:30:00']
    """
    read = _reader(texts, order)
    found = []
    for typed, line in zip(texts, lines, strict=True):
        try:
            found.append(read(typed))
        except (ValueError, OverflowError):
            raise UnusableData(_("{typed!r} is no time", typed=typed[:40]), _("Write 2026-05-07 14:30, with an offset if there is one"), row=line) from None  # fmt: skip
    return found


def _reader(texts: Sequence[str], order: str) -> Callable[[str], str]:
    hits = [hit for typed in texts if (hit := _NUMERIC.match(typed)) and len(hit[1]) < 3]
    if order or not hits:
        return partial(_read, day_first=order != "month")
    day_first = any(int(hit[1]) > 12 for hit in hits) or all(hit[2] == "." for hit in hits)
    month_first = any(int(hit[3]) > 12 for hit in hits)
    if day_first == month_first:
        as_days, as_months = _spread(texts, True), _spread(texts, False)
        apart = max(as_days, as_months) >= LONG_STEP > FEW_DAYS >= min(as_days, as_months)
        if day_first or not apart:
            raise UnusableData(_("days such as {typed} can be read with the day or the month first", typed=hits[0][0]), _("Say below which comes first: it is remembered"))  # fmt: skip
        day_first = as_days < as_months
    return partial(_read, day_first=day_first)


def _spread(texts: Sequence[str], day_first: bool) -> float:
    """The longest step between rows, days; without end where they can't be read so."""
    try:
        days = [datetime.fromisoformat(_read(typed, day_first)).replace(tzinfo=None) for typed in texts]
    except (ValueError, OverflowError):
        return inf
    return max((abs((later - before).total_seconds()) / 86_400 for before, later in pairwise(days)), default=0.0)


def _read(typed: str, day_first: bool) -> str:
    hit = _NUMERIC.fullmatch(typed)
    if hit is None:
        return _by_people(typed, day_first)
    first, _, second, third, hour, minute, seconds, half = hit.groups()
    year, month, day = (
        (first, second, third) if len(first) == 4 else (third, *((second, first) if day_first else (first, second)))
    )
    hours = int(hour) % 12 + 12 * (half.lower() == "p") if half else int(hour)
    made = datetime(int(year) + 2000 * (len(year) == 2), int(month), int(day), hours, int(minute), int(seconds or 0))
    return made.isoformat()


def _by_people(typed: str, day_first: bool) -> str:
    """Words for months and offsets, and what else stands in the standard."""
    try:
        return datetime.fromisoformat(typed).isoformat()
    except ValueError:
        return str(written_by_people.parse(typed, dayfirst=day_first, default=datetime(1, 1, 1)).isoformat())
