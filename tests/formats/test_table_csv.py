"""CSV out: safe in a spreadsheet, read back as written."""

from __future__ import annotations

from orderly_bench.formats.table_csv import read_table, write


def test_what_is_written_is_read_back() -> None:
    table = read_table(write(["a", "b"], [["x, y", None], ['say "so"', 3]]).encode())
    assert table.header == ["a", "b"] and table.rows == [["x, y", ""], ['say "so"', "3"]]


def test_a_cell_that_would_run_as_a_formula_is_defused() -> None:
    assert write(["=1+1", "+x"], []).strip() == "'=1+1,'+x", "a heading is a cell too"
    assert write(["note"], [["=HYPERLINK(1)"], ["-3 mm"], [-3]]).splitlines()[1:] == ["'=HYPERLINK(1)", "'-3 mm", "-3"]
