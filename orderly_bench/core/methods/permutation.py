"""Randomisation test on unit values: labels permuted within strata, exactly where feasible.

Two labels: T = sum over strata of the values of the first; p = P(|T - E T| >= |t - E T|). More: the quadratic form
of T - E T in the inverse of its randomisation covariance, in one stratum the between-arm sum of squares (Pitman 1937,
J R Stat Soc Suppl 4:119; Edgington & Onghena 2007, *Randomization Tests*).
"""

from __future__ import annotations

from math import comb, prod

import numpy as np

from orderly_bench.core.methods.hypergeometric import TIE, drawn_from, two_sided_p
from orderly_bench.core.methods.quadratic_form import permutation_test as counts_test
from orderly_bench.core.methods.randomisation import RandomisationTest, monte_carlo_p
from orderly_bench.core.randomise.arrangements import MOST_ENUMERATED, arrangements, product_of, ways
from orderly_bench.core.randomise.shuffled import ShuffledWithin

#: Most sums that half of the strata may have together for the exact distribution of all.
MOST_OF_HALF = 100_000
#: Steps of the convolution of whole-number scores.
MOST_STEPS = 100_000_000
#: Scores that are whole numbers of one part in up to so many are convolved.
FINEST = 400
#: Different sums in order, and how probable each is.
Sums = tuple[np.ndarray, np.ndarray]
CHUNK = 4_000_000
#: With more units than this for each different value, values are drawn by kind.
MANY_ALIKE = 20


def test(values: np.ndarray, layout: ShuffledWithin, rng: np.random.Generator, draws: int) -> RandomisationTest:
    """Test that labels do not matter.

    Parameters
    ----------
    values : ndarray of float, shape (units,)
    layout : ShuffledWithin
        Labels as its arms, shuffled within its strata.

    Notes
    -----
    No stratum with two labels: nothing could have fallen otherwise, p is None. No values differ: p = 1.
    """
    labels, strata = layout.arm, layout.stratum
    count = int(labels.max()) + 1
    mixed = [s for s in np.unique(strata) if np.unique(labels[strata == s]).size > 1]
    if not mixed:
        return RandomisationTest(None, True, None, None)
    kept = np.isin(strata, mixed)
    values, labels, strata = values[kept], labels[kept], np.searchsorted(mixed, strata[kept])
    if np.isin(values, (0.0, 1.0)).all():
        return _binary(values, labels, strata, count, rng, draws)
    if count == 2:
        return _two(values, labels, strata, rng, draws)
    return _many(values, labels, strata, count, rng, draws)


def _binary(
    values: np.ndarray, labels: np.ndarray, strata: np.ndarray, count: int, rng: np.random.Generator, draws: int
) -> RandomisationTest:
    stuck = np.zeros((int(strata.max()) + 1, count), dtype=int)
    rooted = np.zeros_like(stuck)
    np.add.at(stuck, (strata, labels), 1)
    np.add.at(rooted, (strata, labels), values.astype(int))
    if count == 2:
        first, expected = float(rooted[:, 0].sum()), rooted.sum(axis=1) @ (stuck[:, 0] / stuck.sum(axis=1))
        return RandomisationTest(two_sided_p(rooted, stuck), True, None, first, first - float(expected))
    return counts_test(rooted, stuck, rng, draws)


def _splits(values: np.ndarray, chosen: int) -> np.ndarray:
    """Sums of every choice of ``chosen`` of the values."""
    labels = arrangements((0,) * (values.size - chosen) + (1,) * chosen)
    return np.asarray(labels @ values)


def _as_whole(values: np.ndarray) -> tuple[np.ndarray, int] | None:
    """The values less the least, as whole numbers of one part in so many; None where they are none such."""
    kinds = np.unique(values) - values.min()
    parts = np.arange(1, FINEST + 1)
    scaled = kinds[None, :] * parts[:, None]
    fits = np.abs(scaled - np.round(scaled)).max(axis=1) < TIE
    if not fits.any():
        return None
    part = int(parts[fits.argmax()])
    return np.round((values - values.min()) * part).astype(int), part


