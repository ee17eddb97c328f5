"""CSV out: safe in a spreadsheet, read back as written."""

from __future__ import annotations

import pytest

from orderly_bench.core.errors import UnusableData
from orderly_bench.formats.table_csv import read_table, write


def test_what_is_written_is_read_back() -> None:
    table = read_table(write(["a", "b"], [["x, y", None], ['say "so"', 3]]).encode())
    assert table.header == ["a", "b"] and table.rows == [["x, y", ""], ['say "so"', "3"]]


def test_a_cell_that_would_run_as_a_formula_is_defused() -> None:
    assert write(["=1+1", "+x"], []).strip() == "'=1+1,'+x", "a heading is a cell too"
    assert write(["note"], [["=HYPERLINK(1)"], ["-3 mm"], [-3]]).splitlines()[1:] == ["'=HYPERLINK(1)", "'-3 mm", "-3"]


def test_empty_columns_behind_the_last_are_left_out_and_one_of_row_numbers_stays() -> None:
    table = read_table(b"a,b,,\n1,2,,\n3,4,,\n")
    assert (table.header, table.rows) == (["a", "b"], [["1", "2"], ["3", "4"]])
    assert read_table(b",a\n1,x\n2,y\n").header == ["", "a"]
    with pytest.raises(UnusableData, match="2 columns have no name"):
        read_table(b"a,b,,\n1,2,3,4\n")
    with pytest.raises(UnusableData, match="column a stands twice"):
        read_table(b"a,b,a\n1,2,3\n")


@pytest.mark.parametrize(
    "text",
    [
        "Trial of spring\nmedium,rooted\nsand,1\n",
        "Trial of spring,\n,\nmedium,rooted\nsand,1\n",
        "Trial of spring\nby Ines\n\nmedium;rooted\nsand;1\n",
    ],
)
def test_a_title_above_the_names_of_the_columns_is_passed_over(text: str) -> None:
    table = read_table(text.encode())
    assert (table.header, table.rows) == (["medium", "rooted"], [["sand", "1"]])
    assert text.splitlines()[table.lines[0] - 1].startswith("sand"), "rows keep their numbers"
    assert read_table(b"rooted\n1\n0\n").header == ["rooted"], "one column has no title"
    with pytest.raises(UnusableData, match=r"row 3: has 3 cells where the header has 2\. If there is a title above"):
        read_table(b"Olive, spring\n\na,b,c\n1,2,3\n")


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_text_is_read_as_spreadsheets_write_it(encoding: str) -> None:
    assert read_table("medium\trooted\nL\u00f6ss\t1\n".encode(encoding)).rows == [["L\u00f6ss", "1"]]


def test_bytes_that_are_no_text_are_refused() -> None:
    for data in (b"\xff\xfe\x00", b"a,b\n\x81,1\n"):
        with pytest.raises(UnusableData, match=r"no text that can be read\. Save the file as 'CSV UTF-8'"):
            read_table(data)
