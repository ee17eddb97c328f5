"""A logger's file as CSV: columns ``time``, ``air_c`` (or ``air_f``) and, where there are, ``rh`` and ``ppfd``; or as its maker names them."""

from __future__ import annotations

import csv
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from hashlib import sha256
from zoneinfo import ZoneInfo

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.conditions import Reading
from orderly_bench.core.tend.logger_columns import UNSAID, LoggerColumns, find_columns, looks_like_header, times_of
from orderly_bench.core.typed import read_number
from orderly_bench.formats.table_csv import LONGEST_LINE, MOST_ROWS, Table, column, decoded, read_table
from orderly_bench.formats.xlsx import as_csv

#: What a column may hold; a sensor in mist reads a little over 100 %, one in the dark a little under 0.
WITHIN = {"rh": (0.0, 105.0), "ppfd": (-5.0, 5_000.0)}


MOST_BEFORE = 30


@dataclass(frozen=True)
class LogFile:
    """A file as cells under its first line that names columns; ``ours`` when they are called as here."""

    header: list[str]
    rows: list[list[str]]
    lines: list[int]

    @property
    def ours(self) -> bool:
        """Whether the columns have the names that are used here."""
        return "time" in self.header and bool({"air_c", "air_f"} & set(self.header))

    @property
    def mark(self) -> str:
        """By which files of the same kind are known again."""
        return sha256("|".join(self.header).encode()).hexdigest()


def open_log(data: bytes) -> LogFile:
    """The cells of a file; lines before the one that names its columns are passed over.

    Raises
    ------
    UnusableData
        Not a table.
    """
    text = decoded(as_csv(data), "replace")
    head = text[:LONGEST_LINE].splitlines()[:MOST_BEFORE]
    for number, line in enumerate(head):
        cells = next(csv.reader([line], delimiter=max(",;\t", key=line.count)), [])
        if number and looks_like_header([cell.strip() for cell in cells]):
            return _under(text, number)
        if looks_like_header([cell.strip() for cell in cells]):
            break
    table = read_table(text.encode()) if _even(head) else None
    return LogFile(table.header, table.rows, table.lines) if table else _under(text, 0)


def _even(head: list[str]) -> bool:
    """Whether the first line is no longer than what follows, as in a plain table: then each row is held to it."""
    lines = [line for line in head[:2] if line.strip()]
    cells = [len(next(csv.reader([line], delimiter=max(",;\t", key=lines[0].count)), [])) for line in lines]
    return len(set(cells)) < 2


def _under(text: str, number: int) -> LogFile:
    """The table below a line; rows of a logger's own (a button pressed, the end) may be shorter."""
    lines = text.splitlines()[number:]
    found = list(csv.reader(lines, delimiter=max(",;\t", key=lines[0].count)))
    header = [cell.strip() for cell in found[0]]
    rows = [([cell.strip() for cell in cells] + [""] * len(header))[: len(header)] for cells in found[1:]]
    kept = [(row, number + at) for at, row in enumerate(rows, start=2) if any(row)]
    if len(kept) > MOST_ROWS:
        raise UnusableData(_("more than {most_rows} rows", most_rows=MOST_ROWS), _("Split the file"))
    return LogFile(header, [row for row, _ in kept], [line for _, line in kept])


def read_log(data: bytes, zone: ZoneInfo | None = None, said: LoggerColumns = UNSAID) -> list[Reading]:
    """Readings in the order of the file, its columns found by their names.

    Raises
    ------
    UnusableData
        See ``read_file`` and ``columns_in``.
    """
    file = open_log(data)
    return read_file(file, columns_in(file, said), zone)


def columns_in(file: LogFile, said: LoggerColumns = UNSAID) -> LoggerColumns | None:
    """What its columns hold; None where they are called as here and nothing else was said."""
    return None if file.ours and said == UNSAID else find_columns(file.header, said)


def _as_ours(file: LogFile, columns: LoggerColumns) -> Table:
    """The same with our names and times; a row without a time that holds nothing is passed over."""
    place = {name: i for i, name in reversed(list(enumerate(file.header)))}
    at, air = place[columns.time], place[columns.air]
    day = place[columns.date] if columns.date else None
    kept = [(row, line) for row, line in zip(file.rows, file.lines, strict=True) if row[at] or row[air]]
    lines = [line for _, line in kept]
    times = times_of([f"{row[day]} {row[at]}" if day is not None else row[at] for row, _ in kept], lines, columns.order)
    named = {"air_f" if columns.fahrenheit else "air_c": columns.air, "rh": columns.rh, "ppfd": columns.ppfd}
    there = {name: place[of] for name, of in named.items() if of}
    rows = [[time, *(row[i] for i in there.values())] for time, (row, _) in zip(times, kept, strict=True)]
    return Table(["time", *there], rows, lines)


