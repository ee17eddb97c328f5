"""Workbooks: what is typed in cells is read as in a CSV file, and what is written holds no formula."""

from __future__ import annotations

import io
import zipfile
from datetime import date, datetime

import pytest
from openpyxl import Workbook, load_workbook

from orderly_bench.core.errors import UnusableData
from orderly_bench.formats.table_csv import read_table
from orderly_bench.formats.xlsx import as_csv, workbook


def book(*rows: list[object]) -> bytes:
    made, out = Workbook(), io.BytesIO()
    for row in rows:
        made.active.append(row)
    made.create_sheet("another").append(["not", "read"])
    made.save(out)
    return out.getvalue()


def test_a_sheet_is_read_as_it_would_be_typed() -> None:
    data = book(
        ["cutting", "roots", "mm", "on", "at"],
        ["34E79", 3, 2.5, date(2026, 5, 1), datetime(2026, 5, 1, 14, 30)],
        ["K73M4", None, 4.0, True, None],
    )
    table = read_table(data)
    assert table.header == ["cutting", "roots", "mm", "on", "at"] and table.lines == [2, 3]
    assert table.rows == [["34E79", "3", "2.5", "2026-05-01", "2026-05-01 14:30"], ["K73M4", "", "4", "1", ""]]


def test_lines_are_counted_as_in_the_sheet() -> None:
    assert read_table(book(["a", "b"], [None, None], ["x", "y"])).lines == [3]


@pytest.mark.parametrize("data", [b"PK\x03\x04 and then nothing", b"PK\x03\x04"])
def test_what_is_no_workbook_says_what_to_do(data: bytes) -> None:
    with pytest.raises(UnusableData, match="no workbook"):
        as_csv(data)


def test_one_that_unpacks_to_too_much_is_not_unpacked() -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/worksheets/sheet1.xml", b"0" * 100_000_001)
    with pytest.raises(UnusableData, match="more than is read here"):
        as_csv(out.getvalue())


def test_what_is_no_zip_stays_as_it_is() -> None:
    assert as_csv(b"a,b\n1,2\n") == b"a,b\n1,2\n"


def test_a_written_workbook_holds_numbers_where_they_are_and_text_elsewhere() -> None:
    made = workbook(
        "cutting,n,mm,note\n34E79,3,2.5,=1+1\nK73M4,,,x\n", ["n", "mm"], "a title that is longer than a sheet may have"
    )
    sheet = load_workbook(io.BytesIO(made)).worksheets[0]
    assert [[cell.value for cell in row] for row in sheet.iter_rows()] == [
        ["cutting", "n", "mm", "note"],
        ["34E79", 3, 2.5, "=1+1"],
        ["K73M4", None, None, "x"],
    ]
    assert sheet["D2"].data_type == "s" and sheet["A2"].data_type == "s" and sheet["B2"].data_type == "n"
    assert read_table(made).rows == [["34E79", "3", "2.5", "=1+1"], ["K73M4", "", "", "x"]]
