"""Two arms of single cuttings: the p of every outcome, and the exact power.

By enumerating every outcome (Casagrande, Pike & Smith 1978, Appl Stat 27:176, for the exact test).
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from orderly_bench.core.methods.hypergeometric import TIE, log_choose


@lru_cache(maxsize=8)
def every_p(n_a: int, n_b: int) -> np.ndarray:
    """The exact two-sided p of every outcome (rooted a, rooted b) of single cuttings, shape (n_a + 1, n_b + 1)."""
    k_a, k_b = np.meshgrid(np.arange(n_a + 1), np.arange(n_b + 1), indexing="ij")
    total = k_a + k_b
    weight = np.exp(log_choose(n_a, k_a) + log_choose(n_b, k_b) - log_choose(n_a + n_b, total))
    away = np.abs(k_a - total * n_a / (n_a + n_b))
    found = np.ones((n_a + 1, n_b + 1))
    for t in range(n_a + n_b + 1):
        a = np.arange(max(0, t - n_b), min(t, n_a) + 1)
        probability, distance = weight[a, t - a], away[a, t - a]
        order = np.argsort(-distance)
        cumulative = np.cumsum(probability[order])
        last = np.searchsorted(-distance[order], -(distance[order] - TIE), side="right") - 1
        p = np.empty_like(probability)
        p[order] = cumulative[last]
        found[a, t - a] = np.minimum(p, 1.0)
    return found


def _binomial(k: np.ndarray, n: int, rate: float) -> np.ndarray:
    """Binomial probabilities; exact at rates 0 and 1."""
    from scipy.special import xlog1py, xlogy

    found: np.ndarray = np.exp(log_choose(n, k) + xlogy(k, rate) + xlog1py(n - k, -rate))
    return found


def pair_power(rate_a: float, n_a: int, rate_b: float, n_b: int, alpha: float) -> float:
    """Exact chance that p < alpha for two arms of ``n_a`` and ``n_b`` single cuttings with these true rates."""
    chance = np.outer(_binomial(np.arange(n_a + 1), n_a, rate_a), _binomial(np.arange(n_b + 1), n_b, rate_b))
    return float(chance[every_p(n_a, n_b) < alpha].sum())
