"""Randomisation test for three or more arms of single cuttings, in any number of strata.

The statistic is the quadratic form of (rooted - expected) per arm in the inverse of its
randomisation covariance: in one stratum Pearson's chi-square up to a constant, over blocks the
generalised Cochran-Mantel-Haenszel statistic (Landis, Heyman & Koch 1978, Int Stat Rev 46:237).
Exact where the distribution of the totals can be convolved, otherwise seeded multivariate
hypergeometric draws (Patefield 1981 names the distribution).
"""

from __future__ import annotations

from itertools import product
from math import comb

import numpy as np

from orderly_bench.core.methods.hypergeometric import TIE
from orderly_bench.core.methods.randomisation import RandomisationTest, monte_carlo_p

#: Work allowed for the exact distribution: cells of the grid of totals x tables of a stratum.
EXACT_WORK = 30_000_000


def expected_and_covariance(rooted: np.ndarray, stuck: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Randomisation mean and covariance of the totals rooted per arm.

    Parameters
    ----------
    rooted, stuck : ndarray of int, shape (strata, arms)

    Returns
    -------
    expected : ndarray, shape (arms,)
    covariance : ndarray, shape (arms, arms)
        Sum over strata of the multivariate hypergeometric covariances; a stratum of one adds 0.
    """
    arms = stuck.shape[1]
    expected, covariance = np.zeros(arms), np.zeros((arms, arms))
    for k, n in zip(rooted.sum(axis=1), stuck, strict=True):
        total = n.sum()
        if total == 0:
            continue
        share = n / total
        expected += k * share
        if total > 1:
            covariance += k * (total - k) / (total - 1) * (np.diag(share) - np.outer(share, share))
    return expected, covariance


def cmh_statistic(rooted: np.ndarray, stuck: np.ndarray) -> tuple[float, int]:
    """Generalised Cochran-Mantel-Haenszel statistic and its degrees of freedom."""
    expected, covariance = expected_and_covariance(rooted, stuck)
    difference = rooted.sum(axis=0) - expected
    return float(difference @ np.linalg.pinv(covariance, hermitian=True) @ difference), rooted.shape[1] - 1


def _tables(rooted: int, stuck: tuple[int, ...]) -> list[tuple[tuple[int, ...], float]]:
    """Every split of ``rooted`` over all arms but the last, with its probability."""
    total = comb(sum(stuck), rooted)
    tables = []
    for head in product(*(range(min(n, rooted) + 1) for n in stuck[:-1])):
        last = rooted - sum(head)
        if 0 <= last <= stuck[-1]:
            ways = comb(stuck[-1], last)
            for k, n in zip(head, stuck, strict=False):
                ways *= comb(n, k)
            tables.append((head, ways / total))
    return tables


def _exact(rooted: np.ndarray, stuck: np.ndarray, inverse: np.ndarray, expected: np.ndarray, limit: float) -> float:
    """P(Q >= limit) by convolving the strata's tables on the grid of totals."""
    arms = stuck.shape[1]
    grid = np.zeros(tuple(int(n) + 1 for n in stuck.sum(axis=0)[:-1]))
    grid[(0,) * (arms - 1)] = 1.0
    for k, n in zip(rooted.sum(axis=1).tolist(), stuck.tolist(), strict=True):
        step = np.zeros_like(grid)
        for head, probability in _tables(k, tuple(n)):
            to = tuple(slice(shift, None) for shift in head)
            back = tuple(slice(None, size - shift) for shift, size in zip(head, grid.shape, strict=True))
            step[to] += probability * grid[back]
        grid = step
    where = np.argwhere(grid > 0)
    last = rooted.sum() - where.sum(axis=1)
    difference = np.column_stack([where, last]) - expected
    q = np.einsum("ij,jk,ik->i", difference, inverse, difference)
    return float(min(1.0, grid[grid > 0][q >= limit - TIE].sum()))


def _work(rooted: np.ndarray, stuck: np.ndarray) -> float:
    cells = float(np.prod(stuck.sum(axis=0)[:-1] + 1.0))
    tables = float(np.minimum(stuck, rooted.sum(axis=1, keepdims=True))[:, :-1].clip(0).__add__(1.0).prod(axis=1).sum())
    return cells * tables


def permutation_test(
    rooted: np.ndarray, stuck: np.ndarray, rng: np.random.Generator, draws: int = 20_000
) -> RandomisationTest:
    """Test that the arms root alike, keeping strata whole.

    Parameters
    ----------
    rooted, stuck : ndarray of int, shape (strata, arms)
    rng : numpy.random.Generator
    draws : int
        Monte Carlo draws where the exact distribution is too large.
    """
    expected, covariance = expected_and_covariance(rooted, stuck)
    inverse = np.linalg.pinv(covariance, hermitian=True)
    difference = rooted.sum(axis=0) - expected
    observed = float(difference @ inverse @ difference)
    if _work(rooted, stuck) <= EXACT_WORK:
        return RandomisationTest(_exact(rooted, stuck, inverse, expected, observed), True, None, observed)
    totals = np.zeros((draws, stuck.shape[1]))
    for k, n in zip(rooted.sum(axis=1).tolist(), stuck, strict=True):
        totals += rng.multivariate_hypergeometric(n, k, size=draws, method="marginals")
    away = totals - expected
    hits = int((np.einsum("ij,jk,ik->i", away, inverse, away) >= observed - TIE).sum())
    return monte_carlo_p(hits, draws, observed)
