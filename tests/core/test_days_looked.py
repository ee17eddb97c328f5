"""Captions say the days on which each arm was really looked at."""

from __future__ import annotations

import pytest

from orderly_bench.core.score.days import days_in_words


@pytest.mark.parametrize(
    ("by_arm", "words"),
    [
        ({"A": {42}, "B": {42}}, "day 42"),
        ({"A": {41, 44}, "B": {41, 44}}, "days 41 to 44"),
        ({"A": {42}, "B": {49}, "C": {42}}, "day 42 (A, C), day 49 (B)"),
        ({"A": {42}, "B": set()}, "day 42"),
        ({"A": set()}, ""),
        ({}, ""),
    ],
)
def test_the_fewest_words_that_are_true_of_each_arm(by_arm: dict[str, set[int]], words: str) -> None:
    assert days_in_words(by_arm) == words
