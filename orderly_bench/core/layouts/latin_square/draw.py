"""Latin square: every arm once in every row and column, drawn uniformly from all squares of the order."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.layouts.latin_square.squares import (
    MOST_LISTED,
    all_squares,
    check_order,
    count_squares,
    draw_square,
    draw_squares,
    squares_in_order,
)
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.randomise.drawn_layout import Request


@dataclass(frozen=True)
class LatinSquare:
    """Every arm once in every row and every column; drawn uniformly from all squares of the order.

    Attributes
    ----------
    arm, row, column : ndarray of int, shape (cells,)
    """

    arm: np.ndarray
    row: np.ndarray
    column: np.ndarray

    @property
    def block(self) -> np.ndarray:
        """Rows and columns hold every arm equally, so nothing needs adjusting."""
        return np.zeros(self.arm.size, dtype=int)

    @property
    def order(self) -> int:
        """Arms, rows and columns."""
        return int(self.arm.max()) + 1

    def assignments(self) -> int:
        """Latin squares of the order."""
        return count_squares(self.order)

    def every(self) -> np.ndarray | None:
        """All squares up to order 5 (161,280)."""
        return self._cells(all_squares(self.order)) if self.order <= MOST_LISTED else None

    def unlabelled(self) -> np.ndarray | None:
        """Squares whose first row is in order, up to order 5 (1,344); any symbols may be put for its own."""
        return self._cells(squares_in_order(self.order)) if self.order <= MOST_LISTED else None

    def redraw(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """Arm indices of ``draws`` uniform squares, shape (draws, cells)."""
        return self._cells(draw_squares(self.order, rng, draws))

    def _cells(self, squares: np.ndarray) -> np.ndarray:
        return squares[:, self.row, self.column]

    def groups(self) -> dict[str, np.ndarray]:
        """Rows and columns."""
        return {"row": self.row, "column": self.column}


def draw_in_a_square(request: Request, rng: np.random.Generator) -> LatinSquare:
    """Draw a Latin square of the arms."""
    order = check_order(request.arms)
    if request.units_per_arm != order:
        rule = _("is {order} in a Latin square of {order} arms: one in each row and column", order=order)
        raise InvalidInput("units per arm", rule, request.units_per_arm)
    square = draw_square(order, rng)
    row, column = np.divmod(np.arange(order * order), order)
    return LatinSquare(square.ravel(), row, column)
