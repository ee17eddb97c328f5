"""Units that stand elsewhere from now on: which place each goes to, and who changes places with them."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from enum import StrEnum
from typing import TypeVar

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_

K = TypeVar("K", bound=Hashable)
#: Tray, row and place in the row, each from 1.
Place = tuple[int, int, int]
#: Rows and columns of each tray, by its number.
Sizes = Mapping[int, tuple[int, int]]


class Way(StrEnum):
    """How units are moved at once."""

    FROM_HERE = N_("these units, from a place on")
    TURNED = N_("a tray turned round by half")
    CHANGED = N_("two trays change places, cell by cell")


def following(first: Place, how_many: int, sizes: Sizes) -> list[Place]:
    """So many places from one on, along the rows of its tray and on to the trays after it.

    Raises
    ------
    InvalidInput
        A place outside the tray, or fewer places left than units.
    """
    tray, row, column = _inside(first, sizes)
    found: list[Place] = []
    for number in sorted(n for n in sizes if n >= tray):
        rows, columns = sizes[number]
        found += [(number, r, c) for r in range(1, rows + 1) for c in range(1, columns + 1)]
    left = [place for place in found if place >= (tray, row, column)]
    if len(left) < how_many:
        rule = _("from there on are {left} places for {n} units", left=len(left), n=how_many)
        raise InvalidInput("place", rule, _("row {row}, place {column}", row=row, column=column))
    return left[:how_many]


def turned(tray: int, standing: Mapping[K, Place], sizes: Sizes) -> dict[K, Place]:
    """Where the units of a tray stand once it is turned round by half."""
    rows, columns = sizes[_tray(tray, sizes)]
    return {
        unit: (tray, rows + 1 - row, columns + 1 - column) for unit, (at, row, column) in standing.items() if at == tray
    }


def changed(one: int, other: int, standing: Mapping[K, Place], sizes: Sizes) -> dict[K, Place]:
    """Where the units of two trays stand once those of each are in the other.

    Raises
    ------
    InvalidInput
        The same tray twice, or two of different rows and columns.
    """
    if one == other or sizes[_tray(one, sizes)] != sizes[_tray(other, sizes)]:
        raise InvalidInput(
            "tray",
            _("choose two trays with as many rows and columns"),
            _("{one} and {other}", one=one, other=other),
        )
    to = {one: other, other: one}
    return {unit: (to[at], row, column) for unit, (at, row, column) in standing.items() if at in to}


def rearranged(standing: Mapping[K, Place], wanted: Mapping[K, Place], sizes: Sizes) -> dict[K, Place]:
    """Where everyone stands whose place changes: those moved, and those who stood there and take the places left free.

    Units of one vessel have one place and may go to one.

    Raises
    ------
    InvalidInput
        A place outside its tray, two units to one place, nothing that moves.

    Examples
    --------
    >>> rearranged({"a": (1, 1, 1), "b": (1, 1, 2)}, {"a": (1, 1, 2)}, {1: (1, 2)})
    {'a': (1, 1, 2), 'b': (1, 1, 1)}
    """
    for place in wanted.values():
        _inside(place, sizes)
    if len(set(wanted.values())) < len({standing[unit] for unit in wanted}):
        raise InvalidInput("place", _("two units can't stand in one place; give each its own"))
    moved = {unit: place for unit, place in wanted.items() if standing[unit] != place}
    if not moved:
        raise InvalidInput("place", _("all stand there already"))
    holder: dict[Place, list[K]] = {}
    for unit, place in standing.items():
        holder.setdefault(place, []).append(unit)
    targets = set(wanted.values())
    free = _free(moved, standing, targets)
    for place in list(moved.values()):
        others = [unit for unit in holder.get(place, []) if unit not in wanted]
        if others:
            there = free.pop(0)
            moved |= dict.fromkeys(others, there)
    return moved


def _free(moved: Mapping[K, Place], standing: Mapping[K, Place], targets: set[Place]) -> list[Place]:
    """Places that those who move leave and nobody who moves takes."""
    left: Sequence[Place] = [standing[unit] for unit in moved]
    return list(dict.fromkeys(place for place in left if place not in targets))


def _tray(number: int, sizes: Sizes) -> int:
    if number not in sizes:
        raise InvalidInput(
            "tray", _("must be one of the trays {names}", names=", ".join(map(str, sorted(sizes)))), number
        )
    return number


def _inside(place: Place, sizes: Sizes) -> Place:
    tray, row, column = place
    rows, columns = sizes[_tray(tray, sizes)]
    if not (1 <= row <= rows and 1 <= column <= columns):
        rule = _("tray {number} has {rows} rows of {columns}", number=tray, rows=rows, columns=columns)
        raise InvalidInput("place", rule, _("row {row}, place {column}", row=row, column=column))
    return place
