"""Days reckoned forward and back over years, leap days and both hemispheres; what a place has not said is asked for."""

from __future__ import annotations

from datetime import date

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.question.reckoning import Wanted, reckon
from orderly_bench.core.question.too_early import Expected
from orderly_bench.core.year import YearHere, in_year, next_after, read_day_of_year

NORTH = YearHere("05-15", "10-10", "06-20", "08-31")
SOUTH = YearHere("10-20", "04-25", "12-20", "02-20")
CARD = Expected(6, 8, "the card")


@pytest.mark.parametrize(
    ("typed", "found"),
    [
        ("15 May", "05-15"),
        ("May 15", "05-15"),
        ("15. may", "05-15"),
        ("05-15", "05-15"),
        ("2026-05-15", "05-15"),
        ("29 February", "02-29"),
        (" ", ""),
    ],
)
def test_a_day_of_the_year_is_read(typed: str, found: str) -> None:
    assert read_day_of_year(typed, "last frost") == found


@pytest.mark.parametrize("typed", ["31 February", "mid May", "15", "13-01", "May", "15 Mayonnaise 3"])
def test_what_is_no_day_of_a_year_is_refused(typed: str) -> None:
    with pytest.raises(InvalidInput, match="last frost"):
        read_day_of_year(typed, "last frost")


def test_it_comes_round_over_the_year_and_the_leap_day() -> None:
    assert next_after("10-10", date(2026, 10, 10)) == date(2026, 10, 10)
    assert next_after("10-10", date(2026, 10, 11)) == date(2027, 10, 10)
    assert (in_year("02-29", 2028), in_year("02-29", 2027)) == (date(2028, 2, 29), date(2027, 2, 28))


def test_forward_keeps_the_range_and_back_counts_the_most_of_it() -> None:
    found = reckon(Wanted(date(2026, 3, 2), CARD, 6, date(2026, 6, 30)), NORTH)
    assert found.lines[:3] == (
        "stuck 2 Mar 2026 + 6 to 8 weeks: rooted 13 Apr 2026 to 27 Apr 2026",
        "+ 6 weeks in the pot: ready 25 May 2026 to 8 Jun 2026",
        "to be ready by 30 Jun 2026: stick by 24 Mar 2026",
    )
    assert found.warnings == ()


def test_late_hot_and_frozen_are_warned_of_in_the_north() -> None:
    late = reckon(Wanted(date(2026, 4, 20), CARD, 6, date(2026, 6, 30)), NORTH)
    assert late.warnings[0] == "Stuck 20 Apr 2026 it may not be ready by 30 Jun 2026."
    assert "hot weeks here (20 Jun to 31 Aug)" in late.warnings[1]
    autumn = reckon(Wanted(date(2026, 9, 1), CARD, 6), NORTH)
    assert autumn.warnings == (
        "It is ready only after the first frost (10 Oct 2026): winter it under cover, and plant out after the last one (15 May 2027).",
    )
    assert "stick by 4 Jul 2026" in autumn.lines[2]


def test_the_south_has_its_own_year_over_new_year() -> None:
    found = reckon(Wanted(date(2026, 11, 2), CARD, 4), SOUTH)
    assert any("hot weeks here (20 Dec to 20 Feb)" in one for one in found.warnings)
    assert "before the first frost, 25 Apr 2027" in found.lines[2]
    assert reckon(Wanted(date(2026, 6, 1), CARD, 4), SOUTH).warnings == ()


def test_what_the_place_has_not_said_is_asked_and_not_guessed() -> None:
    found = reckon(Wanted(date(2026, 9, 1), CARD, 6), YearHere())
    assert found.warnings == () and "not said yet" in found.lines[-1]
    assert "not said" not in " ".join(reckon(Wanted(date(2026, 3, 2), CARD), NORTH).lines)
