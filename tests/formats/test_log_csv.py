"""Loggers' own files: names, alphabets, lines before the table, rows that are no readings."""

from __future__ import annotations

from zoneinfo import ZoneInfo

import pytest

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.tend.logger_columns import LoggerColumns
from orderly_bench.formats.log_csv import columns_in, open_log, read_log

LONDON = ZoneInfo("Europe/London")
OURS = b"time,air_c,rh\n2026-05-14 14:00,21.5,80\n2026-05-14 14:30,22,79\n"


def test_a_makers_file_is_read_as_our_own() -> None:
    titled = '"Plot Title: warm end"\n"#","Date Time, GMT+01:00","Temp, °C","RH, %","Started"\n1,05/14/26 02:00:00 PM,21.5,80,Logged\n2,05/14/26 02:30:00 PM,22,79,\n3,05/14/26 02:31:00 PM,,,Logged\n'
    for data in (titled.encode(), titled.encode("utf-8-sig"), titled.encode("cp1252"), titled.encode("utf-16")):
        found = read_log(data, LONDON)
        assert found[:2] == read_log(OURS, LONDON) and found[2].air_c is None and len(found) == 3


def test_day_and_time_may_stand_apart_with_decimal_commas_and_fahrenheit() -> None:
    data = "Datum;Zeit;Temp °F;Feuchte %\n14.05.2026;14:00;70,7;80\n14.05.2026;14:30;71,6;79\n".encode("cp1252")
    found = read_log(data, LONDON)
    assert [round(one.air_c or 0, 6) for one in found] == [21.5, 22.0] and found[0].rh == 80
    assert [one.at for one in found] == [one.at for one in read_log(OURS, LONDON)]


def test_what_was_said_of_the_columns_stands_before_what_is_found() -> None:
    data = b"Time,Temp 1,Temp 2\n2026-05-14 14:00,10,21.5\n2026-05-14 14:30,10,22\n"
    with pytest.raises(UnusableData, match="several columns may hold the air"):
        read_log(data)
    assert [one.air_c for one in read_log(data, said=LoggerColumns(air="Temp 2"))] == [21.5, 22.0]


def test_files_of_one_kind_are_known_again_whatever_they_hold() -> None:
    first, later = open_log(OURS), open_log(OURS.replace(b"21.5", b"19"))
    assert first.mark == later.mark != open_log(OURS.replace(b"rh", b"ppfd")).mark
    assert first.ours and columns_in(first) is None and columns_in(first, LoggerColumns(unit="F")) is not None


def test_a_row_that_is_wrong_is_named_as_the_file_counts() -> None:
    data = b"Title\nTime,Temp\n2026-05-14 14:00,21\nsoon,22\n"
    with pytest.raises(UnusableData) as told:
        read_log(data)
    assert told.value.row == 4


def test_a_plain_table_is_still_held_to_its_columns() -> None:
    with pytest.raises(UnusableData, match="cells where the header has"):
        read_log(b"time,air_c\n2026-05-14 14:00,21\n2026-05-14 14:30\n")
    with pytest.raises(UnusableData):
        read_log(b"")
