"""A CSV file, or a workbook's first sheet, as a header and cells; and cells as CSV.

Reads what spreadsheets write (a byte-order mark, comma, semicolon or tab between the cells, any line ends), writes RFC 4180.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.formats.xlsx import as_csv

MOST_ROWS = 1_000_000
#: Cells that start like this would be run as a formula by a spreadsheet.
FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


@dataclass(frozen=True)
class Table:
    """A header and rows of cells; row i stands in line ``lines[i]`` of the file."""

    header: list[str]
    rows: list[list[str]]
    lines: list[int]


#: No first line is longer, in characters.
LONGEST_LINE = 100_000


def read_table(data: bytes) -> Table:
    """Read CSV bytes, or a workbook's first sheet, into cells, naming the row that is wrong.

    Raises
    ------
    UnusableData
        Not UTF-8 text, empty, no header, doubled header names, a row with too many or too few cells.
    """
    data = as_csv(data)
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise UnusableData(
            _("byte {start} is not UTF-8 text", start=error.start + 1),
            _("Save the file as 'CSV UTF-8' and try again"),
        ) from error
    if "\x00" in text:
        raise UnusableData(_("the file holds NUL characters, so it is not CSV text"), _("Save it as 'CSV UTF-8'"))
    if not text.strip():
        raise UnusableData(_("the file is empty"), _("It needs a header and one row per cutting"))
    first = text.lstrip("\r\n")[:LONGEST_LINE].splitlines()[0]
    delimiter = max(",;\t", key=first.count)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    header: list[str] = []
    rows: list[list[str]] = []
    lines: list[int] = []
    same: dict[str, str] = {}  # a table has few different cells: each is kept once
    try:
        for typed in reader:
            cells = list(map(str.strip, typed))
            if not any(cells):
                continue
            if not header:
                header = _header(cells)
                continue
            if len(cells) != len(header):
                raise UnusableData(
                    _("has {n} cells where the header has {columns}", n=len(cells), columns=len(header)),
                    _("Give every row one cell per column; put text holding the separator in quotes"),
                    row=reader.line_num,
                )
            rows.append([same.setdefault(cell, cell) for cell in cells])
            lines.append(reader.line_num)
            if len(rows) > MOST_ROWS:
                raise UnusableData(_("more than {most_rows} rows", most_rows=MOST_ROWS), _("Split the file"))
    except csv.Error as error:
        raise UnusableData(
            _("cannot be read as CSV ({error})", error=error), _("Check its quotes"), row=reader.line_num
        ) from error
    return Table(header, rows, lines)


def _header(cells: list[str]) -> list[str]:
    header = [cell.strip() for cell in cells]
    for name in header:
        if header.count(name) > 1:
            raise UnusableData(
                _("column {name} stands twice", name=name or _("(no name)")),
                _("Give every column its own name"),
                row=1,
            )
    return header


def column(table: Table, name: str) -> int:
    """Index of a column.

    Raises
    ------
    UnusableData
        When there is none, naming those there are.
    """
    if name not in table.header:
        raise UnusableData(
            _("there is no column {name!r}", name=name),
            _("The columns are: {names}", names=", ".join(table.header)),
            row=1,
            column=name,
        )
    return table.header.index(name)


def write(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """CSV text; None becomes a blank. Text that a spreadsheet would run as a formula gets a leading quote."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow([_safe(cell) for cell in header])
    for row in rows:
        writer.writerow([_safe(cell) for cell in row])
    return out.getvalue()


def _safe(cell: object) -> object:
    if cell is None:
        return ""
    if isinstance(cell, str) and cell.startswith(FORMULA_STARTS):
        return "'" + cell
    return cell
