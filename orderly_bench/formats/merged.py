"""Levels that a sheet gives once for all the rows below, as merged cells are saved: written out for each row."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages.say import caution
from orderly_bench.formats.headings import as_named
from orderly_bench.formats.table_csv import Table


def merged_down(table: Table, names: Sequence[str]) -> tuple[Table, list[Caution]]:
    """The table with the blanks of some columns filled from above, where they are surely merged cells; else as it is.

    They are where each value stands once, with blanks below it; and, right of such a column, where all values have as many blanks below
    them. Anything else may be a cell that was forgotten, or a treatment that was not given.

    Parameters
    ----------
    names : sequence of str
        Columns that somebody names.

    Examples
    --------
    >>> sheet = Table(["medium", "k"], [["sand", "1"], ["", "2"], ["grit", "3"], ["", "4"]], [2, 3, 4, 5])
    >>> [row[0] for row in merged_down(sheet, ["medium"])[0].rows]
    ['sand', 'sand', 'grit', 'grit']
    """
    wanted = set(names)
    rows, filled = [list(row) for row in table.rows], list[str]()
    for i, head in enumerate(as_named(table, names).header):
        cells = [row[i] for row in rows]
        if head not in wanted or not _merged(cells, bool(filled)):
            continue
        filled.append(table.header[i])
        above = ""
        for row in rows:
            row[i] = above = row[i] or above
    return replace(table, rows=rows), [caution("merged", column=name) for name in filled]


def _merged(cells: Sequence[str], inside: bool) -> bool:
    starts = [at for at, cell in enumerate(cells) if cell]
    if len(starts) < 2 or starts[0] != 0:
        return False
    lengths = {end - start for start, end in zip(starts, [*starts[1:], len(cells)], strict=True)}
    once = len({cells[at] for at in starts}) == len(starts)
    return min(lengths) > 1 and (once or (inside and len(lengths) == 1))
