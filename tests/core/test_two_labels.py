"""Two labels shuffled within strata: the exact distribution of a sum, against every way to give the labels."""

from __future__ import annotations

from functools import reduce
from itertools import combinations
from math import comb

import numpy as np
import pytest

from orderly_bench.core.methods import permutation
from orderly_bench.core.randomise.shuffled import ShuffledWithin


def strata_of(sizes: list[tuple[int, int]]) -> ShuffledWithin:
    """Strata of so many units, so many of them of the first label."""
    labels = [label for units, first in sizes for label in [0] * first + [1] * (units - first)]
    return ShuffledWithin(np.array(labels), np.repeat(np.arange(len(sizes)), [units for units, _ in sizes]))


def listed(values: np.ndarray, layout: ShuffledWithin) -> float:
    """Two-sided p over every way, listed."""
    sums = []
    for s in np.unique(layout.stratum):
        here = values[layout.stratum == s]
        first = int((layout.arm[layout.stratum == s] == 0).sum())
        sums.append(np.array([sum(one) for one in combinations(here, first)]))
    every = reduce(lambda a, b: np.add.outer(a, b).ravel(), sums)
    away = abs(values[layout.arm == 0].sum() - every.mean())
    return float((np.abs(every - every.mean()) >= away - 1e-9).mean())


@pytest.mark.parametrize(
    "sizes",
    [[(9, 4)], [(4, 2), (3, 1), (5, 2)], [(8, 4)] * 3, [(2, 1)] * 12, [(6, 1), (12, 6), (2, 1)], [(20, 10)]],
    ids=str,
)
@pytest.mark.parametrize("kind", ["measured", "counted", "tied"])
def test_p_is_the_share_of_all_ways_that_lie_as_far_out(sizes: list[tuple[int, int]], kind: str) -> None:
    layout, rng = strata_of(sizes), np.random.default_rng(len(sizes))
    values = {
        "measured": rng.normal(size=layout.arm.size) + 0.7 * layout.arm,
        "counted": rng.poisson(3 + 2 * layout.arm).astype(float),
        "tied": np.round(rng.normal(size=layout.arm.size), 1) / 3,
    }[kind]
    found = permutation.test(values, layout, rng, 100)
    assert found.exact
    assert found.p == pytest.approx(listed(values, layout), rel=1e-9)


def test_the_smallest_p_is_that_of_the_two_ends() -> None:
    apart = np.repeat([0.0, 2.0], 30) + np.tile([0.0, 1.0], 30)
    found = permutation.test(apart, strata_of([(60, 30)]), np.random.default_rng(1), 100)
    assert found.exact and found.p == pytest.approx(2 / comb(60, 30), rel=1e-6, abs=0)


def test_measured_values_are_exact_in_six_blocks_and_drawn_in_twelve() -> None:
    rng = np.random.default_rng(3)
    few, many = strata_of([(6, 3)] * 6), strata_of([(6, 3)] * 12)
    values = rng.normal(size=few.arm.size) + 0.4 * few.arm
    exact = permutation.test(values, few, rng, 100)
    drawn = permutation.test(np.tile(values, 2), many, rng, 1_000)
    assert exact.exact and not drawn.exact
    reordered = np.argsort(rng.random(6))[few.stratum]
    assert permutation.test(values, ShuffledWithin(few.arm, reordered), rng, 100).p == pytest.approx(exact.p, rel=1e-9)
    assert permutation.test(-values, few, rng, 100).p == pytest.approx(exact.p, rel=1e-9)
    sums = sum(permutation._drawn_sums(values[few.stratum == s], [3], rng, 40_000)[:, 0] for s in range(6))
    away = abs(values[few.arm == 0].sum() - values.reshape(6, 6).mean(axis=1).sum() * 3)
    share = (np.abs(sums - values.reshape(6, 6).mean(axis=1).sum() * 3) >= away - 1e-9).mean()
    assert share == pytest.approx(exact.p, abs=5 * np.sqrt(exact.p / 40_000))
