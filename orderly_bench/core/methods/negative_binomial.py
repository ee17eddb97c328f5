"""Log-linear models of root counts: negative binomial (NB2, variance mu + mu^2/theta), theta by maximum likelihood.

Lawless (1987, Can J Stat 15:209); Venables & Ripley (2002, *Modern Applied Statistics with S*, ch. 7). Strata stand in the model
beside the arms. Where the likelihood rises to the Poisson, Poisson is used and said so. With as many strata as pairs the likelihood
overstates theta (Neyman & Scott 1948, Econometrica 16:1): then theta is that at which Pearson's chi-square is the residual degrees of
freedom (Breslow 1984, Appl Stat 33:38).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, log, sqrt

import numpy as np

from orderly_bench.core.methods.logistic import ModelTest, chi2_test

#: Beyond this theta the negative binomial is Poisson.
POISSON_THETA = 1e6
#: A logarithm of a ratio, with its half interval, beyond this has no finite estimate.
RUN_AWAY = 25.0
#: Least logarithm of theta that is looked at.
LEAST_LOG_THETA = -7.0


@dataclass(frozen=True)
class LogLinear:
    """A fitted model.

    Attributes
    ----------
    coefficients : ndarray, shape (columns,)
        On the log scale, of the design given.
    covariance : ndarray, shape (columns, columns)
        Inverse of the expected information, theta held.
    theta : float or None
        None for Poisson.
    log_likelihood : float
    """

    coefficients: np.ndarray
    covariance: np.ndarray
    theta: float | None
    log_likelihood: float

    def ratio(self, contrast: np.ndarray, quantile: float) -> tuple[float, float, float] | None:
        """exp of a contrast of the coefficients with its Wald interval; None where the fit has run away."""
        centre = float(contrast @ self.coefficients)
        half = quantile * sqrt(max(0.0, float(contrast @ self.covariance @ contrast)))
        if abs(centre) + half > RUN_AWAY:
            return None
        return exp(centre), exp(centre - half), exp(centre + half)


@dataclass(frozen=True)
class _Table:
    """Units that are alike in total, cuttings and columns, counted once."""

    totals: np.ndarray
    cuttings: np.ndarray
    design: np.ndarray
    times: np.ndarray


def _table(totals: np.ndarray, cuttings: np.ndarray, design: np.ndarray) -> _Table:
    together = np.column_stack([totals, cuttings, design])
    if totals.size < MANY:
        return _Table(totals, cuttings, design, np.ones(totals.size))
    distinct, times = np.unique(together, axis=0, return_counts=True)
    return _Table(distinct[:, 0], distinct[:, 1], distinct[:, 2:], times.astype(float))


#: From so many units on, those alike are counted once.
MANY = 2_000


def _log_likelihood(table: _Table, mu: np.ndarray, theta: float | None) -> float:
    from scipy.special import gammaln, xlogy

    y = table.totals
    if theta is None:
        return float(table.times @ (xlogy(y, mu) - mu - gammaln(y + 1)))
    part = gammaln(y + theta) - gammaln(theta) - gammaln(y + 1)
    return float(table.times @ (part - theta * np.log1p(mu / theta) + xlogy(y, mu / (mu + theta))))


def _fitted(table: _Table, theta: float | None, start: np.ndarray | None = None) -> tuple[np.ndarray, np.ndarray]:
    """Coefficients and means at a given theta: iteratively reweighted least squares, log cuttings as offset.

    A step that lowers the likelihood is halved, so that it never wanders off.
    """
    y, n, x, w = table.totals, table.cuttings, table.design, table.times
    solve = np.linalg.pinv(x.T @ (x * w[:, None]), hermitian=True)
    beta = solve @ (x.T @ (w * np.log((y + 0.5) / n))) if start is None else start
    mu = n * np.exp(np.clip(x @ beta, -30, 30))
    best = _log_likelihood(table, mu, theta)
    for _ in range(60):
        weight = w * (mu if theta is None else mu / (1 + mu / theta))
        score = x.T @ (weight * (y - mu) / mu)
        step = np.linalg.lstsq(x.T @ (x * weight[:, None]), score, rcond=None)[0]
        for _ in range(12):
            trial = n * np.exp(np.clip(x @ (beta + step), -30, 30))
            found = _log_likelihood(table, trial, theta)
            if found >= best - 1e-12 * abs(best):
                break
            step = step / 2
        beta, mu, gained, best = beta + step, trial, found - best, found
        if np.abs(step).max() < 1e-10 or abs(gained) < 1e-14 * abs(best):
            break
    return beta, mu


def fit(totals: np.ndarray, cuttings: np.ndarray, design: np.ndarray, by_pearson: bool = False) -> LogLinear:
    """Fit a log-linear model of unit totals and one theta.

    Parameters
    ----------
    totals, cuttings : ndarray of float, shape (units,)
        Roots and cuttings of each unit; the logarithm of the cuttings is the offset.
    design : ndarray, shape (units, columns)
        No column of it stands for units without a root only. Where columns depend on each other, the coefficients are the shortest that fit,
        and only contrasts in its rows mean anything.
    by_pearson : bool
        Theta by Pearson's chi-square instead of maximum likelihood.
    """
    from scipy.optimize import brentq, minimize_scalar

    table = _table(totals, cuttings, design)
    start, poisson = _fitted(table, None)
    kept = {"start": start}

    def at(log_theta: float) -> tuple[np.ndarray, np.ndarray]:
        beta, mu = _fitted(table, exp(log_theta), kept["start"])
        kept["start"] = beta
        return beta, mu

    theta: float | None
    if by_pearson:
        df = float(table.times.sum()) - float(np.linalg.matrix_rank(design))

        def excess(log_theta: float) -> float:
            mu = at(log_theta)[1]
            spread = (table.totals - mu) ** 2 / (mu + mu**2 / exp(log_theta))
            excess_of: float = np.dot(table.times, spread) - df
            return excess_of

        most = log(POISSON_THETA)
        if excess(most) <= 0:
            theta = None
        elif excess(LEAST_LOG_THETA) >= 0:
            theta = exp(LEAST_LOG_THETA)
        else:
            theta = exp(float(brentq(excess, LEAST_LOG_THETA, most)))
    else:
        at_poisson = _log_likelihood(table, poisson, None)
        found = minimize_scalar(
            lambda log_theta: -_log_likelihood(table, at(log_theta)[1], exp(log_theta)),
            bounds=(LEAST_LOG_THETA, log(POISSON_THETA)),
            method="bounded",
            options={"xatol": 1e-9},
        )
        theta = None if exp(found.x) > POISSON_THETA / 10 or -found.fun <= at_poisson else exp(float(found.x))
    beta, mu = _fitted(table, theta, kept["start"])
    weight = table.times * (mu if theta is None else mu / (1 + mu / theta))
    covariance = np.linalg.pinv(table.design.T @ (table.design * weight[:, None]), hermitian=True)
    return LogLinear(beta, covariance, theta, _log_likelihood(table, mu, theta))


def likelihood_ratio(totals: np.ndarray, cuttings: np.ndarray, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
    """Test of the columns ``larger`` adds, theta anew in each; designs of units, shape (units, columns)."""
    full, null = (fit(totals, cuttings, design) for design in (larger, smaller))
    name = "Poisson" if full.theta is None else "negative binomial"
    return chi2_test(name, 2 * (full.log_likelihood - null.log_likelihood), larger.shape[1] - smaller.shape[1])
