"""Conditional logistic likelihood-ratio tests, strata = blocks or pairs.

The number rooted in each stratum is conditioned on, so no intercept per small block is needed
(Breslow & Day 1980, *Statistical Methods in Cancer Research* I, ch. 7). The denominator is the
coefficient of z^K in the product over arms of (1 + exp(eta) z)^n.
"""

from __future__ import annotations

from functools import lru_cache
from math import inf

import numpy as np

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import logistic
from orderly_bench.core.methods.hypergeometric import log_choose
from orderly_bench.core.methods.logistic import ModelTest, chi2_test

#: A coefficient beyond this has no finite estimate (separation).
DIVERGED = 12.0
NAME = "conditional logistic"
LARGE_STRATUM = 400
#: Of a logit; what a further step would gain when it is no longer taken; steps at most.
FURTHEST, CONVERGED, MOST_STEPS = 40.0, 1e-10, 60


@lru_cache(maxsize=512)
def _choices(stuck: int) -> np.ndarray:
    """Binomial coefficients of ``stuck``."""
    found: np.ndarray = np.exp(log_choose(stuck, np.arange(stuck + 1)))
    return found


def _arm_polynomial(stuck: int, eta: float) -> np.ndarray:
    """Coefficients of (1 + exp(eta) z)^stuck."""
    found: np.ndarray = _choices(stuck) * np.exp(np.arange(stuck + 1) * eta)
    return found


def _coefficient(first: np.ndarray, second: np.ndarray, power: int) -> float:
    """Of one power in the product of two polynomials."""
    low, high = max(0, power - second.size + 1), min(first.size - 1, power)
    return float(first[low : high + 1] @ second[power - high : power - low + 1][::-1]) if low <= high else 0.0


def _stratum(rooted: np.ndarray, stuck: np.ndarray, eta: np.ndarray) -> tuple[float, np.ndarray, np.ndarray]:
    """Log-likelihood of one stratum, and the mean and covariance of the numbers rooted given their sum."""
    total, arms = int(rooted.sum()), eta.size
    plain = [_arm_polynomial(int(n), float(e)) for n, e in zip(stuck, eta, strict=True)]
    counted = [np.arange(polynomial.size) * polynomial for polynomial in plain]
    before, after = [np.ones(1)], [np.ones(1)]
    for polynomial in plain:
        before.append(np.convolve(before[-1], polynomial))
    for polynomial in plain[:0:-1]:
        after.append(np.convolve(after[-1], polynomial))
    all_ways = float(before[-1][total])
    mean, square = np.zeros(arms), np.zeros((arms, arms))
    for a in range(arms):
        others = np.convolve(before[a], after[-1 - a])
        mean[a] = _coefficient(counted[a], others, total) / all_ways
        square[a, a] = _coefficient(np.arange(counted[a].size) * counted[a], others, total) / all_ways
        between = np.convolve(before[a], counted[a])
        for b in range(a + 1, arms):
            both = _coefficient(np.convolve(between, counted[b]), after[-1 - b], total)
            square[a, b] = square[b, a] = both / all_ways
            between = np.convolve(between, plain[b])
    ways = sum(np.log(_choices(int(n))[int(k)]) for n, k in zip(stuck, rooted, strict=True))
    return float(ways + rooted @ eta - np.log(all_ways)), mean, square - np.outer(mean, mean)


def log_likelihood(design: np.ndarray, rooted: np.ndarray, stuck: np.ndarray) -> float | None:
    """Maximised conditional log-likelihood, by Newton's method with steps halved; None when there is no finite fit.

    Parameters
    ----------
    design : ndarray, shape (arms, columns)
        Without an intercept, which conditioning removes.
    rooted, stuck : ndarray of int, shape (strata, arms)
    """
    kinds, times = np.unique(np.hstack([rooted, stuck]), axis=0, return_counts=True)
    arms = rooted.shape[1]

    def at(beta: np.ndarray) -> tuple[float, np.ndarray, np.ndarray]:
        eta = np.clip(design @ beta, -FURTHEST, FURTHEST)
        value, slope, bend = 0.0, np.zeros(arms), np.zeros((arms, arms))
        for kind, n in zip(kinds, times.tolist(), strict=True):
            here, mean, covariance = _stratum(kind[:arms], kind[arms:], eta)
            value += n * here
            slope += n * (kind[:arms] - mean)
            bend += n * covariance
        return value, design.T @ slope, design.T @ bend @ design

    beta = np.zeros(design.shape[1])
    value, slope, bend = at(beta)
    for _step in range(MOST_STEPS if beta.size else 0):
        step = np.linalg.lstsq(bend, slope, rcond=None)[0]
        gain = float(step @ slope)
        if gain < CONVERGED:
            break
        while (tried := at(beta + step))[0] < value and np.abs(step).max() > CONVERGED:
            step = step / 2
        beta, (value, slope, bend) = beta + step, tried
        if np.ptp(design @ beta) > DIVERGED:
            return None
    return value if np.isfinite(value) else None


def _with_intercepts(smaller: np.ndarray, larger: np.ndarray, rooted: np.ndarray, stuck: np.ndarray) -> ModelTest:
    strata, arms = stuck.shape
    whole, all_stuck = rooted.sum(axis=0), stuck.sum(axis=0)
    if ((whole == 0) | (whole == all_stuck)).any():  # at the edge of its likelihood no fit is finite
        return ModelTest(_("logistic, an intercept per block"), None, None, None)
    base = np.repeat(np.eye(strata), arms, axis=0)
    small, large = (np.hstack([base, np.tile(design, (strata, 1))]) for design in (smaller, larger))
    return logistic.likelihood_ratio(_("logistic, an intercept per block"), small, large, rooted.ravel(), stuck.ravel())


def likelihood_ratio(smaller: np.ndarray, larger: np.ndarray, rooted: np.ndarray, stuck: np.ndarray) -> ModelTest:
    """Conditional likelihood-ratio test of the columns that ``larger`` has beyond ``smaller``.

    Strata of more than 400 cuttings get an intercept each instead: there the two agree, and only small ones mislead.
    """
    if stuck.sum(axis=1).max() > LARGE_STRATUM:
        return _with_intercepts(smaller, larger, rooted, stuck)
    informative = (rooted.sum(axis=1) > 0) & (rooted.sum(axis=1) < stuck.sum(axis=1))
    df = int(np.linalg.matrix_rank(larger) - (np.linalg.matrix_rank(smaller) if smaller.size else 0))
    if not informative.any():
        return ModelTest(NAME, None, df, None)
    full = log_likelihood(larger, rooted[informative], stuck[informative])
    null = log_likelihood(smaller, rooted[informative], stuck[informative])
    if full is None or null is None or full == inf:
        return ModelTest(NAME, None, df, None)
    return chi2_test(NAME, 2 * (full - null), df)
