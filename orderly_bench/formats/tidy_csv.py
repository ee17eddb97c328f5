"""Tidy CSV: one row per cutting, a header, UTF-8. Reads what spreadsheets write, writes RFC 4180.

Accepted on reading: a byte-order mark, comma, semicolon or tab between the cells, any line ends.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from orderly_bench.core.compare.observations import Observations, Row, arrange
from orderly_bench.core.errors import UnusableData

MOST_ROWS = 1_000_000
#: Cells that start like this would be run as a formula by a spreadsheet.
FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


@dataclass(frozen=True)
class Table:
    """A header and rows of cells; row i stands in line ``lines[i]`` of the file."""

    header: list[str]
    rows: list[list[str]]
    lines: list[int]


def read_table(data: bytes) -> Table:
    """Read CSV bytes into cells, naming the row that is wrong.

    Raises
    ------
    UnusableData
        Not UTF-8 text, empty, no header, doubled header names, a row with too many or too few cells.
    """
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise UnusableData(
            f"byte {error.start + 1} is not UTF-8 text", "Save the file as 'CSV UTF-8' and try again"
        ) from error
    if "\x00" in text:
        raise UnusableData("the file holds NUL characters, so it is not CSV text", "Save it as 'CSV UTF-8'")
    if not text.strip():
        raise UnusableData("the file is empty", "It needs a header and one row per cutting")
    first = text.lstrip("\r\n").splitlines()[0]
    delimiter = max(",;\t", key=first.count)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    header: list[str] = []
    rows, lines = [], []
    try:
        for cells in reader:
            if not any(cell.strip() for cell in cells):
                continue
            if not header:
                header = _header(cells)
                continue
            if len(cells) != len(header):
                raise UnusableData(
                    f"has {len(cells)} cells where the header has {len(header)}",
                    "Give every row one cell per column; put text holding the separator in quotes",
                    row=reader.line_num,
                )
            rows.append([cell.strip() for cell in cells])
            lines.append(reader.line_num)
            if len(rows) > MOST_ROWS:
                raise UnusableData(f"more than {MOST_ROWS} rows", "Split the file")
    except csv.Error as error:
        raise UnusableData(f"cannot be read as CSV ({error})", "Check its quotes", row=reader.line_num) from error
    return Table(header, rows, lines)


def _header(cells: list[str]) -> list[str]:
    header = [cell.strip() for cell in cells]
    for name in header:
        if header.count(name) > 1:
            raise UnusableData(f"column {name or '(no name)'} stands twice", "Give every column its own name", row=1)
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
            f"there is no column {name!r}", f"The columns are: {', '.join(table.header)}", row=1, column=name
        )
    return table.header.index(name)


def _rooted(cell: str, line: int) -> float | None:
    if cell == "":
        return None
    if cell not in ("0", "1"):
        raise UnusableData(
            f"{cell[:40]!r} is not a rooting result",
            "Write 1 for rooted, 0 for not, blank for left out",
            row=line,
            column="rooted",
        )
    return float(cell)


def read_rooted(data: bytes, factors: Sequence[str], block: str | None = None) -> Observations:
    """Observations of ``rooted`` 0/1 from CSV bytes; a blank is left out with ``state`` saying why.

    Parameters
    ----------
    data : bytes
    factors : sequence of str
        Columns that make up the arm, in order.
    block : str, optional
        Column of the block.
    """
    table = read_table(data)
    response = column(table, "rooted")
    level_columns = [column(table, factor) for factor in factors]
    block_column = column(table, block) if block else None
    state = table.header.index("state") if "state" in table.header else None
    rows = []
    for cells, line in zip(table.rows, table.lines, strict=True):
        for factor, at in zip(factors, level_columns, strict=True):
            if not cells[at]:
                raise UnusableData(
                    "the level is blank", "Write it out; an arm without hormone is 'none'", row=line, column=factor
                )
        if block_column is not None and not cells[block_column]:
            raise UnusableData("the block is blank", "Fill the block for every cutting", row=line, column=block)
        rows.append(
            Row(
                tuple(cells[at] for at in level_columns),
                _rooted(cells[response], line),
                cells[block_column] if block_column is not None else None,
                cells[state] if state is not None else "",
                line,
            )
        )
    return arrange(factors, rows)


def write(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """CSV text; None becomes a blank. Text that a spreadsheet would run as a formula gets a leading quote."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(header)
    for row in rows:
        writer.writerow([_safe(cell) for cell in row])
    return out.getvalue()


def _safe(cell: object) -> object:
    if cell is None:
        return ""
    if isinstance(cell, str) and cell.startswith(FORMULA_STARTS):
        return "'" + cell
    return cell
