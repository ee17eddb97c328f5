"""Another lens: arcsine square root of unit proportions, analysis of variance, Tukey's honest differences.

Sokal & Rohlf (2012), *Biometry*, ch. 13; Tukey (1953). Weak near 0 and 100 % (Warton & Hui 2011, Ecology 92:3), which is why it never decides.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations
from math import sqrt

import numpy as np

from orderly_bench.core.methods.linear import fit_arms
from orderly_bench.core.methods.studentized_range import quantile, upper_tail


@dataclass(frozen=True)
class TukeyPair:
    """Difference a - b in radians with its simultaneous 95 % interval and p."""

    estimate: float
    ci_low: float
    ci_high: float
    p: float


@dataclass(frozen=True)
class Transformed:
    """F test and all pairs; pairs are keyed by arm indices (a, b), a < b."""

    f: float | None
    p: float | None
    pairs: dict[tuple[int, int], TukeyPair]


def arcsine(proportion: np.ndarray, arm: np.ndarray, block: np.ndarray | None) -> Transformed | None:
    """Analyse unit proportions; None unless every arm has two units and there is residual variance.

    Parameters
    ----------
    proportion : ndarray, shape (units,)
    arm : ndarray of int, shape (units,)
    block : ndarray of int or None
    """
    arms = int(arm.max()) + 1
    if (np.bincount(arm, minlength=arms) < 2).any():
        return None
    fitted = fit_arms(np.arcsin(np.sqrt(proportion)), arm, [] if block is None else [block])
    if fitted.test.f is None:
        return None
    crit = quantile(0.95, arms, fitted.df)
    keys = list(combinations(range(arms), 2))
    found = [fitted.difference(a, b) for a, b in keys]
    tails = upper_tail(np.array([abs(d) / error * sqrt(2) for d, error in found]), arms, fitted.df)
    pairs = {}
    for key, (estimate, error), p in zip(keys, found, tails.tolist(), strict=True):
        half = crit / sqrt(2) * error
        pairs[key] = TukeyPair(estimate, estimate - half, estimate + half, p)
    return Transformed(fitted.test.f, fitted.test.p, pairs)
