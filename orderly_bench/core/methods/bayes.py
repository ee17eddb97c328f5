"""Another lens: beta-binomial posteriors with the Jeffreys prior, on effective counts when cuttings share units.

Gelman et al. (2013), *Bayesian Data Analysis*, ch. 2; expected loss of choosing wrongly after Raiffa & Schlaifer (1961).
Integrals by Gauss-Legendre quadrature over the posterior's own quantiles.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

NODES = 400
JEFFREYS = 0.5


@dataclass(frozen=True)
class BayesPair:
    """P(a > b), P(a - b > margin), P(b - a > margin), expected loss of choosing a, of choosing b."""

    p_better: float
    p_a_beyond: float | None
    p_b_beyond: float | None
    loss_a: float
    loss_b: float


@lru_cache(maxsize=1)
def _gauss() -> tuple[np.ndarray, np.ndarray]:
    """Shares of probability and their weights, denser towards both ends."""
    x, w = np.polynomial.legendre.leggauss(NODES)
    return (1 - np.cos(np.pi * (x + 1) / 2)) / 2, w * np.pi / 4 * np.sin(np.pi * (x + 1) / 2)


@lru_cache(maxsize=256)
def _nodes(a: float, b: float) -> tuple[np.ndarray, np.ndarray]:
    """Points of a beta posterior and weights that integrate against it."""
    from scipy.special import betaincinv

    share, weights = _gauss()
    return betaincinv(a, b, share), weights


def _cdf(a: float, b: float, x: np.ndarray) -> np.ndarray:
    from scipy.special import betainc

    return np.asarray(betainc(a, b, np.clip(x, 0.0, 1.0)))


def compare(first: tuple[float, float], second: tuple[float, float], margin: float | None) -> BayesPair:
    """Compare two posteriors.

    Parameters
    ----------
    first, second : tuple of float
        (rooted, stuck), effective when clustered.
    """
    (a1, b1), (a2, b2) = ((k + JEFFREYS, n - k + JEFFREYS) for k, n in (first, second))
    x, w = _nodes(a1, b1)
    better = float((w * _cdf(a2, b2, x)).sum())
    beyond_a = float((w * _cdf(a2, b2, x - margin)).sum()) if margin is not None else None
    beyond_b = float((w * (1 - _cdf(a2, b2, x + margin))).sum()) if margin is not None else None
    mean_1, mean_2 = a1 / (a1 + b1), a2 / (a2 + b2)
    # E max(y - x, 0) = sum over x of E[y; y > x] - x P(y > x), with E[y; y > x] from the beta with one more success.
    above = mean_2 * (1 - _cdf(a2 + 1, b2, x)) - x * (1 - _cdf(a2, b2, x))
    loss_a = float((w * above).sum())
    return BayesPair(better, beyond_a, beyond_b, loss_a, loss_a + mean_1 - mean_2)


def p_best(counts: list[tuple[float, float]]) -> list[float]:
    """Probability of each arm to have the highest rate."""
    posteriors = [(k + JEFFREYS, n - k + JEFFREYS) for k, n in counts]
    found = []
    for i, (a, b) in enumerate(posteriors):
        x, w = _nodes(a, b)
        below = np.ones_like(x)
        for j, other in enumerate(posteriors):
            if j != i:
                below = below * _cdf(*other, x)
        found.append(float((w * below).sum()))
    return found
