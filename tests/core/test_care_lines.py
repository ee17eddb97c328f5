"""Care as a person writes it, and the days it falls on."""

from __future__ import annotations

import re
from datetime import date, timedelta

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.care_lines import CareRule, care_that_reads, check_care, read_care, write_care
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
        ("Mist: daily until buds", CareRule("Mist", 1, until="buds")),
        ("Mist: until new leaves, every 2 days, arm B", CareRule("Mist", 2, arms=("B",), until="new leaves")),
        ("Feed: every 10 days ± 2", CareRule("Feed", 10, either_side=2)),
        ("Feed: every 10 days, give or take 2 days, until day 60", CareRule("Feed", 10, last=60, either_side=2)),
        ("Change the water every week", CareRule("Change the water", 7)),
        ("Water every other day, arm B", CareRule("Water", 2, arms=("B",))),
        ("Feed weekly from day 14", CareRule("Feed", 7, first=14)),
        ("Uncover on day 21", CareRule("Uncover", 1, first=21, last=21)),
        ("Spray: once on day 7, arm A", CareRule("Spray", 1, first=7, last=7, arms=("A",))),
        ("Look for pests: every Friday", CareRule("Look for pests", 0, ("Friday",))),
        ("Water: every Monday and Thursday", CareRule("Water", 0, ("Monday", "Thursday"))),
        ("Water: 2x/week", CareRule("Water", 0, ("Monday", "Thursday"))),
        ("Water: every morning", CareRule("Water", 1)),
        ("Water, arms A and B: every 3 days", CareRule("Water", 3, arms=("A", "B"))),
        ("Water arm C every 3 days", CareRule("Water", 3, arms=("C",))),
        ("Feed and water by turns: every 3 days", CareRule("Feed and water by turns", 3)),
        (
            "Cover off: every 2 days, from day 28, arm A, steps 1 h; 2 h; half a day; all day",
            CareRule("Cover off", 2, first=28, arms=("A",), steps=("1 h", "2 h", "half a day", "all day")),
        ),
    ],
)  # fmt: skip
def test_a_line_is_read_and_written_to_the_same(line: str, rule: CareRule) -> None:
    assert read_care(line) == (rule,)
    assert read_care(write_care((rule,))) == (rule,)


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("Mist: twice a day", "Mist twice: daily"), ("Mist three times a day", "Mist twice: daily"), ("Mist: every 2 hours", "shortest step"),
        ("Feed: monthly", "every 30 days"), ("Water: every 2-3 days", "every 3 days ± 1"), ("Water every 5 to 9 days", "every 7 days ± 2"),
        ("Water: on day 0", "from 1 to"),
    ],
)  # fmt: skip
def test_what_no_day_is_is_said_how_to_write(line: str, says: str) -> None:
    with pytest.raises(InvalidInput, match=re.escape(says)):
        read_care(line)


@pytest.mark.parametrize(
    "line",
    ["Change the water", ": every 3 days", "Feed: sometimes", "Feed: every 0 days", "Feed: every 91 days", "Feed: every 3 days, at dawn", "Feed: every 3 days, from day 20 to 10", "Feed: six times a week", "x" * 101 + ": daily", "Feed by turns: daily", "Cover off: daily, steps 1 h", "Mist: daily until day buds", "Feed: daily\nfeed: weekly"],
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


def test_two_tasks_go_by_turns_and_steps_come_to_an_end() -> None:
    (turns,) = read_care("Feed / water by turns: every 3 days")
    assert turns.times([3, 6, 9]) == [(3, "Feed", ""), (6, "Water", ""), (9, "Feed", "")]
    (steps,) = read_care("Shade down: every 4 days, steps 70 %; 50 %; none")
    assert steps.times([4, 8, 12, 16]) == [
        (4, "Shade down", "70 %"),
        (8, "Shade down", "50 %"),
        (12, "Shade down", "none"),
    ]


def test_of_free_text_the_lines_that_are_care_are_taken() -> None:
    text = "Closed and warm below; no pull before week 6.\nMist: every 2 days until buds\nFeed: weekly\nmist: daily"
    assert care_that_reads(text) == "Mist: every 2 days, until buds\nFeed: every 7 days"
    assert care_that_reads("Closed and warm below.") == ""


def test_zones_are_tended_by_rules_of_their_own() -> None:
    mist, cool = read_care("Mist: daily, zone Mist bench, to day 20, arm B\nMist: every 3 days, in zone Cool end")
    assert (mist.zone, mist.last, mist.arms, cool.zone, cool.every_days) == ("Mist bench", 20, ("B",), "Cool end", 3)
    assert mist.times([1, 2]) == [(1, "Mist (Mist bench)", ""), (2, "Mist (Mist bench)", "")]
    assert read_care(write_care((mist, cool))) == (mist, cool)
    with pytest.raises(InvalidInput, match="write each task once"):
        read_care("Mist: daily, zone Cool end\nMist: weekly, zone cool end")
    turns = read_care("Feed / water by turns: every 3 days, zone Cool end")[0]
    assert [task for _, task, _ in turns.times([3, 6])] == ["Feed (Cool end)", "Water (Cool end)"]
