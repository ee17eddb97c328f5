"""Care as a person writes it, and the days it falls on."""

from __future__ import annotations

from datetime import date, timedelta

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.care_lines import CareRule, check_care, read_care, write_care
from orderly_bench.core.tend.schedule import rule_days

MONDAY = date(2026, 3, 2)


@pytest.mark.parametrize(
    ("line", "rule"),
    [
        ("Change the water: every 7 days, arm C", CareRule("Change the water", 7, arms=("C",))),
        ("Change the water: every week for arms A and C.", CareRule("Change the water", 7, arms=("A", "C"))),
        ("Feed: Sundays, from day 14 to 42", CareRule("Feed", 0, ("Sunday",), 14, 42)),
        ("Mist: daily until day 10", CareRule("Mist", 1, last=10)),
        ("Look: every two weeks from day 7", CareRule("Look", 14, first=7)),
        ("Water: Mon and Thu", CareRule("Water", 0, ("Monday", "Thursday"))),
        ("Vent: twice a week", CareRule("Vent", 0, ("Monday", "Thursday"))),
        ("Turn: weekly, arms B, D", CareRule("Turn", 7, arms=("B", "D"))),
    ],
)  # fmt: skip
def test_a_line_is_read_and_written_to_the_same(line: str, rule: CareRule) -> None:
    assert read_care(line) == (rule,)
    assert read_care(write_care((rule,))) == (rule,)


@pytest.mark.parametrize(
    "line",
    ["Change the water", ": every 3 days", "Feed: sometimes", "Feed: every 0 days", "Feed: every 91 days", "Feed: every 3 days, at dawn", "Feed: every 3 days, from day 20 to 10", "Feed: six times a week", "x" * 101 + ": daily", "Feed: daily\nfeed: weekly"],
)  # fmt: skip
def test_what_can_not_be_read_is_refused_by_its_line(line: str) -> None:
    with pytest.raises(InvalidInput, match="care"):
        read_care(line)


def test_days_of_the_week_fall_on_them_over_month_end_leap_day_and_the_change_of_the_clock() -> None:
    for zero in (date(2028, 2, 20), date(2026, 3, 20), date(2026, 10, 20), date(2026, 12, 24)):
        days = rule_days(CareRule("Feed", 0, ("Sunday",)), 42, zero)
        assert len(days) in (5, 6) and all((zero + timedelta(days=day)).weekday() == 6 for day in days), zero
    assert rule_days(CareRule("Feed", 0, ("Sunday",)), 42, None) == []
    assert rule_days(CareRule("Feed", 0, ("Monday",), 14, 28), 60, MONDAY) == [14, 21, 28]


def test_days_count_from_sticking_and_stop_before_the_endpoint() -> None:
    assert rule_days(CareRule("Mist", 7), 28, None) == [7, 14, 21]
    assert rule_days(CareRule("Mist", 7, first=3, last=60), 28, None) == [3, 10, 17, 24]


def test_care_is_for_arms_that_there_are() -> None:
    check_care(read_care("Water: daily, arm B"), "Mist", ["A", "B"])
    with pytest.raises(InvalidInput, match="care, Water: name arms that there are: A, B"):
        check_care(read_care("Water: daily, arm C"), "", ["A", "B"])
    with pytest.raises(InvalidInput, match="write each task once"):
        check_care(read_care("Mist: Sundays"), " mist", ["A", "B"])