#: Called now and then with how many rows are read, of how many.
Tick = Callable[[int, int], None]
#: How many rows lie between.
TICK_ROWS = 2_000


def unheard(_done: int, _all: int) -> None:
    """Nobody waits for it."""


def read_file(
    file: LogFile, columns: LoggerColumns | None, zone: ZoneInfo | None = None, tick: Tick = unheard
) -> list[Reading]:
    """Readings in the order of the file.

    Parameters
    ----------
    file : LogFile
    columns : LoggerColumns or None
        What its columns hold; None where they are called as here.
    zone : ZoneInfo, optional
        Of times without an offset; then all are told in it, and the hour that comes twice in autumn is told apart by order.
    tick : callable
        May end the reading by an error of its own.

    Raises
    ------
    UnusableData
        Not a table, no time or air, a cell that is no time or number, times with and without an offset; names row and column.
    """
    table = Table(file.header, file.rows, file.lines) if columns is None else _as_ours(file, columns)
    at, air_name = column(table, "time"), "air_f" if "air_f" in table.header else "air_c"
    air, rh, ppfd = column(table, air_name), _place(table, "rh"), _place(table, "ppfd")
    found: list[Reading] = []
    before: datetime | None = None
    # A logger reads the same values over and over: each is read once.
    airs: dict[str, float | None] = {}
    moists: dict[str, float | None] = {}
    lights: dict[str, float | None] = {}
    for number, (cells, line) in enumerate(zip(table.rows, table.lines, strict=True)):
        if number % TICK_ROWS == 0:
            tick(number, len(table.rows))
        before = _time(cells[at], line, zone, before)
        typed, moist, lit = cells[air], "" if rh is None else cells[rh], "" if ppfd is None else cells[ppfd]
        if typed not in airs:
            airs[typed] = _air(typed, air_name, line)
        if moist not in moists:
            moists[moist] = _held(moist, "rh", line)
        if lit not in lights:
            lights[lit] = _held(lit, "ppfd", line)
        found.append(Reading(before, airs[typed], moists[moist], lights[lit]))
    if len({one.at.tzinfo is None for one in found}) > 1:
        raise UnusableData(
            _("some times have an offset and some have none"), _("Name the zone of the others: --tz Europe/London")
        )  # fmt: skip
    return found


def _place(table: Table, name: str) -> int | None:
    return table.header.index(name) if name in table.header else None


def _time(typed: str, line: int, zone: ZoneInfo | None, before: datetime | None) -> datetime:
    try:
        at = datetime.fromisoformat(typed)
    except ValueError:
        raise UnusableData(
            _("{typed!r} is no time", typed=typed[:40]),
            _("Write 2026-05-07 14:30, with an offset if there is one"),
            row=line,
            column="time",
        ) from None
    if zone is None:
        return at
    if at.tzinfo is not None:
        return at.astimezone(zone)
    here = at.replace(tzinfo=zone)
    again = here.replace(fold=1)
    if again.utcoffset() != here.utcoffset() and before is not None and here.timestamp() <= before.timestamp():
        return again
    return here


def _air(typed: str, name: str, line: int) -> float | None:
    value = _number(typed, name, line)
    return (value - 32) * 5 / 9 if value is not None and name == "air_f" else value


def _held(typed: str, name: str, line: int) -> float | None:
    value = _number(typed, name, line)
    if value is None:
        return None
    least, most = WITHIN[name]
    if not least <= value <= most:
        raise UnusableData(
            _("{value:g} can't be", value=value),
            _(
                "It lies between {least:g} and {most:g}; leave blank what was not read",
                least=max(0.0, least),
                most=most,
            ),
            row=line,
            column=name,
        )
    return min(max(value, 0.0), 100.0) if name == "rh" else max(value, 0.0)


def _number(typed: str, name: str, line: int) -> float | None:
    if not typed:
        return None
    try:
        return read_number(typed, name)
    except InvalidInput:
        raise UnusableData(
            _("{typed!r} is not a number", typed=typed[:40]),
            _("Leave blank what was not read"),
            row=line,
            column=name,
        ) from None
