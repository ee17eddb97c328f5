"""Negative binomial model of root counts (NB2, variance mu + mu^2/theta), theta by maximum likelihood.

Lawless (1987, Can J Stat 15:209). Arms are means, so mu = k/n per arm whatever theta is when all units are alike; with units of
different size the mean is fitted too. Where the likelihood rises to the Poisson, Poisson is used and said so.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, log, sqrt

import numpy as np

from orderly_bench.core.compare.logistic import ModelTest, chi2_test

#: Beyond this theta the negative binomial is Poisson.
POISSON_THETA = 1e6


@dataclass(frozen=True)
class NegativeBinomial:
    """Fitted means per cutting and arm, variance of their logarithms, theta (None for Poisson), log-likelihood."""

    mean: np.ndarray
    log_variance: np.ndarray
    theta: float | None
    log_likelihood: float


def _log_likelihood(totals: np.ndarray, mu: np.ndarray, theta: float | None) -> float:
    from scipy.special import gammaln, xlogy

    if theta is None:
        return float((xlogy(totals, mu) - mu - gammaln(totals + 1)).sum())
    part = gammaln(totals + theta) - gammaln(theta) - gammaln(totals + 1)
    return float((part - theta * np.log1p(mu / theta) + xlogy(totals, mu / (mu + theta))).sum())


def _means(totals: np.ndarray, cuttings: np.ndarray, arm: np.ndarray, theta: float | None) -> np.ndarray:
    """Mean per cutting of each arm at a given theta: the root of the score in log mu."""
    found = np.empty(int(arm.max()) + 1)
    for a in range(found.size):
        y, n = totals[arm == a], cuttings[arm == a]
        rate = y.sum() / n.sum()
        for _ in range(100 if theta is not None else 0):
            mu = n * rate
            score = ((y - mu) / (1 + mu / theta)).sum()
            information = (mu / (1 + mu / theta)).sum()
            step = score / information
            rate *= exp(max(-1.0, min(1.0, step)))
            if abs(step) < 1e-12:
                break
        found[a] = rate
    return found


def fit(totals: np.ndarray, cuttings: np.ndarray, arm: np.ndarray) -> NegativeBinomial:
    """Fit arm means and one theta.

    Parameters
    ----------
    totals, cuttings : ndarray of float, shape (units,)
        Roots and cuttings of each unit; the logarithm of the cuttings is the offset.
    arm : ndarray of int, shape (units,)
        Every arm has at least one root.
    """
    from scipy.optimize import minimize_scalar

    def minus(log_theta: float) -> float:
        theta = exp(log_theta)
        return -_log_likelihood(totals, cuttings * _means(totals, cuttings, arm, theta)[arm], theta)

    found = minimize_scalar(minus, bounds=(-7.0, log(POISSON_THETA)), method="bounded", options={"xatol": 1e-10})
    poisson = _means(totals, cuttings, arm, None)
    at_poisson = _log_likelihood(totals, cuttings * poisson[arm], None)
    if exp(found.x) > POISSON_THETA / 10 or -found.fun <= at_poisson:
        theta, mean, best = None, poisson, at_poisson
    else:
        theta = exp(float(found.x))
        mean, best = _means(totals, cuttings, arm, theta), -float(found.fun)
    mu = cuttings * mean[arm]
    weight = mu if theta is None else mu / (1 + mu / theta)
    variance = np.array([1 / weight[arm == a].sum() for a in range(mean.size)])
    return NegativeBinomial(mean, variance, theta, best)


def _fitted(totals: np.ndarray, cuttings: np.ndarray, design: np.ndarray, theta: float | None) -> np.ndarray:
    """Means of the units at a given theta: iteratively reweighted least squares, log link, log cuttings as offset."""
    rate = np.full(totals.size, totals.sum() / cuttings.sum())
    for _ in range(100):
        mu = cuttings * rate
        weight = mu if theta is None else mu / (1 + mu / theta)
        working = np.log(rate) + (totals - mu) / mu
        weighted = design * weight[:, None]
        eta = design @ np.linalg.solve(design.T @ weighted, weighted.T @ working)
        step = float(np.abs(eta - np.log(rate)).max())
        rate = np.exp(np.clip(eta, -30, 30))
        if step < 1e-10:
            break
    found: np.ndarray = cuttings * rate
    return found


def largest_log_likelihood(totals: np.ndarray, cuttings: np.ndarray, design: np.ndarray) -> tuple[float, float | None]:
    """Maximised log-likelihood of a log-linear model of the units, and its theta (None for Poisson).

    Parameters
    ----------
    totals, cuttings : ndarray of float, shape (units,)
    design : ndarray, shape (units, columns)
        Of full column rank, and no combination of it picks out units without a root only.
    """
    from scipy.optimize import minimize_scalar

    def minus(log_theta: float) -> float:
        theta = exp(log_theta)
        return -_log_likelihood(totals, _fitted(totals, cuttings, design, theta), theta)

    found = minimize_scalar(minus, bounds=(-7.0, log(POISSON_THETA)), method="bounded", options={"xatol": 1e-8})
    at_poisson = _log_likelihood(totals, _fitted(totals, cuttings, design, None), None)
    if exp(found.x) > POISSON_THETA / 10 or -found.fun <= at_poisson:
        return at_poisson, None
    return -float(found.fun), exp(float(found.x))


def term_ratio(totals: np.ndarray, cuttings: np.ndarray, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
    """Likelihood-ratio test of the columns ``larger`` adds, theta anew in each; designs of units, shape (units, columns)."""
    df = larger.shape[1] - smaller.shape[1]
    (full, theta), (null, _) = (largest_log_likelihood(totals, cuttings, d) for d in (larger, smaller))
    return chi2_test("Poisson" if theta is None else "negative binomial", 2 * (full - null), df)


def ratio(model: NegativeBinomial, a: int, b: int, quantile: float) -> tuple[float, float, float]:
    """Mean of a over mean of b with its Wald interval on the log scale."""
    centre = log(model.mean[a]) - log(model.mean[b])
    half = quantile * sqrt(float(model.log_variance[a] + model.log_variance[b]))
    return exp(centre), exp(centre - half), exp(centre + half)


def likelihood_ratio(
    totals: np.ndarray, cuttings: np.ndarray, arm: np.ndarray, groups: np.ndarray | None = None
) -> ModelTest:
    """Twice the gain from one mean to a mean per arm, theta estimated anew in each.

    ``groups`` (smaller model's grouping, coarser than ``arm``) defaults to one for all.
    """
    smaller = np.zeros_like(arm) if groups is None else groups
    full, null = fit(totals, cuttings, arm), fit(totals, cuttings, smaller)
    name = "Poisson" if full.theta is None else "negative binomial"
    return chi2_test(name, 2 * (full.log_likelihood - null.log_likelihood), int(arm.max()) - int(smaller.max()))
