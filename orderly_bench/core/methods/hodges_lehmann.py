"""Shift between two samples: the median of all pairwise differences, interval from their order statistics.

Hodges & Lehmann (1963, Ann Math Stat 34:598); Hollander, Wolfe & Chicken (2014), *Nonparametric Statistical Methods*, ch. 4.
"""

from __future__ import annotations

from functools import lru_cache
from math import sqrt

import numpy as np

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.difference import Difference
from orderly_bench.core.methods.rates import Interval, normal_quantile

EXACT_BELOW = 50
#: Differences inside strata up to which the sum of their rank sums is counted.
MOST_CONVOLVED = 40_000
METHOD = "Hodges-Lehmann shift"


@lru_cache(maxsize=64)
def rank_sum_counts(m: int, n: int) -> tuple[float, ...]:
    """How many of the C(m+n, m) orders give each value 0 .. mn of the Mann-Whitney statistic."""
    counts = [[np.zeros(0)] * (m + 1) for _ in range(n + 1)]
    for j in range(n + 1):
        for i in range(m + 1):
            if i == 0 or j == 0:
                counts[j][i] = np.ones(1)
                continue
            total = np.zeros(i * j + 1)
            total[j:] += counts[j][i - 1]
            total[: counts[j - 1][i].size] += counts[j - 1][i]
            counts[j][i] = total
    return tuple(counts[n][m].tolist())


def exact_p(a: np.ndarray, b: np.ndarray) -> float:
    """Exact two-sided rank-sum p without ties: twice the smaller tail, at most 1."""
    counts = np.array(rank_sum_counts(a.size, b.size))
    statistic = int((a[:, None] > b[None, :]).sum())
    share = np.cumsum(counts) / counts.sum()
    lower = share[statistic]
    upper = 1 - (share[statistic - 1] if statistic else 0.0)
    return float(min(1.0, 2 * min(lower, upper)))


def shift(a: np.ndarray, b: np.ndarray, level: float = 0.95) -> Difference:
    """Shift of a against b, in the unit of the values; shape (n,) each, zeros in."""
    return stratified_shift(a, b, np.zeros(a.size, dtype=int), np.zeros(b.size, dtype=int), level)


def stratified_shift(
    a: np.ndarray, b: np.ndarray, strata_a: np.ndarray, strata_b: np.ndarray, level: float = 0.95
) -> Difference:
    """Shift from the differences inside strata only, interval from the sum of the strata's rank sums.

    Notes
    -----
    Counted out below 50 a side (conservative under ties), normal beyond. Where there are too few differences for an interval of this level
    there is none: the extremes would claim a level that they don't have.
    """
    inside, sizes = [], []
    for s in np.intersect1d(strata_a, strata_b):
        here_a, here_b = a[strata_a == s], b[strata_b == s]
        inside.append((here_a[:, None] - here_b[None, :]).ravel())
        sizes.append((here_a.size, here_b.size))
    if not inside:
        return Difference(None, None, METHOD)
    differences = np.sort(np.concatenate(inside))
    out = _rank_of_strata(sizes, differences.size, level) - 1
    method = METHOD if len(sizes) == 1 else _("Hodges-Lehmann shift within strata")
    return Difference(float(np.median(differences)), _between(differences, out, level), method)


def _rank_of_strata(sizes: list[tuple[int, int]], together: int, level: float) -> int:
    """How many ordered differences are left out at each end, by the sum of independent Mann-Whitney statistics."""
    if max(max(pair) for pair in sizes) >= EXACT_BELOW or together > MOST_CONVOLVED:
        variance = sum(m * n * (m + n + 1) / 12 for m, n in sizes)
        return max(0, int(np.floor(together / 2 - normal_quantile(level) * sqrt(variance))))
    share = np.ones(1)
    for m, n in sizes:
        counts = np.array(rank_sum_counts(m, n))
        share = np.convolve(share, counts / counts.sum())
    return int(np.searchsorted(np.cumsum(share), (1 - level) / 2 * (1 - 1e-12)))


@lru_cache(maxsize=64)
def signed_rank_counts(n: int) -> tuple[float, ...]:
    """How many of the 2^n signs give each value 0 .. n(n + 1)/2 of the signed-rank statistic."""
    counts = np.ones(1)
    for rank in range(1, n + 1):
        wider = np.zeros(counts.size + rank)
        wider[: counts.size] += counts
        wider[rank:] += counts
        counts = wider
    return tuple(counts.tolist())


def paired_shift(differences: np.ndarray, level: float = 0.95) -> Difference:
    """Median of the Walsh averages of the differences inside pairs, interval of the signed rank.

    Parameters
    ----------
    differences : ndarray, shape (pairs,)

    Notes
    -----
    Exact below 50 pairs (conservative under ties), normal beyond; none where the pairs are too few for the level. No pairs: no estimate.
    """
    n = differences.size
    method = _("Hodges-Lehmann shift of pairs (Walsh averages)")
    if n == 0:
        return Difference(None, None, method)
    rows, columns = np.triu_indices(n)
    walsh = np.sort((differences[rows] + differences[columns]) / 2)
    if n < EXACT_BELOW:
        counts = np.array(signed_rank_counts(n))
        rank = int(np.searchsorted(np.cumsum(counts / counts.sum()), (1 - level) / 2 * (1 - 1e-12)))
    else:
        spread = sqrt(n * (n + 1) * (2 * n + 1) / 24)
        rank = max(0, int(np.floor(n * (n + 1) / 4 - normal_quantile(level) * spread)))
    return Difference(float(np.median(walsh)), _between(walsh, rank - 1, level), method)


def _between(ordered: np.ndarray, out: int, level: float) -> Interval | None:
    """The interval with so many left out at each end; None where there are too few, or ties leave it no width: they say nothing of the
    size."""
    if out < 0:
        return None
    low, high = float(ordered[out]), float(ordered[ordered.size - 1 - out])
    return Interval(low, high, level) if low < high else None
