"""Do two sides differ alike in every stratum, or in some the one way and in some the other?

Zelen (1971, Biometrika 58:129): the exact test of one odds ratio, given all margins and the total; p is the share of the tables at
most as likely as the one seen. Breslow & Day (1980, *Statistical Methods in Cancer Research* 1, ch. 4) with Tarone's (1985,
Biometrika 72:91) term where there are too many tables and counts enough. For everything else F of the interaction in a linear model
of the unit values inside the strata of the test. Gail & Simon (1985, Biometrics 41:361): a reversal, where the sides change places.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import comb

import numpy as np

from orderly_bench.core.methods.hypergeometric import log_choose
from orderly_bench.core.methods.linear import dummies

#: Tables beyond which the exact test is left where every fitted count is large.
MOST_TABLES = 200_000
#: Fitted count from which that is allowed.
ENOUGH_FITTED = 5.0
#: Tables drawn where they are too many to be counted.
DRAWN = 20_000
#: Farther apart than the log-probabilities of any two tables: puts a total and a log-probability into one number.
APART = 1e4
NO_VARIANCE = 1e-12


@dataclass(frozen=True)
class Strata:
    """The difference of two sides in each stratum, its variance, and the residual degrees of freedom that variance rests on.

    ``df`` None: the variances are the strata's own.
    """

    difference: np.ndarray
    variance: np.ndarray
    df: int | None


def zelen(rooted: np.ndarray, stuck: np.ndarray) -> float | None:
    """Exact p that one odds ratio holds in every stratum; None where nothing varies in two of them.

    Parameters
    ----------
    rooted, stuck : ndarray of int, shape (strata, 2)
    """
    whole = rooted.sum(axis=1)
    varies = (whole > 0) & (whole < stuck.sum(axis=1)) & (stuck > 0).all(axis=1)
    if varies.sum() < 2:
        return None
    rooted, stuck, whole = rooted[varies], stuck[varies], whole[varies]
    least = np.maximum(0, whole - stuck[:, 1])
    most = np.minimum(whole, stuck[:, 0])
    total = int(rooted[:, 0].sum())
    if _tables(least, most, total) > MOST_TABLES:
        fitted = _fitted(rooted, stuck)
        if fitted is not None and min(float(part.min()) for part in fitted) >= ENOUGH_FITTED:
            return _breslow_day(rooted, fitted)
    logs = [
        log_choose(int(n_a), np.arange(lo, hi + 1)) + log_choose(int(n_b), k - np.arange(lo, hi + 1))
        for (n_a, n_b), k, lo, hi in zip(stuck.tolist(), whole.tolist(), least.tolist(), most.tolist(), strict=True)
    ]
    seen = sum(float(log[k - lo]) for log, k, lo in zip(logs, rooted[:, 0].tolist(), least.tolist(), strict=True))
    found = _counted(logs, total - int(least.sum()))
    if found is None:
        found = _sampled(logs, total - int(least.sum()))
    weight, log = found
    return float(min(1.0, weight[log <= seen + 1e-7].sum() / weight.sum()))


def _tables(least: np.ndarray, most: np.ndarray, total: int) -> float:
    ways = np.ones(1)
    for lo, hi in zip(least.tolist(), most.tolist(), strict=True):
        ways = np.convolve(ways, np.ones(hi - lo + 1))
    return float(ways[total - int(least.sum())])


def _counted(logs: list[np.ndarray], total: int) -> tuple[np.ndarray, np.ndarray] | None:
    """Probability weight by log-probability of all tables of a total; equal ones are merged. None where too many are left."""
    sums: np.ndarray = np.zeros(1)
    log: np.ndarray = np.zeros(1)
    ways: np.ndarray = np.ones(1)
    rest = sum(part.size - 1 for part in logs)
    for part in logs:
        rest -= part.size - 1
        all_sums: np.ndarray = (sums[:, None] + np.arange(part.size)).ravel()
        all_logs = (log[:, None] + part).ravel()
        all_ways = np.repeat(ways, part.size)
        kept = (all_sums <= total) & (all_sums + rest >= total)
        sums, log = np.asarray(all_sums[kept]), np.asarray(all_logs[kept])
        _, firsts, where = np.unique(np.round(sums * APART + log, 7), return_index=True, return_inverse=True)
        if firsts.size > MOST_TABLES:
            return None
        ways = np.bincount(where, weights=all_ways[kept])
        sums, log = sums[firsts], log[firsts]
    return ways * np.exp(log - log.max()), log


def _sampled(logs: list[np.ndarray], total: int) -> tuple[np.ndarray, np.ndarray]:
    """Tables drawn from their distribution given the total, each of weight one."""
    rng = np.random.default_rng(len(logs))
    parts = [np.exp(part - part.max()) for part in logs]
    tails = [np.ones(1)]
    for part in reversed(parts):
        joined = np.convolve(part, tails[0])
        tails.insert(0, joined / joined.max())
    left, log = np.full(DRAWN, total), np.zeros(DRAWN)
    for i, part in enumerate(parts):
        after = left[:, None] - np.arange(part.size)
        tail = tails[i + 1]
        weight = np.where((after >= 0) & (after < tail.size), part * tail[np.clip(after, 0, tail.size - 1)], 0.0)
        edges = np.cumsum(weight, axis=1)
        chosen = (rng.random(DRAWN)[:, None] * edges[:, -1:] > edges).sum(axis=1)
        log += logs[i][chosen]
        left = left - chosen
    return np.ones(DRAWN), log


def _fitted(rooted: np.ndarray, stuck: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray] | None:
    """Counts of the four cells under the Mantel-Haenszel odds ratio; None where that is 0 or has no bound."""
    (a, b), (n, m) = rooted.T.astype(float), stuck.T.astype(float)
    size = n + m
    above, below = float((a * (m - b) / size).sum()), float((b * (n - a) / size).sum())
    if above <= 0 or below <= 0:
        return None
    odds, k = above / below, a + b
    if abs(odds - 1) < 1e-9:
        x = n * k / size
    else:
        p = m - k + odds * (n + k)
        x = (p - np.sqrt(p * p - 4 * (odds - 1) * odds * n * k)) / (2 * (odds - 1))
    return x, n - x, k - x, m - k + x


def _breslow_day(rooted: np.ndarray, fitted: tuple[np.ndarray, ...]) -> float:
    from scipy.special import chdtrc

    away, variance = rooted[:, 0] - fitted[0], 1 / np.sum([1 / part for part in fitted], axis=0)
    chi2 = float((away**2 / variance).sum() - away.sum() ** 2 / variance.sum())
    return float(chdtrc(rooted.shape[0] - 1, max(0.0, chi2)))


def of_counts(rooted: np.ndarray, stuck: np.ndarray) -> Strata:
    """Differences of rates, a success and a failure added to each side; shapes (strata, 2)."""
    rate = (rooted + 1) / (stuck + 2)
    return Strata(rate[:, 0] - rate[:, 1], (rate * (1 - rate) / (stuck + 2)).sum(axis=1), None)


@dataclass(frozen=True)
class Interaction:
    """F of side by grouping inside strata.

    Attributes
    ----------
    p : float or None
        None where it can't be had.
    by_group : Strata
        The differences of the groups that tell the sides apart.
    residual : float
        The mean square they rest on.
    told : ndarray of int
        Which of the groups, in order, those are.
    """

    p: float | None
    by_group: Strata
    residual: float
    told: np.ndarray


def interaction(
    values: np.ndarray, first: np.ndarray, beside: list[np.ndarray], group: np.ndarray
) -> Interaction | None:
    """Does the difference of two sides hang on the group? F of lm(value ~ beside + side + group:side) against it without group:side.

    Parameters
    ----------
    values : ndarray of float, shape (units,)
    first : ndarray of bool, shape (units,)
        Of the first side.
    beside : list of ndarray of int, shape (units,)
        The strata of the test; or rows, columns and other factors.
    group : ndarray of int, shape (units,)

    Notes
    -----
    None where fewer than two groups tell the sides apart. No residual variance: p = 0 where the differences differ, else None.
    """
    from scipy.special import fdtrc

    names, g = np.unique(group, return_inverse=True)
    sides = first.astype(float)[:, None] * (g[:, None] == np.arange(names.size))
    (x, y), rank = _less(np.column_stack([sides, values]), beside)
    across = (x**2).sum(axis=0)
    told = np.flatnonzero(across > 1e-9)
    if told.size < 2:
        return None
    x = x[:, told]
    solved = np.linalg.pinv(x.T @ x, hermitian=True)
    difference = solved @ (x.T @ y)
    residual = float(((y - x @ difference) ** 2).sum())
    pooled = x.sum(axis=1)
    common = float(((y - pooled * (pooled @ y) / (pooled @ pooled)) ** 2).sum())
    df1 = int(np.linalg.matrix_rank(x)) - 1
    df = values.size - rank - df1 - 1
    if df1 < 1 or df < 1:
        return Interaction(None, Strata(difference, np.zeros_like(difference), df), 1.0, told)
    if residual <= NO_VARIANCE * max(1.0, float(y @ y)):
        p = 0.0 if np.ptp(difference) > 1e-9 else None
        return Interaction(p, Strata(difference, np.zeros_like(difference), df), 0.0, told)
    spare = residual / df
    p = float(fdtrc(df1, df, max(0.0, common - residual) / df1 / spare))
    return Interaction(p, Strata(difference, spare * np.diag(solved), df), spare, told)


def _less(columns: np.ndarray, beside: list[np.ndarray]) -> tuple[tuple[np.ndarray, np.ndarray], int]:
    """All columns but the last, and the last, less what the groupings explain; and the rank of those."""
    if len(beside) == 1:
        _, s = np.unique(beside[0], return_inverse=True)
        size = np.bincount(s)
        less = columns - np.column_stack([(np.bincount(s, c) / size)[s] for c in columns.T])
        return (less[:, :-1], less[:, -1]), size.size
    base = np.hstack([np.ones((columns.shape[0], 1)), *[dummies(b) for b in beside]])
    u, d, _ = np.linalg.svd(base, full_matrices=False)
    u = u[:, d > 1e-9 * d.max()]
    less = columns - u @ (u.T @ columns)
    return (less[:, :-1], less[:, -1]), u.shape[1]


def reversal(strata: Strata) -> float | None:
    """Gail & Simon's p that the sides do not change places between strata; 1 where all differ one way, None without variance."""
    from scipy.special import chdtrc, fdtrc

    d, v, k = strata.difference, strata.variance, strata.difference.size
    if k < 2 or (v <= 0).any():
        return None
    up, down = float((d[d > 0] ** 2 / v[d > 0]).sum()), float((d[d < 0] ** 2 / v[d < 0]).sum())
    c = min(up, down)
    if c <= 0:
        return 1.0
    beyond = [chdtrc(h, c) if strata.df is None else fdtrc(h, strata.df, c / h) for h in range(1, k)]
    return float(sum(comb(k - 1, h) * p for h, p in zip(range(1, k), beyond, strict=True)) * 0.5 ** (k - 1))
