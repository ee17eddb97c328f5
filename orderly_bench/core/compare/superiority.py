"""Probability that a cutting of one arm scores above one of the other, ties split.

Brunner & Munzel (2000, Biom J 42:17): placement variances, t with Satterthwaite's degrees of freedom. Where one arm lies
wholly above the other that interval has no width: Newcombe (2006, Stat Med 25:559, method 5) instead.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np

from orderly_bench.core.compare.difference import Difference
from orderly_bench.core.compare.rates import Interval, normal_quantile
from orderly_bench.core.messages.words import tell, word

METHOD = word("probability of superiority (Brunner-Munzel)")
NEWCOMBE = word("probability of superiority (Newcombe 2006)")


@dataclass(frozen=True)
class Placement:
    """P(a > b) + P(tie)/2 with the two parts of its variance and their degrees of freedom."""

    estimate: float
    part_a: float
    part_b: float
    n_a: int
    n_b: int

    @property
    def variance(self) -> float:
        """Variance of the estimate."""
        return self.part_a + self.part_b

    @property
    def df(self) -> float:
        """Satterthwaite's degrees of freedom."""
        bottom = self.part_a**2 / max(1, self.n_a - 1) + self.part_b**2 / max(1, self.n_b - 1)
        return self.variance**2 / bottom if bottom > 0 else 1.0


def placement(a: np.ndarray, b: np.ndarray) -> Placement:
    """Estimate and variance parts for two samples."""
    above = (a[:, None] > b[None, :]) + 0.5 * (a[:, None] == b[None, :])
    part_a = float(above.mean(axis=1).var(ddof=1)) / a.size if a.size > 1 else 0.0
    part_b = float(above.mean(axis=0).var(ddof=1)) / b.size if b.size > 1 else 0.0
    return Placement(float(above.mean()), part_a, part_b, a.size, b.size)


def _newcombe(theta: float, m: int, n: int, level: float) -> Interval:
    """Limits solve |theta - t| = z sqrt(v(t)), Hanley & McNeil's variance with the mean sample size."""
    from scipy.optimize import brentq

    z = normal_quantile(level)
    size = (m + n) / 2 - 1

    def variance(t: float) -> float:
        return t * (1 - t) * (1 + size * (1 - t) / (2 - t) + size * t / (1 + t)) / (m * n)

    def gap(t: float) -> float:
        return abs(theta - t) - z * sqrt(max(0.0, variance(t)))

    low = 0.0 if theta <= 0 else float(brentq(gap, 1e-12, theta - 1e-12)) if gap(1e-12) > 0 else 0.0
    high = 1.0 if theta >= 1 else float(brentq(gap, theta + 1e-12, 1 - 1e-12)) if gap(1 - 1e-12) > 0 else 1.0
    return Interval(low, high, level)


def superiority(a: np.ndarray, b: np.ndarray, level: float = 0.95) -> Difference:
    """P(a > b) + P(tie)/2 with its interval, clipped to 0 and 1."""
    from scipy.special import stdtrit

    found = placement(a, b)
    if found.variance <= 1e-15 or min(a.size, b.size) < 2:
        return Difference(found.estimate, _newcombe(found.estimate, a.size, b.size, level), NEWCOMBE)
    half = float(stdtrit(found.df, 0.5 + level / 2)) * sqrt(found.variance)
    return Difference(
        found.estimate, Interval(max(0.0, found.estimate - half), min(1.0, found.estimate + half), level), METHOD
    )


def clustered_superiority(a: list[np.ndarray], b: list[np.ndarray], level: float = 0.95) -> Difference:
    """P(a > b) + P(tie)/2 over cuttings with its variance between units (Obuchowski 1997, Biometrics 53:567), t interval.

    Parameters
    ----------
    a, b : list of ndarray
        Values of the cuttings of each unit. An arm with one unit has no interval.
    """
    from scipy.special import stdtrit

    all_a, all_b = np.concatenate(a), np.concatenate(b)
    above = (all_a[:, None] > all_b[None, :]) + 0.5 * (all_a[:, None] == all_b[None, :])
    estimate = float(above.mean())
    if min(len(a), len(b)) < 2:
        return Difference(estimate, None, METHOD)
    parts = []
    for placements, units in ((above.mean(axis=1), a), (above.mean(axis=0), b)):
        sizes = np.array([u.size for u in units])
        sums = np.add.reduceat(placements, np.concatenate([[0], np.cumsum(sizes)[:-1]]))
        m = sizes.size
        parts.append(float(((sums - estimate * sizes) ** 2).sum()) * m / (m - 1) / placements.size**2)
    found = Placement(estimate, parts[0], parts[1], len(a), len(b))
    if found.variance <= 1e-15:
        return Difference(estimate, _newcombe(estimate, len(a), len(b), level), NEWCOMBE + ", units")
    half = float(stdtrit(found.df, 0.5 + level / 2)) * sqrt(found.variance)
    interval = Interval(max(0.0, estimate - half), min(1.0, estimate + half), level)
    return Difference(estimate, interval, tell("probability of superiority, variance between units (Obuchowski 1997)"))


def stratified_superiority(
    a: np.ndarray, b: np.ndarray, strata_a: np.ndarray, strata_b: np.ndarray, level: float = 0.95
) -> Difference:
    """Mean of the within-block probabilities, weighted by the cuttings of both arms in the block; normal interval."""
    found, weights = [], []
    for s in np.intersect1d(strata_a, strata_b):
        here_a, here_b = a[strata_a == s], b[strata_b == s]
        found.append(placement(here_a, here_b))
        weights.append(here_a.size + here_b.size)
    if not found:
        return Difference(None, None, METHOD)
    share = np.array(weights) / sum(weights)
    estimate = float(sum(w * p.estimate for w, p in zip(share, found, strict=True)))
    variance = float(sum(w * w * p.variance for w, p in zip(share, found, strict=True)))
    if variance <= 1e-15:
        return Difference(estimate, _newcombe(estimate, a.size, b.size, level), NEWCOMBE)
    half = normal_quantile(level) * sqrt(variance)
    return Difference(
        estimate, Interval(max(0.0, estimate - half), min(1.0, estimate + half), level), METHOD + tell(" within blocks")
    )


def mid_ranks(values: np.ndarray) -> np.ndarray:
    """Ranks from 1, ties sharing the mean of theirs."""
    _, inverse, counts = np.unique(values, return_inverse=True, return_counts=True)
    last = np.cumsum(counts)
    return (last - (counts - 1) / 2)[inverse]


def block_scores(values: np.ndarray, strata: np.ndarray) -> np.ndarray:
    """Within-block mid-ranks with van Elteren's weights 1/(n + 1) (van Elteren 1960, Bull Inst Int Stat 37:351)."""
    scores = np.empty(values.size)
    for s in np.unique(strata):
        here = strata == s
        scores[here] = mid_ranks(values[here]) / (here.sum() + 1)
    return scores