def _convolved(values: np.ndarray, chosen: int) -> Sums | None:
    """Distribution of the sum of ``chosen`` of the values drawn without replacement; None where too large or not whole.

    Sums are counted value by value (the shift algorithm, Streitberg & Roehmel 1986, Stat Software Newsletter 12:10).
    """
    found = _as_whole(values)
    if found is None:
        return None
    whole, part = found
    most = int(np.sort(whole)[::-1][:chosen].sum())
    if values.size * chosen * (most + 1) > MOST_STEPS:
        return None
    counts = np.zeros((chosen + 1, most + 1))
    counts[0, 0] = 1.0
    for value in whole.tolist():
        if value <= most:
            counts[1:, value:] += counts[:-1, : most + 1 - value]
    held = np.flatnonzero(counts[chosen])
    return chosen * values.min() + held / part, counts[chosen, held] / counts[chosen].sum()


def _of_stratum(values: np.ndarray, chosen: int) -> Sums | None:
    """Exact distribution of a stratum's sum, listed or convolved; None where neither is feasible."""
    if comb(values.size, chosen) <= MOST_ENUMERATED:
        sums = _splits(values, chosen)
        return _merged(sums, np.full(sums.size, 1 / sums.size))
    return _convolved(values, chosen)


def _merged(sums: np.ndarray, weight: np.ndarray) -> Sums:
    rounded, where = np.unique(np.round(sums, 10), return_inverse=True)
    return rounded, np.bincount(where, weights=weight)


def _two(
    values: np.ndarray, labels: np.ndarray, strata: np.ndarray, rng: np.random.Generator, draws: int
) -> RandomisationTest:
    groups = [(values[strata == s], int((labels[strata == s] == 0).sum())) for s in range(int(strata.max()) + 1)]
    observed = float(values[labels == 0].sum())
    expected = float(sum(v.mean() * chosen for v, chosen in groups))
    limit = abs(observed - expected) - TIE
    halves = _halves([_of_stratum(v, chosen) for v, chosen in groups])
    if halves is not None:
        return RandomisationTest(_as_far_out(*halves, expected, limit), True, None, observed, observed - expected)
    totals = np.zeros(draws)
    for v, chosen in groups:
        totals += _drawn_sums(v, [chosen], rng, draws)[:, 0]
    return monte_carlo_p(int((np.abs(totals - expected) >= limit).sum()), draws, observed, observed - expected)


def _halves(parts: list[Sums | None]) -> tuple[Sums, Sums] | None:
    """Sums over the strata in two halves of alike size, each in order; None where a half has too many."""
    halves: list[Sums] = [(np.zeros(1), np.ones(1)), (np.zeros(1), np.ones(1))]
    told = [part for part in parts if part is not None]
    if len(told) < len(parts):
        return None
    for sums, here in sorted(told, key=lambda part: part[0].size, reverse=True):
        smaller = int(halves[1][0].size < halves[0][0].size)
        support, weight = halves[smaller]
        if support.size > 1 and support.size * sums.size > MOST_OF_HALF:
            return None
        halves[smaller] = _merged(np.add.outer(support, sums).ravel(), np.multiply.outer(weight, here).ravel())
    return halves[0], halves[1]


def _as_far_out(first: Sums, second: Sums, expected: float, limit: float) -> float:
    """Probability that two independent sums are together at least ``limit`` from ``expected``; the first's are in order.

    Looked up in the first's tails, so that what they make together is never listed (Horowitz & Sahni 1974, J ACM 21:277).
    """
    support, weight = first
    sums, here = second
    up_to = np.concatenate([[0.0], np.cumsum(weight)])
    from_on = np.concatenate([np.cumsum(weight[::-1])[::-1], [0.0]])
    low = up_to[np.searchsorted(support, expected - limit - sums, side="right")]
    high = from_on[np.searchsorted(support, expected + limit - sums, side="left")]
    return float(min(1.0, here @ (low + high)))


