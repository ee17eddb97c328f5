"""Places on the bench: blocks laid over trays in the order in which a person walks them.

Inside a tray the walk goes along row 1, then row 2 ... A block starts in the tray where the last one
ended when it still fits there whole, otherwise in a fresh tray.
"""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.errors import InvalidInput

MOST_SIDE = 60
MOST_UNITS = 5_000


@dataclass(frozen=True)
class Position:
    """A cell: tray, row and column all count from 1."""

    tray: int
    row: int
    column: int


def check_tray(rows: int, columns: int) -> None:
    """Refuse trays that no bench holds."""
    for name, value in (("tray rows", rows), ("tray columns", columns)):
        if not 1 <= value <= MOST_SIDE:
            raise InvalidInput(name, f"must be between 1 and {MOST_SIDE}", value)


def places_for(block_sizes: list[int], rows: int, columns: int) -> list[Position]:
    """Positions for the units of each block, in bench order.

    Parameters
    ----------
    block_sizes : list of int
        Units per block; one entry for a completely randomised layout.
    rows, columns : int
        Cells of one tray.
    """
    check_tray(rows, columns)
    if sum(block_sizes) > MOST_UNITS:
        raise InvalidInput("cuttings", f"one trial holds at most {MOST_UNITS}", sum(block_sizes))
    cells = rows * columns
    places: list[Position] = []
    tray, used = 1, 0
    for size in block_sizes:
        if used and used + size > cells:
            tray, used = tray + 1, 0
        for _ in range(size):
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
    check_tray(rows, columns)
    if rows < order or columns < order:
        raise InvalidInput(
            "tray", f"must hold the square: at least {order} rows by {order} columns", f"{rows} x {columns}"
        )
    return [Position(1, row + 1, column + 1) for row in range(order) for column in range(order)]
