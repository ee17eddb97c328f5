"""Randomisation tests of layouts that no shuffle within strata can redraw: Latin squares and incomplete blocks.

The layout's own draw is repeated (Fisher 1935): uniformly from all Latin squares of the order; or labels, order of blocks
and places in blocks. A pair of arms is judged on the same redraws by the difference of its (adjusted) means.
"""

from __future__ import annotations

from math import factorial, prod

import numpy as np

from orderly_bench.core.compare.hypergeometric import TIE
from orderly_bench.core.compare.permutation import ENUMERATED
from orderly_bench.core.compare.randomisation import RandomisationTest, monte_carlo_p
from orderly_bench.core.design.latin_square import all_squares, draw_square


def _judged(observed: float, drawn: np.ndarray, exact: bool) -> RandomisationTest:
    hits = int((drawn >= observed - TIE).sum())
    if exact:
        return RandomisationTest(hits / drawn.size, True, None, observed)
    return monte_carlo_p(hits, drawn.size, observed)


def latin_tests(
    values: np.ndarray, arm: np.ndarray, row: np.ndarray, column: np.ndarray, rng: np.random.Generator, draws: int
) -> tuple[RandomisationTest, dict[tuple[int, int], RandomisationTest]]:
    """Overall and pairwise tests of a Latin square.

    Parameters
    ----------
    values : ndarray, shape (cells,)
        Mean of each cell.
    arm, row, column : ndarray of int, shape (cells,)
    """
    order = int(arm.max()) + 1
    grid = np.zeros((order, order))
    grid[row, column] = values
    exact = order <= 4
    squares = all_squares(order) if exact else np.array([draw_square(order, rng) for _ in range(draws)])
    means = np.stack([(grid * (squares == a)).sum(axis=(1, 2)) / order for a in range(order)], axis=1)
    observed = np.array([values[arm == a].mean() for a in range(order)])
    grand = values.mean()
    overall = _judged(float(((observed - grand) ** 2).sum()), ((means - grand) ** 2).sum(axis=1), exact)
    pairs = {
        (a, b): _judged(abs(float(observed[a] - observed[b])), np.abs(means[:, a] - means[:, b]), exact)
        for a in range(order)
        for b in range(a + 1, order)
    }
    return overall, pairs


def _adjusted(values: np.ndarray, arm: np.ndarray, block: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Adjusted arm effects (summing to 0) and the generalised inverse of the information on arms."""
    arms, blocks = int(arm.max()) + 1, int(block.max()) + 1
    incidence = np.zeros((arms, blocks))
    np.add.at(incidence, (arm, block), 1)
    sizes = incidence.sum(axis=0)
    information = np.diag(incidence.sum(axis=1)) - incidence / sizes @ incidence.T
    inverse = np.linalg.pinv(information, hermitian=True)
    centred = values - (np.bincount(block, values) / sizes)[block]
    return inverse @ np.bincount(arm, centred, minlength=arms), inverse


def incomplete_tests(
    values: np.ndarray, arm: np.ndarray, block: np.ndarray, rng: np.random.Generator, draws: int
) -> tuple[RandomisationTest, dict[tuple[int, int], RandomisationTest]]:
    """Overall and pairwise tests of incomplete blocks.

    The design (which arms share a block) is kept up to its labels; sets of arms move only between blocks of one size.
    """
    arms, blocks = int(arm.max()) + 1, int(block.max()) + 1
    members = [np.flatnonzero(block == b) for b in range(blocks)]
    sets = [arm[m] for m in members]
    effects, inverse = _adjusted(values, arm, block)
    sizes = np.array([len(m) for m in members])
    ways = (
        prod(factorial(int((sizes == s).sum())) for s in np.unique(sizes))
        * prod(factorial(int(s)) for s in sizes)
        * factorial(arms)
    )
    draws = max(draws, ENUMERATED) if ways > ENUMERATED else draws
    centred = [values[m] - values[m].mean() for m in members]
    totals = np.zeros((draws, arms))
    for size in np.unique(sizes):
        same = np.flatnonzero(sizes == size)
        values_here = np.array([centred[b] for b in same])
        order = np.argsort(rng.random((draws, same.size)), axis=1)
        mixed = rng.permuted(values_here[order], axis=2)
        indicators = (np.array([sets[b] for b in same])[:, :, None] == np.arange(arms)).astype(float)
        totals += np.einsum("dbj,bja->da", mixed, indicators, optimize=True)
    labels = np.argsort(rng.random((draws, arms)), axis=1)
    drawn = np.take_along_axis(totals @ inverse.T, labels, axis=1)
    overall = _judged(float((effects**2).sum()), (drawn**2).sum(axis=1), False)
    pairs = {
        (a, b): _judged(abs(float(effects[a] - effects[b])), np.abs(drawn[:, a] - drawn[:, b]), False)
        for a in range(arms)
        for b in range(a + 1, arms)
    }
    return overall, pairs
