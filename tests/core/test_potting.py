"""Potting on and hardening."""

from __future__ import annotations

from datetime import date

import pytest

from orderly_bench.core.conclude.hardening import Night, check_night, hardened
from orderly_bench.core.conclude.potting import CARD, Standing, now_or_later
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.year import YearHere

NORTH, SOUTH = YearHere("05-15", "10-10"), YearHere("09-20", "05-01")
TEN = Standing(10, 0.2, 0.5, 6)


def test_now_is_held_against_the_first_frost_and_later_against_the_last() -> None:
    early = now_or_later(TEN, date(2026, 8, 1), NORTH)
    assert "ready about 12 Sep 2026, 28 days before the first frost (10 Oct 2026)" in early[0]
    assert "(15 May 2027): 41 weeks more in their cells at 0.2 m2, ready about 26 Jun 2027" in early[1]
    assert "3 days after the first frost" in now_or_later(TEN, date(2026, 9, 1), NORTH)[0]
    assert "first frost (1 May 2027)" in now_or_later(TEN, date(2027, 2, 10), SOUTH)[0], "the other half of the year"


def test_where_no_winter_lies_between_and_where_nothing_is_said() -> None:
    assert now_or_later(TEN, date(2026, 3, 1), NORTH) == [
        "The last frost is to come on 15 May 2026: no winter lies between, so pot now and keep them in until then."
    ]
    assert "Type the first and last frost" in now_or_later(TEN, date(2026, 3, 1), YearHere("05-15"))[0]
    assert any("Roots down" in line for line in CARD) and any("Depth" in line for line in CARD)


def nights() -> list[Night]:
    lows = [(1, True, -2.0), (2, True, 1.5), (3, False, -6.0), (4, True, None), (5, True, -0.5)]
    return [Night(date(2026, 4, day), out, low, {"A": day % 3, "B": 0}) for day, out, low in lows]


def test_only_nights_out_count_frost_and_an_unread_one_is_said() -> None:
    found = hardened(nights(), {"A": 4, "B": 3, "C": 0})
    assert (found.nights_out, found.nights_in, found.unread, found.lowest) == (4, 1, 1, -2.0)
    assert (found.frost_nights, found.frost_sum) == (2, 2.5) and found.nipped == {"A": (2, 4), "B": (0, 3)}
    assert found.words[1] == "nipped: A 2 of 4, B 0 of 3" and "1 of them not read" in found.words[0]


def test_a_night_told_twice_is_as_it_was_told_last() -> None:
    twice = [*nights(), Night(date(2026, 4, 1), False)]
    assert hardened(twice, {"A": 4}).nights_out == 3
    assert hardened([], {"A": 4}).words == ["0 nights out, 0 in"]


@pytest.mark.parametrize(
    "wrong", [Night(date(2026, 5, 2), True), Night(date(2026, 4, 2), True, -70.0), Night(date(2026, 4, 2), True, 1.0, {"A": 5}), Night(date(2026, 4, 2), True, 1.0, {"Z": 1})]
)  # fmt: skip
def test_what_can_not_be_is_refused(wrong: Night) -> None:
    with pytest.raises(InvalidInput):
        check_night(wrong, {"A": 4}, date(2026, 5, 1))
