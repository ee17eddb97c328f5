"""Latin square: every arm once in every row and column; all squares of the order are as likely."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.layouts.drawn import Drawn, firsts
from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.layouts.latin_square.draw import LatinSquare as SquareDraw
from orderly_bench.core.layouts.layout import NO_MODEL, Layout
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import linear
from orderly_bench.core.methods.logistic import ModelTest


class LatinSquare(Layout):
    """Rows and columns lay out the units."""

    name = "Latin square"
    columns = (("--row", "square_row"), ("--column", "square_column"))
    whole_redraw = True
    factors_in_strata = False
    grows = False
    by_level = False
    tables = False
    transforms = False

    def misfit(self) -> UnusableData | None:
        """Every arm must stand once in every row and every column."""
        cells: dict[tuple[str, str], set[tuple[str, ...]]] = {}
        for row in self.o.rows:
            cells.setdefault((row.row or "", row.column or ""), set()).add(row.levels)
        order = len(self.o.arms)
        rows, columns = {r for r, _ in cells}, {c for _, c in cells}
        in_lines = [
            *({next(iter(cells[r, c])) for c in columns if (r, c) in cells} for r in rows),
            *({next(iter(cells[r, c])) for r in rows if (r, c) in cells} for c in columns),
        ]
        one_each = all(len(arms) == 1 for arms in cells.values())
        whole = one_each and len(cells) == order * order and len(rows) == len(columns) == order
        if whole and all(len(seen) == order for seen in in_lines):
            return None
        return UnusableData(
            _("rows and columns do not make a Latin square of order {order}", order=order),
            _("Every arm must stand once in every row and every column; else use --block"),
        )

    @property
    def redrawn(self) -> str:
        """What the randomisation test repeats, in words."""
        return clause("redrawn/square", order=str(len(self.o.arms)))

    def _lines(self) -> tuple[np.ndarray, np.ndarray]:
        """Row and column of each known row."""
        return self.o.group_index(lambda r: r.row), self.o.group_index(lambda r: r.column)

    def drawn(self) -> Drawn | None:
        """The cells of the square."""
        row, column = self._lines()
        cells: dict[tuple[int, int], list[int]] = {}
        for i, place in enumerate(zip(row.tolist(), column.tolist(), strict=True)):
            cells.setdefault(place, []).append(i)
        members = list(cells.values())
        one = firsts(members)
        return Drawn(members, SquareDraw(self.o.arm_of_known[one], row[one], column[one]))

    def groupings(self) -> list[np.ndarray]:
        """Rows and columns."""
        one = firsts(self.o.units.members)
        return [line[one] for line in self._lines()]

    def frame(self, a: int, b: int) -> Frame:
        """The cells, with rows and columns in the model."""
        return self._frame

    @cached_property
    def _frame(self) -> Frame:
        units = self.o.units
        return Frame(units.members, units.arm, np.zeros_like(units.arm), self.groupings(), modelled=True)

    def model(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """The linear model on unit proportions, of all arms together."""
        overall = smaller.shape[1] == 1 and larger.shape[1] == larger.shape[0]
        if not overall:
            return NO_MODEL
        return linear.fit_arms(self.o.units.mean, self.o.units.arm, self.groupings()).test
