"""Nights to come as CSV: columns ``day``, ``low_c`` (or ``low_f``) and, where there are, ``high_c`` (or ``high_f``)."""

from __future__ import annotations

from collections.abc import Sequence

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.forecast import Night, read_night
from orderly_bench.formats.table_csv import column, read_table

MOST_NIGHTS = 31


def read_forecast(data: bytes, gains: str = "", source: str = "") -> list[Night]:
    """Every night of a file, each held to what weather can be.

    Parameters
    ----------
    gains : str
        What cover and heat add to the lowest, as typed, in the unit of the file.
    source : str
        Who says so.

    Raises
    ------
    UnusableData
        Not a table, no day or lowest, a night that can't be or comes twice; names the row.
    """
    table = read_table(data)
    fahrenheit = "low_f" in table.header
    day, low = column(table, "day"), column(table, "low_f" if fahrenheit else "low_c")
    high = table.header.index(name) if (name := "high_f" if fahrenheit else "high_c") in table.header else None
    if len(table.rows) > MOST_NIGHTS:
        raise UnusableData(_("{n} nights are more than any forecast", n=str(len(table.rows))), _("Leave the last out"))
    found: dict[str, Night] = {}
    for cells, line in zip(table.rows, table.lines, strict=True):
        typed = {
            "day": cells[day],
            "low": cells[low],
            "high": cells[high] if high is not None else "",
            "gains": gains,
            "source": source,
        }
        try:
            night = read_night(typed, fahrenheit)
        except InvalidInput as refused:
            raise UnusableData(str(refused).rstrip("."), _("Put the row right"), row=line) from None
        if str(night.day) in found:
            raise UnusableData(_("{day} comes twice", day=str(night.day)), _("Keep one of them"), row=line)
        found[str(night.day)] = night
    return list(found.values())


def forecast_csv(nights: Sequence[Night]) -> bytes:
    """The same as a file."""
    rows = [f"{one.day.isoformat()},{one.low:g},{'' if one.high is None else f'{one.high:g}'}" for one in nights]
    return ("\n".join(["day,low_c,high_c", *rows]) + "\n").encode()
