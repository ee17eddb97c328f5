"""Places on the bench: blocks laid over trays in the order in which a person walks them.

Inside a tray the walk goes along row 1, then row 2 ... A block starts in the tray where the last one
ended when it still fits there whole, otherwise in a fresh tray; a whole plot always does, for what is given to one goes on its tray.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.treatments import Container
from orderly_bench.core.randomise.drawn_layout import DrawnLayout

MOST_UNITS = 5_000


@dataclass(frozen=True)
class Position:
    """A cell: tray, row and column all count from 1; so does the spot in a vessel that holds several units."""

    tray: int
    row: int
    column: int
    spot: int = 1


@dataclass(frozen=True)
class Stand:
    """A tray, bed or vessel as it stands on the bench."""

    number: int
    container: Container


def places_for(block_sizes: list[int], rows: int, columns: int, fresh: bool = False) -> list[Position]:
    """Positions for the units of each block, in bench order.

    Parameters
    ----------
    block_sizes : list of int
        Units per block; one entry for a completely randomised layout.
    rows, columns : int
        Cells of one tray.
    fresh : bool
        Each block begins a tray.
    """
    if sum(block_sizes) > MOST_UNITS:
        raise InvalidInput(
            "cuttings", _("one trial holds at most {most_units}", most_units=MOST_UNITS), sum(block_sizes)
        )
    cells = rows * columns
    places: list[Position] = []
    tray, used = 1, 0
    for size in block_sizes:
        if used and (fresh or used + size > cells):
            tray, used = tray + 1, 0
        for _unit in range(size):
            if used == cells:
                tray, used = tray + 1, 0
            places.append(Position(tray, used // columns + 1, used % columns + 1))
            used += 1
    return places


def places_of_square(order: int, rows: int, columns: int) -> list[Position]:
    """Positions of a Latin square: its rows and columns are those of the first tray, row by row.

    Raises
    ------
    InvalidInput
        When the tray has fewer rows or columns than the square.
    """
    if rows < order or columns < order:
        raise InvalidInput(
            "tray",
            _("must hold the square: at least {order} rows by {order} columns", order=order),
            f"{rows} x {columns}",
        )
    return [Position(1, row + 1, column + 1) for row in range(order) for column in range(order)]


def stand(
    layout: DrawnLayout, containers: Sequence[Container], first_tray: int = 1, one_vessel: bool = False
) -> tuple[list[Position], list[Stand]]:
    """Where a layout's units stand: a square on its tray, blocks side by side, and each kind of container by itself.

    Parameters
    ----------
    layout : Layout
    containers : sequence of Container
        What each unit stands in, in the layout's order.
    first_tray : int
        Number of the first tray.
    one_vessel : bool
        Units of one whole plot or block share a vessel, each with a spot in it.

    Returns
    -------
    positions : list of Position
        One for each unit, in the layout's order.
    stands : list of Stand

    Raises
    ------
    InvalidInput
        A square that its tray can't hold, sides that no bench holds, too many units.
    """
    groups = layout.groups()
    if "row" in groups:
        kinds = set(containers)
        if len(kinds) > 1:
            raise InvalidInput(
                "containers", _("must be alike in a Latin square; its rows and columns are those of one tray")
            )
        kind = kinds.pop()
        places = places_of_square(int(groups["row"].max()) + 1, kind.rows, kind.columns)
        return [replace(p, tray=first_tray) for p in places], [Stand(first_tray, kind)]
    group = next(iter(groups.values()), np.zeros(layout.arm.size, dtype=int))
    if one_vessel:
        return _in_vessels(group, containers, first_tray)
    positions: list[Position | None] = [None] * layout.arm.size
    stands: list[Stand] = []
    for kind in dict.fromkeys(containers):
        mine = [i for i, container in enumerate(containers) if container == kind]
        places = places_for(np.bincount(group[mine]).tolist(), *_sides(kind), "whole plot" in groups)
        offset = first_tray + len(stands) - 1
        for unit, place in zip(mine, places, strict=True):
            positions[unit] = replace(place, tray=place.tray + offset)
        stands += [Stand(offset + t, kind) for t in range(1, max(p.tray for p in places) + 1)]
    return [p for p in positions if p is not None], stands


def _sides(kind: Container) -> tuple[int, int]:
    """Rows and columns of a stand; what stands by itself is one place."""
    return (1, 1) if kind.shape.alone else (kind.rows, kind.columns)


def _in_vessels(
    group: np.ndarray, containers: Sequence[Container], first_tray: int
) -> tuple[list[Position], list[Stand]]:
    """One vessel for each whole plot or block; its units have spots in it."""
    kind = containers[0]
    if not kind.shape.vessel or len(set(containers)) > 1:
        raise InvalidInput("containers", _("that several arms share must be one kind of pot, jar or tank"))
    places = places_for([int(group.max()) + 1], *_sides(kind))
    seen: dict[int, int] = {}
    positions = []
    for plot in group.tolist():
        seen[plot] = seen.get(plot, 0) + 1
        at = places[plot]
        positions.append(Position(at.tray + first_tray - 1, at.row, at.column, seen[plot]))
    return positions, [Stand(first_tray + t, kind) for t in range(max(p.tray for p in places))]
