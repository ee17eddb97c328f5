"""Pieces held before sticking: hours said in words are understood, a delay past the limit is told, one on purpose is not."""

from __future__ import annotations

import pytest

from orderly_bench.core.stick.held import Held, held_words, hours_said, too_long


@pytest.mark.parametrize(
    ("words", "hours"),
    [
        ("36 hours in a bag", 36), ("in water, 1,5 h", 1.5), ("2 days in the cold store", 48), ("for 1 day and 6 hours", 30),
        ("90 min dry", 1.5), ("in a bag for two days", 48), ("1.5 d", 36), ("4hrs damp", 4),
        ("in water", None), ("dry, 6 weeks of frost before", None), ("", None), ("in 2 bags", None), ("10 °C", None), ("bag 12", None),
        ("2 to 3 days", None), ("12-36 h", None),
    ],
)  # fmt: skip
def test_hours_are_read_from_the_words(words: str, hours: float | None) -> None:
    assert hours_said(words) == hours


def test_longest_first_and_only_what_is_past_the_limit() -> None:
    lots = [Held("lot 1", 12.0, False), Held("lot 2", 36.0, False), Held("lot 3", 240.0, True), Held("lot 4", None, False), Held("lot 5", 13.5, False)]  # fmt: skip
    assert too_long(lots, 12.0) == "lot 2: 36 h; lot 5: 13.5 h"
    assert too_long(lots, 48.0) == "" == too_long([Held("lot 1", 3.0, False)], 12.0)
    assert too_long([Held("lot 1", 36.0, False)], 12.0) == "36 h"


@pytest.mark.parametrize(
    ("words", "hours", "shown"),
    [("36 hours in a bag", 36.0, "36 hours in a bag"), ("in a bag", 36.0, "in a bag, 36 h"), ("", 2.5, "2.5 h"), ("damp", None, "damp"), ("", None, "")],
)  # fmt: skip
def test_hours_are_added_where_the_words_do_not_say_them(words: str, hours: float | None, shown: str) -> None:
    assert held_words(words, hours) == shown
