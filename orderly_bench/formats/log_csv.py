"""A logger's file as CSV: columns ``time``, ``air_c`` (or ``air_f``) and, where there are, ``rh`` and ``ppfd``."""

from __future__ import annotations

from datetime import datetime
from zoneinfo import ZoneInfo

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.words import tell
from orderly_bench.core.tend.conditions import Reading
from orderly_bench.core.typed import read_number
from orderly_bench.formats.tidy_csv import Table, column, read_table

#: What a column may hold; a sensor in mist reads a little over 100 %, one in the dark a little under 0.
WITHIN = {"rh": (0.0, 105.0), "ppfd": (-5.0, 5_000.0)}


def read_log(data: bytes, zone: ZoneInfo | None = None) -> list[Reading]:
    """Readings in the order of the file.

    Parameters
    ----------
    data : bytes
        The file.
    zone : ZoneInfo, optional
        Of times without an offset; then all are told in it, and the hour that comes twice in autumn is told apart by order.

    Raises
    ------
    UnusableData
        Not a table, no time or air, a cell that is no time or number, times with and without an offset; names row and column.
    """
    table = read_table(data)
    at, air_name = column(table, "time"), "air_f" if "air_f" in table.header else "air_c"
    air, rh, ppfd = column(table, air_name), _place(table, "rh"), _place(table, "ppfd")
    found: list[Reading] = []
    before: datetime | None = None
    for cells, line in zip(table.rows, table.lines, strict=True):
        before = _time(cells[at], line, zone, before)
        celsius = _number(cells[air], air_name, line)
        if celsius is not None and air_name == "air_f":
            celsius = (celsius - 32) * 5 / 9
        found.append(Reading(before, celsius, _held(cells, rh, "rh", line), _held(cells, ppfd, "ppfd", line)))
    if len({one.at.tzinfo is None for one in found}) > 1:
        raise UnusableData(
            tell("some times have an offset and some have none"), tell("Name the zone of the others: --tz Europe/London")
        )  # fmt: skip
    return found


def _place(table: Table, name: str) -> int | None:
    return table.header.index(name) if name in table.header else None


def _time(typed: str, line: int, zone: ZoneInfo | None, before: datetime | None) -> datetime:
    try:
        at = datetime.fromisoformat(typed)
    except ValueError:
        raise UnusableData(
            tell("{typed!r} is no time", typed=typed[:40]),
            tell("Write 2026-05-07 14:30, with an offset if there is one"),
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


def _held(cells: list[str], place: int | None, name: str, line: int) -> float | None:
    value = None if place is None else _number(cells[place], name, line)
    if value is None:
        return None
    least, most = WITHIN[name]
    if not least <= value <= most:
        raise UnusableData(
            tell("{value:g} can't be", value=value),
            tell(
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
            tell("{typed!r} is not a number", typed=typed[:40]),
            tell("Leave blank what was not read"),
            row=line,
            column=name,
        ) from None