def _drawn_sums(values: np.ndarray, sizes: list[int], rng: np.random.Generator, draws: int) -> np.ndarray:
    """Sums of the first ``sizes`` values of random orders, shape (draws, len(sizes))."""
    kinds, counts = np.unique(values, return_counts=True)
    if values.size > MANY_ALIKE * kinds.size:
        return _sums_by_kind(kinds, counts, sizes, rng, draws)
    sums = np.empty((draws, len(sizes)))
    step = max(1, CHUNK // values.size)
    edges = np.concatenate([[0], np.cumsum(sizes)])
    for start in range(0, draws, step):
        mixed = rng.permuted(np.tile(values, (min(step, draws - start), 1)), axis=1)
        for i in range(len(sizes)):
            sums[start : start + step, i] = mixed[:, edges[i] : edges[i + 1]].sum(axis=1)
    return sums


def _sums_by_kind(
    kinds: np.ndarray, counts: np.ndarray, sizes: list[int], rng: np.random.Generator, draws: int
) -> np.ndarray:
    """The same where many units share few values: how many of each value a label gets is hypergeometric."""
    left = np.tile(counts, (draws, 1))
    sums = np.empty((draws, len(sizes)))
    for i, size in enumerate(sizes):
        drawn = drawn_from(left, size, rng)
        sums[:, i] = drawn @ kinds
        left = left - drawn
    return sums


def form(
    values: np.ndarray, labels: np.ndarray, strata: np.ndarray, count: int
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Observed and expected totals per label, and the inverse covariance."""
    expected, covariance = np.zeros(count), np.zeros((count, count))
    for s in np.unique(strata):
        v, sizes = values[strata == s], np.bincount(labels[strata == s], minlength=count)
        expected += v.mean() * sizes
        if v.size > 1:
            covariance += v.var(ddof=1) * (np.diag(sizes) - np.outer(sizes, sizes) / v.size)
    return np.bincount(labels, weights=values, minlength=count), expected, np.linalg.pinv(covariance, hermitian=True)


def _many(
    values: np.ndarray, labels: np.ndarray, strata: np.ndarray, count: int, rng: np.random.Generator, draws: int
) -> RandomisationTest:
    observed, expected, inverse = form(values, labels, strata, count)
    away = observed - expected
    statistic = float(away @ inverse @ away)
    limit = statistic - TIE * max(1.0, statistic)
    groups = [
        (values[strata == s], np.bincount(labels[strata == s], minlength=count)) for s in range(int(strata.max()) + 1)
    ]
    if prod(ways(sizes.tolist()) for _, sizes in groups) <= MOST_ENUMERATED:
        totals = sum(product_of([_all_totals(v, sizes) for v, sizes in groups]), np.zeros((1, count)))
        return RandomisationTest(_share(totals - expected, inverse, limit), True, None, statistic)
    totals = np.zeros((draws, count))
    for v, sizes in groups:
        totals += _drawn_sums(v, sizes.tolist(), rng, draws)
    away = totals - expected
    hits = int((np.einsum("ij,jk,ik->i", away, inverse, away) >= limit).sum())
    return monte_carlo_p(hits, draws, statistic)


def _share(away: np.ndarray, inverse: np.ndarray, limit: float) -> float:
    return float((np.einsum("ij,jk,ik->i", away, inverse, away) >= limit).mean())


def _all_totals(values: np.ndarray, sizes: np.ndarray) -> np.ndarray:
    """Totals per label of every assignment of one stratum, shape (assignments, labels)."""
    labels = arrangements(tuple(np.repeat(np.arange(sizes.size), sizes).tolist()))
    return np.column_stack([(labels == label) @ values for label in range(sizes.size)])
