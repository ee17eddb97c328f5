"""Arms as CSV: a row per arm, a column ``arm`` and a column per aspect; a blank cell is *not said*."""

from __future__ import annotations

from collections.abc import Sequence

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.separable import Described
from orderly_bench.formats.table_csv import column, read_table, write

NAME = "arm"


def read_arms(data: bytes) -> list[Described]:
    """Arms with what they say of each aspect.

    Raises
    ------
    UnusableData
        Not a table, no column ``arm``, no aspect, a blank name; names row and column.
    """
    table = read_table(data)
    place = column(table, NAME)
    aspects = [name for name in table.header if name != NAME]
    if not aspects:
        raise UnusableData(
            _("there is no aspect beside the arm"), _("Add a column for each thing that describes an arm")
        )
    if "" in aspects:
        raise UnusableData(_("a column has no name"), _("Name every aspect in the header"), row=1)
    arms = []
    for cells, line in zip(table.rows, table.lines, strict=True):
        if not cells[place]:
            raise UnusableData(_("the arm has no name"), _("Name every arm"), row=line, column=NAME)
        values = {name: cell for name, cell in zip(table.header, cells, strict=True) if name != NAME}
        arms.append(Described(cells[place], values))
    return arms


def write_arms(arms: Sequence[Described], aspects: Sequence[str]) -> str:
    """CSV text that ``read_arms`` reads back."""
    return write([NAME, *aspects], ([arm.name, *(arm.says(a) for a in aspects)] for arm in arms))
