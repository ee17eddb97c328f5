"""What goes undone while someone is away."""

from __future__ import annotations

from datetime import date, timedelta

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.tend.away import Care, check_away, uncovered

FIRST, LAST = date(2026, 3, 9), date(2026, 3, 15)


def every(days: int, begin: date = date(2026, 3, 1), times: int = 12) -> tuple[date, ...]:
    return tuple(begin + timedelta(days=days * n) for n in range(times))


def test_the_gap_is_from_the_last_time_before_to_the_first_after() -> None:
    """Every third day from 1 March: done on the 7th, the 10th and 13th missed, next on the 16th: nine days."""
    (gap,) = uncovered([Care("26-01", "Mist", every(3), date(2026, 3, 7))], FIRST, LAST)
    assert (gap.missed, gap.days) == (2, 9) and gap.words == "26-01, Mist: 2 times not done, 9 days without"
    (older,) = uncovered([Care("26-01", "Mist", every(3), date(2026, 3, 4))], FIRST, LAST)
    assert older.days == 12, "a time missed before is part of it"
    (never,) = uncovered([Care("26-01", "Mist", every(3), None)], FIRST, LAST)
    assert never.days == 9, "from its last planned day before"


def test_what_does_not_fall_into_those_days_is_no_gap() -> None:
    assert uncovered([Care("26-01", "Feed", every(30), date(2026, 3, 1))], FIRST, LAST) == []
    assert uncovered([], FIRST, LAST) == []


def test_the_longest_comes_first_and_an_end_inside_is_said() -> None:
    last = Care("26-02", "Vent", every(2, times=5), date(2026, 3, 7))
    found = uncovered([Care("26-01", "Mist", every(3), date(2026, 3, 7)), last], FIRST, LAST)
    assert [one.title for one in found] == ["Vent", "Mist"]
    assert found[0].words == "26-02, Vent: 1 time not done, and none planned after"


def test_days_that_cannot_be_are_refused() -> None:
    check_away(FIRST, FIRST)
    for last in (FIRST - timedelta(days=1), FIRST + timedelta(days=180)):
        with pytest.raises(InvalidInput):
            check_away(FIRST, last)
