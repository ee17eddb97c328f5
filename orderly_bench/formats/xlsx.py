"""Office Open XML workbooks (ECMA-376): the first sheet read as CSV, and a table of ours written as one."""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Iterable
from datetime import date, datetime
from typing import Any

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.translation import gettext as _

#: What any zip begins with, and a workbook is one.
ZIPPED = b"PK\x03\x04"
#: What a workbook may unpack to, and its first sheet hold.
MOST_BYTES, MOST_ROWS, MOST_COLUMNS = 100_000_000, 200_000, 400


def as_csv(data: bytes) -> bytes:
    """A workbook's first sheet as CSV, line for line; anything else as it is.

    Raises
    ------
    UnusableData
        A zip that is no workbook, or one that is too large.
    """
    if not data.startswith(ZIPPED):
        return data
    out = io.StringIO()
    csv.writer(out).writerows(_rows(data))
    return out.getvalue().encode()


def _rows(data: bytes) -> Iterable[list[str]]:
    from openpyxl import load_workbook  # takes a while to import

    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if sum(entry.file_size for entry in archive.infolist()) > MOST_BYTES:
                raise UnusableData(
                    _("the workbook unpacks to more than is read here"), _("Save its sheet as CSV, and split it")
                )
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True)
        found = [
            [_text(value) for value in row[:MOST_COLUMNS]]
            for row, _ in zip(book.worksheets[0].iter_rows(values_only=True), range(MOST_ROWS), strict=False)
        ]
    except UnusableData:
        raise
    except Exception as error:
        raise UnusableData(
            _("this file is no workbook that can be read"), _("Save the sheet as CSV UTF-8 and take that")
        ) from error
    width = max((i + 1 for row in found for i, cell in enumerate(row) if cell), default=0)
    return [row[:width] + [""] * (width - len(row)) for row in found]


def _text(value: Any) -> str:
    """A cell as it would be typed: whole numbers without a point, days as year-month-day."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return str(int(value))
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        return str(int(value))
    if isinstance(value, datetime):
        return (
            value.date().isoformat()
            if value.time().isoformat() == "00:00:00"
            else value.isoformat(" ", "minutes" if not value.second else "seconds")
        )
    return value.isoformat() if isinstance(value, date) else str(value).strip()


def workbook(content: str, numbers: Iterable[str], title: str) -> bytes:
    """A CSV table as a workbook of one sheet; columns of ``numbers`` hold numbers, all others text and never a formula."""
    from openpyxl import Workbook
    from openpyxl.cell import WriteOnlyCell

    book = Workbook(write_only=True)
    sheet = book.create_sheet(title[:31])
    header, *rows = list(csv.reader(io.StringIO(content)))
    counted = {i for i, name in enumerate(header) if name in set(numbers)}

    def cell(i: int, text: str) -> Any:
        if i in counted and text:
            return float(text) if not text.lstrip("-").isdigit() else int(text)
        made = WriteOnlyCell(sheet, text or None)
        if text:
            made.data_type = "s"
        return made

    sheet.append([cell(-1, name) for name in header])
    for row in rows:
        sheet.append([cell(i, text) for i, text in enumerate(row)])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
