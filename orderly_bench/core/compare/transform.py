"""Another lens: arcsine square root of unit proportions, analysis of variance, Tukey's honest differences.

Sokal & Rohlf (2012), *Biometry*, ch. 13; Tukey (1953). Weak near 0 and 100 % (Warton & Hui 2011, Ecology 92:3), which is why it never decides.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np

from orderly_bench.core.compare.linear import fit_arms


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
    from scipy.stats import studentized_range

    arms = int(arm.max()) + 1
    if (np.bincount(arm, minlength=arms) < 2).any():
        return None
    fitted = fit_arms(np.arcsin(np.sqrt(proportion)), arm, [] if block is None else [block])
    if fitted.test.f is None:
        return None
    crit = float(studentized_range.ppf(0.95, arms, fitted.df))
    pairs = {}
    for a in range(arms):
        for b in range(a + 1, arms):
            estimate, error = fitted.difference(a, b)
            half = crit / sqrt(2) * error
            p = float(studentized_range.sf(abs(estimate) / error * sqrt(2), arms, fitted.df))
            pairs[a, b] = TukeyPair(estimate, estimate - half, estimate + half, p)
    return Transformed(fitted.test.f, fitted.test.p, pairs)
