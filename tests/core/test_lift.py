"""The order of lifting is a fair draw that keeps pairs together."""

from __future__ import annotations

from collections import Counter

import numpy as np

from orderly_bench.core.score.lift import lift_order


def test_everything_once_and_the_same_from_the_same_seed() -> None:
    units = [(i, None) for i in range(40)]
    first = lift_order(units, np.random.default_rng(3))
    assert sorted(first) == list(range(40)) and first != list(range(40))
    assert lift_order(units, np.random.default_rng(3)) == first
    assert lift_order([], np.random.default_rng(1)) == []


def test_partners_follow_each_other_and_either_may_be_first() -> None:
    units = [(i, f"pair {i // 2}") for i in range(12)]
    firsts: Counter[int] = Counter()
    for seed in range(200):
        order = lift_order(units, np.random.default_rng(seed))
        assert all(order[i] // 2 == order[i + 1] // 2 for i in range(0, 12, 2))
        firsts[order[0] % 2] += 1
    assert 70 <= firsts[0] <= 130


def test_every_unit_comes_first_equally_often() -> None:
    """6 units, 3,000 draws: chi-square with 5 degrees of freedom below its 99.9 % point, 20.5."""
    firsts = Counter(lift_order([(i, None) for i in range(6)], np.random.default_rng(seed))[0] for seed in range(3_000))
    assert sum((firsts[i] - 500) ** 2 / 500 for i in range(6)) < 20.5
