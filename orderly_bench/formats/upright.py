"""A table as people keep it, with a row for each cutting or for each tray: whatever lies across its heads stands in columns of its own."""

from __future__ import annotations

import re
from collections.abc import Sequence

from orderly_bench.core.cautions import Caution
from orderly_bench.core.responses.kind import Response, Scale
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.formats.arms_across import arms_down
from orderly_bench.formats.cuttings_across import cuttings_down
from orderly_bench.formats.levels_across import levels_down
from orderly_bench.formats.merged import merged_down
from orderly_bench.formats.reps_across import reps_down
from orderly_bench.formats.table_csv import Table

#: *Control (n = 20)*: of how many the numbers below are.
_OF_SO_MANY = re.compile(
    r"(?P<name>.*\S)\s*(?:[(\[]\s*n\s*=\s*(?P<n>\d{1,4})\s*[)\]]|,?\s+n\s*=\s*(?P<n_>\d{1,4}))", re.IGNORECASE
)


def upright(
    table: Table, factors: Sequence[str], response: Response, but: Sequence[str]
) -> tuple[Table, list[Caution]]:
    """The table as the others read it, and what was read into it.

    Parameters
    ----------
    factors : sequence of str
        Columns that make up the arm, or what stands in the heads instead of one.
    but : sequence of str
        Columns that somebody names; they stay what they are.
    """
    table, told = merged_down(table, [*factors, *but])
    table = _of_so_many(table, response)
    for way in (levels_down, arms_down, reps_down, cuttings_down):
        if found := way(table, factors, response, but):
            return found[0], [*told, *found[1]]
    return table, told


def _of_so_many(table: Table, response: Response) -> Table:
    """The table with *5 of 20* in the cells of a column headed *n = 20*, where a yes or no is asked and each is a whole number."""
    if kind_of(response).scale is not Scale.YES_NO:
        return table
    header, rows = list(table.header), [list(cells) for cells in table.rows]
    for i, head in enumerate(table.header):
        hit, cells = _OF_SO_MANY.fullmatch(head), [row[i] for row in rows if row[i]]
        if hit is None or not cells:
            continue
        many = int(hit["n"] or hit["n_"])
        if all(cell.isdecimal() and int(cell) <= many for cell in cells):
            header[i] = hit["name"]
            for row in rows:
                row[i] = f"{row[i]} of {many}" if row[i] else ""
    return Table(header, rows, table.lines)
