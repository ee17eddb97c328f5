"""A CSV file, or a workbook's first sheet, as a header and cells; and cells as CSV.

Reads what spreadsheets write (UTF-8, UTF-16 or Windows' own alphabet, a title above, comma, semicolon or tab between the cells, any
line ends), writes RFC 4180.
"""

from __future__ import annotations

import contextlib
import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.formats.xlsx import as_csv

MOST_ROWS = 1_000_000
#: Rows of a title above the names of the columns.
MOST_ABOVE = 20
#: What parts cells.
DELIMITERS = ",;\t"
#: Cells that start like this would be run as a formula by a spreadsheet.
FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


@dataclass(frozen=True)
class Table:
    """A header and rows of cells; row i stands in line ``lines[i]`` of the file."""

    header: list[str]
    rows: list[list[str]]
    lines: list[int]


class NoSuchColumn(UnusableData):
    """A column that a table lacks."""


#: No first line is longer, in characters.
LONGEST_LINE = 100_000


def read_table(data: bytes) -> Table:
    """Read CSV bytes, or a workbook's first sheet, into cells, naming the row that is wrong.

    Raises
    ------
    UnusableData
        No text, empty, no header, doubled header names, a row with too many or too few cells.
    """
    text = decoded(as_csv(data))
    if "\x00" in text:
        raise UnusableData(_("the file holds NUL characters, so it is not CSV text"), _("Save it as 'CSV UTF-8'"))
    if not text.strip():
        raise UnusableData(_("the file is empty"), _("It needs a header and one row per cutting"))
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=_delimiter(text))
    header: list[str] = []
    rows: list[list[str]] = []
    lines: list[int] = []
    same: dict[str, str] = {}  # a table has few different cells: each is kept once
    try:
        for typed in reader:
            cells = list(map(str.strip, typed))
            if not any(cells):
                continue
            if not header or (len(rows) < MOST_ABOVE and _is_title(header, cells)):
                header, rows, lines = _header(cells), [], []
                continue
            _check_row(cells, header, reader.line_num, first=not rows)
            rows.append([same.setdefault(cell, cell) for cell in cells])
            lines.append(reader.line_num)
            if len(rows) > MOST_ROWS:
                raise UnusableData(_("more than {most_rows} rows", most_rows=MOST_ROWS), _("Split the file"))
    except csv.Error as error:
        raise UnusableData(
            _("cannot be read as CSV ({error})", error=error), _("Check its quotes"), row=reader.line_num
        ) from error
    return _without_empty(Table(header, rows, lines))


def decoded(data: bytes, errors: str = "strict") -> str:
    """The text of a file: UTF-8, UTF-16 by its mark, else as spreadsheets of Windows write it where nobody asks for UTF-8.

    Parameters
    ----------
    data : bytes
    errors : str
        What becomes of bytes that Windows' alphabet does not know: refused, or *replace*.

    Raises
    ------
    UnusableData
        Bytes that are no text in any of these.
    """
    marked = data[:2] in (b"\xff\xfe", b"\xfe\xff")
    for encoding, how in (("utf-16", "strict"),) if marked else (("utf-8-sig", "strict"), ("cp1252", errors)):
        with contextlib.suppress(UnicodeDecodeError):
            return data.decode(encoding, how)
    raise UnusableData(_("this is no text that can be read"), _("Save the file as 'CSV UTF-8' and try again"))


def _delimiter(text: str) -> str:
    """What parts the cells of the first line that has several: a title above it has one."""
    lines = text[:LONGEST_LINE].splitlines()
    first = next((line for line in lines if any(map(line.count, DELIMITERS))), lines[0])
    return max(DELIMITERS, key=first.count)


def _is_title(header: list[str], cells: list[str]) -> bool:
    """Whether what was taken for the names of the columns is a title above them: the first cell alone, and more below it."""
    return bool(header[0]) and not any(header[1:]) and sum(map(bool, cells)) > 1


def _check_row(cells: list[str], header: list[str], line: int, first: bool) -> None:
    if len(cells) != len(header):
        remedy = _("Give every row one cell per column; put text holding the separator in quotes")
        if first and len(cells) > len(header):
            remedy = _(
                "If there is a title above the names of the columns, delete it; else give every row one cell per column"
            )
        if not first and sum(map(bool, cells)) == 1:
            remedy = _("Delete it if it is a note below the table; else give every row one cell per column")
        raise UnusableData(
            _("has {n} cells where the header has {columns}", n=len(cells), columns=len(header)), remedy, row=line
        )


def _header(cells: list[str]) -> list[str]:
    header = [cell.strip() for cell in cells]
    for name in filter(None, header):
        if header.count(name) > 1:
            raise UnusableData(_("column {name} stands twice", name=name), _("Give every column its own name"), row=1)
    return header


def _without_empty(table: Table) -> Table:
    """Without columns that have neither a name nor a cell, which spreadsheets write behind the last."""
    nameless = [i for i, name in enumerate(table.header) if not name]
    empty = {i for i in nameless if not any(cells[i] for cells in table.rows)}
    if len(nameless) - len(empty) > 1:
        raise UnusableData(
            _("{n} columns have no name", n=str(len(nameless) - len(empty))), _("Give every column its own name"), row=1
        )
    if not empty:
        return table
    kept = [i for i in range(len(table.header)) if i not in empty]
    return Table([table.header[i] for i in kept], [[cells[i] for i in kept] for cells in table.rows], table.lines)


def column(table: Table, name: str) -> int:
    """Index of a column.

    Raises
    ------
    NoSuchColumn
        Naming those there are.
    """
    if name not in table.header:
        raise NoSuchColumn(
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
