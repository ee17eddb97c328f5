"""Columns of loggers' own files, and the order of their days."""

from __future__ import annotations

from datetime import datetime, timedelta

import numpy as np
import pytest

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.tend.logger_columns import (
    LoggerColumns,
    find_columns,
    looks_like_header,
    read_columns,
    times_of,
)

HEADERS = [
    (["#", "Date Time, GMT+00:00", "Temp, °C", "RH, %"], LoggerColumns("Date Time, GMT+00:00", "", "Temp, °C", "", "RH, %")),
    (["Date", "Time", "Temperature (C)", "Dew point (C)"], LoggerColumns("Time", "Date", "Temperature (C)")),
    (["Timestamp", "Air temp", "Soil temp", "PAR (umol/m2/s)", "Lux"], LoggerColumns("Timestamp", "", "Air temp", "", "", "PAR (umol/m2/s)")),
    (["Datum", "Zeit", "Temp °C", "Feuchte %"], LoggerColumns("Zeit", "Datum", "Temp °C", "", "Feuchte %")),
    (["Time", "Temp [°F]", "Humidity [%]"], LoggerColumns("Time", "", "Temp [°F]", "", "Humidity [%]")),
]  # fmt: skip


@pytest.mark.parametrize(("header", "columns"), HEADERS)
def test_what_can_be_meant_in_one_way_is_taken_so(header: list[str], columns: LoggerColumns) -> None:
    assert find_columns(header) == columns and looks_like_header(header)


def test_degrees_are_those_of_the_name_unless_said() -> None:
    assert find_columns(["Time", "Temp [°F]"]).fahrenheit and find_columns(["Time", "Temp (F)"]).fahrenheit
    assert not find_columns(["Time", "Temp, °C"]).fahrenheit and not find_columns(["Time", "Temp front"]).fahrenheit
    assert find_columns(["Time", "Temp"], LoggerColumns(unit="F")).fahrenheit


def test_several_airs_are_asked_and_the_one_said_is_taken() -> None:
    header = ["Time", "Temp ch1", "Temp ch2", "RH ch1", "RH ch2"]
    with pytest.raises(UnusableData, match="several columns may hold the air: Temp ch1, Temp ch2"):
        find_columns(header)
    found = find_columns(header, LoggerColumns(air="Temp ch2"))
    assert found.air == "Temp ch2" and found.rh == "", "of two humidities none is guessed"


@pytest.mark.parametrize("header", [["When", "Temp"], ["Time", "Lux"], ["Time", "Soil temp"]])
def test_what_is_not_there_is_said_with_what_is(header: list[str]) -> None:
    with pytest.raises(UnusableData, match="no column says that it holds"):
        find_columns(header)


def test_a_name_that_is_none_of_the_file_s_is_refused() -> None:
    with pytest.raises(UnusableData, match="no column 'Tmp'"):
        find_columns(["Time", "Temp"], LoggerColumns(air="Tmp"))


def test_typed_names_are_read_and_blank_ones_found() -> None:
    assert read_columns({"air": "Temp ch2", "unit": "F", "order": "day"}) == LoggerColumns(
        air="Temp ch2", unit="F", order="day"
    )
    assert read_columns({}) == LoggerColumns()


@pytest.mark.parametrize("form", ["%d/%m/%Y %H:%M", "%m/%d/%y %I:%M:%S %p", "%d.%m.%Y %H:%M:%S", "%Y-%m-%d %H:%M", "%Y/%m/%d %H:%M:%S", "%d %b %Y %H:%M", "%b %d, %Y %I:%M %p"])  # fmt: skip
def test_times_are_read_as_loggers_write_them(form: str) -> None:
    rng, start = np.random.default_rng(11), datetime(2026, 4, 27, 23, 30)
    times = [start + timedelta(minutes=180 * n) for n in range(150)]
    shown = [at.strftime(form) for at in times]
    assert times_of(shown, list(range(len(times)))) == [at.isoformat() for at in times]
    few = [times[i] for i in sorted(rng.choice(150, 50, replace=False))]
    assert times_of([at.strftime(form) for at in few], list(range(50))) == [at.isoformat() for at in few]


def test_days_that_can_be_read_both_ways_are_told_by_their_steps_or_asked() -> None:
    hourly = [datetime(2026, 5, 3) + timedelta(hours=n) for n in range(72)]
    shown = [at.strftime("%d/%m/%Y %H:%M") for at in hourly]
    assert times_of(shown, list(range(72))) == [at.isoformat() for at in hourly], (
        "as months they would be a month apart"
    )
    once = ["03/05/2026 10:00", "03/05/2026 11:00"]
    with pytest.raises(UnusableData, match="day or the month first"):
        times_of(once, [1, 2])
    assert times_of(once, [1, 2], "month")[0].startswith("2026-03-05")


@pytest.mark.parametrize("typed", ["", "noon", "31/02/2026 10:00", "2026-13-01 10:00", "12:61"])
def test_what_is_no_time_names_its_row(typed: str) -> None:
    with pytest.raises(UnusableData, match=r"is no time.*row 7|row 7.*is no time"):
        times_of([typed], [7])
