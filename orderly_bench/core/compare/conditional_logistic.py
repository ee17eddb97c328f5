"""Conditional logistic likelihood-ratio tests, strata = blocks or pairs.

The number rooted in each stratum is conditioned on, so no intercept per small block is needed
(Breslow & Day 1980, *Statistical Methods in Cancer Research* I, ch. 7). The denominator is the
coefficient of z^K in the product over arms of (1 + exp(eta) z)^n.
"""

from __future__ import annotations

from functools import lru_cache
from math import inf

import numpy as np

from orderly_bench.core.compare import logistic
from orderly_bench.core.compare.logistic import ModelTest, chi2_test
from orderly_bench.core.randomise.hypergeometric import log_choose

#: A coefficient beyond this has no finite estimate (separation).
DIVERGED = 12.0
NAME = "conditional logistic"
LARGE_STRATUM = 400


@lru_cache(maxsize=512)
def _choices(stuck: int) -> np.ndarray:
    """Binomial coefficients of ``stuck``."""
    found: np.ndarray = np.exp(log_choose(stuck, np.arange(stuck + 1)))
    return found


def _arm_polynomial(stuck: int, eta: float) -> np.ndarray:
    """Coefficients of (1 + exp(eta) z)^stuck."""
    found: np.ndarray = _choices(stuck) * np.exp(np.arange(stuck + 1) * eta)
    return found


def _stratum(rooted: np.ndarray, stuck: np.ndarray, eta: np.ndarray) -> tuple[float, np.ndarray]:
    """Log-likelihood of one stratum and its gradient with respect to each arm's eta."""
    total = int(rooted.sum())
    polynomials = [_arm_polynomial(int(n), float(e)) for n, e in zip(stuck, eta, strict=True)]
    before, after = [np.ones(1)], [np.ones(1)]
    for polynomial in polynomials:
        before.append(np.convolve(before[-1], polynomial))
    for polynomial in polynomials[:0:-1]:
        after.append(np.convolve(after[-1], polynomial))
    denominator = before[-1][total]
    gradient = np.zeros(eta.size)
    for arm, polynomial in enumerate(polynomials):
        others = np.convolve(before[arm], after[-1 - arm])
        j = np.arange(polynomial.size)
        rest = total - j
        usable = (rest >= 0) & (rest < others.size)
        expected = float((j[usable] * polynomial[usable] * others[rest[usable]]).sum() / denominator)
        gradient[arm] = rooted[arm] - expected
    ways = sum(np.log(_arm_polynomial(int(n), 0.0)[int(k)]) for n, k in zip(stuck, rooted, strict=True))
    return float(ways + rooted @ eta - np.log(denominator)), gradient


def log_likelihood(design: np.ndarray, rooted: np.ndarray, stuck: np.ndarray) -> float | None:
    """Maximised conditional log-likelihood; None when there is no finite fit.

    Parameters
    ----------
    design : ndarray, shape (arms, columns)
        Without an intercept, which conditioning removes.
    rooted, stuck : ndarray of int, shape (strata, arms)
    """
    from scipy.optimize import minimize

    def minus(beta: np.ndarray) -> tuple[float, np.ndarray]:
        eta = design @ beta
        value, gradient = 0.0, np.zeros(eta.size)
        for k, n in zip(rooted, stuck, strict=True):
            here, slope = _stratum(k, n, np.clip(eta, -40, 40))
            value += here
            gradient += slope
        return -value, -(design.T @ gradient)

    if design.shape[1] == 0:
        return -minus(np.zeros(0))[0]
    found = minimize(minus, np.zeros(design.shape[1]), jac=True, method="BFGS", options={"gtol": 1e-6})
    spread = design @ found.x
    if not np.isfinite(found.fun) or np.ptp(spread) > DIVERGED:
        return None
    return -float(found.fun)


def _with_intercepts(smaller: np.ndarray, larger: np.ndarray, rooted: np.ndarray, stuck: np.ndarray) -> ModelTest:
    strata, arms = stuck.shape
    base = np.repeat(np.eye(strata), arms, axis=0)
    small, large = (np.hstack([base, np.tile(design, (strata, 1))]) for design in (smaller, larger))
    return logistic.likelihood_ratio("logistic, an intercept per block", small, large, rooted.ravel(), stuck.ravel())


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
