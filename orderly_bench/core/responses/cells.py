"""Cells of a table read as values; a blank is unknown."""

from __future__ import annotations

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_

LARGEST_COUNT, LARGEST_MM = 10_000, 100_000.0


def yes_or_no(cell: str, name: str, line: int) -> float | None:
    """1, 0 or blank."""
    if cell == "":
        return None
    if cell not in ("0", "1"):
        what = N_("rooting result") if name == "rooted" else _("yes or no")
        yes = N_("rooted") if name == "rooted" else N_("yes")
        raise UnusableData(
            _("{cell!r} is not a {what}", cell=cell[:40], what=what),
            _(
                "Write 1 for {yes}, 0 for not, blank for left out; or a tally, with how many were stuck in a column beside it",
                yes=yes,
            ),
            row=line,
            column=name,
        )
    return float(cell)


def number(cell: str, name: str, line: int, high: float) -> float | None:
    """A number from 0 up; a decimal comma is read as a point."""
    if cell == "":
        return None
    try:
        value = float(cell.replace(",", ".")) if len(cell) <= 20 else float("nan")
    except ValueError:
        value = float("nan")
    if not 0 <= value <= high:
        raise UnusableData(
            _("{cell!r} is not a number between 0 and {high:g}", cell=cell[:40], high=high),
            _("Write the number, 0 for none, blank for not looked"),
            row=line,
            column=name,
        )
    return value


def whole(cell: str, name: str, line: int) -> float | None:
    """A whole number of roots."""
    value = number(cell, name, line, LARGEST_COUNT)
    if value is not None and value != int(value):
        raise UnusableData(
            _("{cell!r} is not a whole number", cell=cell[:40]),
            _("Roots are counted; write a whole number"),
            row=line,
            column=name,
        )
    return value


def millimetres(cell: str, name: str, line: int) -> float | None:
    """A length."""
    return number(cell, name, line, LARGEST_MM)


def grade(cell: str, name: str, line: int) -> float | None:
    """A grade from 0 to 5."""
    return number(cell, name, line, 5)
