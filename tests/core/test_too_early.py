"""An endpoint before roots are to be expected is asked about, with the day that would be late enough."""

from __future__ import annotations

import pytest

from orderly_bench.core.question.too_early import Expected, last_day_of, too_early, weeks_in

CARD = Expected(6, 8, "the method card")


def test_the_day_that_would_be_late_enough_is_said() -> None:
    (one,) = too_early(28, "", [CARD])
    assert (one.code, "On day 28" in one.text, "6 to 8 weeks" in one.text, "Day 56" in one.remedy) == (
        "endpoint_before_weeks",
        True,
        True,
        True,
    )
    assert too_early(56, "", [CARD]) == []
    assert too_early(14, "", []) == [], "nothing is known"


def test_the_slowest_source_counts() -> None:
    (one,) = too_early(60, "", [CARD, Expected(10, 10, "Marten")])
    assert "10 weeks" in one.text and "Marten" in one.text and "Day 70" in one.remedy
    assert "10 to" not in one.text


@pytest.mark.parametrize(
    ("rule", "day"),
    [("stop on day 21", 21), ("after 3 weeks", 21), ("ends at 30 days or 5 weeks", 30), ("when frost comes", None)],
)
def test_a_stop_is_read_from_its_rule(rule: str, day: int | None) -> None:
    assert last_day_of(rule) == day


def test_a_stop_before_the_weeks_is_asked_about_too() -> None:
    codes = [one.code for one in too_early(63, "stop on day 21 whatever is seen", [CARD])]
    assert codes == ["stop_before_weeks"]
    assert too_early(63, "stop on day 60", [CARD]) == []


@pytest.mark.parametrize(
    ("text", "weeks"),
    [("Marten, 6-8 weeks", (6, 8)), ("4 wk", (4, 4)), ("60 % by Marten", None), ("8 to 6 weeks", (8, 8))],
)
def test_weeks_of_a_book_are_read_from_its_line(text: str, weeks: tuple[int, int] | None) -> None:
    found = weeks_in(text, "the book")
    assert (None if found is None else (found.least, found.most)) == weeks
