"""A list of the shelf as CSV: a row per entry, a column per field; what is written is read back the same."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TypeVar

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.stock.listed import Listed
from orderly_bench.formats.table_csv import FORMULA_STARTS, column, read_table, write

T = TypeVar("T")
MOST_ENTRIES = 5_000


def write_entries(listed: Listed[T], entries: Iterable[T]) -> str:
    """CSV text that ``read_entries`` reads back."""
    names = [one.name for one in listed.asked]
    return write(names, ([listed.as_typed(entry)[name] for name in names] for entry in entries))


def read_entries(listed: Listed[T], data: bytes) -> list[T]:
    """The entries of a file, every one checked.

    Raises
    ------
    UnusableData
        Not a table, a column that the list has not, a needed one missing, or an entry that can't be kept; names row and column.
    """
    table = read_table(data)
    known = [one.name for one in listed.asked]
    for name in table.header:
        if name not in known:
            raise UnusableData(
                _("there is no field {name!r} in this list", name=name[:40]), _("The columns may be: {names}", names=", ".join(known)), row=1
            )  # fmt: skip
    for name in listed.needed:
        column(table, name)
    if not table.rows:
        raise UnusableData(_("there is no entry under the header"), _("Give each entry a row"))
    if len(table.rows) > MOST_ENTRIES:
        raise UnusableData(_("more than {n} entries", n=MOST_ENTRIES), _("Split the file"))
    found = []
    for cells, line in zip(table.rows, table.lines, strict=True):
        typed = {name: _as_meant(cell) for name, cell in zip(table.header, cells, strict=True)}
        try:
            found.append(listed.read(typed))
        except InvalidInput as error:
            raise UnusableData(
                str(error).rstrip("."), _("Put the row right; nothing of the file was kept"), row=line
            ) from error
    return found


def _as_meant(cell: str) -> str:
    """Without the mark that keeps a spreadsheet from running a cell."""
    return cell[1:] if cell[:1] == "'" and cell[1:2] in FORMULA_STARTS else cell
