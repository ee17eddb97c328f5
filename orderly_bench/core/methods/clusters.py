"""Several cuttings per unit: design effect, effective counts, and the intraclass correlation.

Rao & Scott (1992, Biometrics 48:577): variance of the ratio estimator over that of a binomial, at least 1. ICC: one-way
analysis of variance, units inside arms, pooled (Donner 1986, Int Stat Rev 54:67).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orderly_bench.core.methods.rates import Interval, wilson
from orderly_bench.core.observations.table import Units

FEW_UNITS = 30


@dataclass(frozen=True)
class Cluster:
    """How alike cuttings of one unit are; ``icc`` None when units hold one cutting or nothing varies.

    ``interval`` is the 95 % one of the variance ratio.
    """

    icc: float | None
    design_effect: float | None
    interval: Interval | None = None


def arm_design_effect(rooted: np.ndarray, stuck: np.ndarray) -> float | None:
    """Design effect of one arm; None at 0 or 100 % and with one unit."""
    m, total = rooted.size, stuck.sum()
    rate = rooted.sum() / total
    if m < 2 or rate in (0.0, 1.0):
        return None
    variance = m / (m - 1) * ((rooted - rate * stuck) ** 2).sum() / total**2
    return max(1.0, float(variance / (rate * (1 - rate) / total)))


def design_effects(units: Units, arms: int) -> list[float]:
    """Design effect of every arm; an arm at 0 or 100 % borrows the mean of the others, weighted by cuttings.

    Without any other, the mean unit size: the units are then the effective count.
    """
    own = [arm_design_effect(units.total[units.arm == a], units.cuttings[units.arm == a]) for a in range(arms)]
    sizes = [float(units.cuttings[units.arm == a].sum()) for a in range(arms)]
    weight = sum(n for n, d in zip(sizes, own, strict=True) if d is not None)
    borrowed = sum(n * d for n, d in zip(sizes, own, strict=True) if d is not None) / weight if weight else None
    found = []
    for a, d in enumerate(own):
        fallback = borrowed if borrowed is not None else float(units.cuttings[units.arm == a].mean())
        found.append(fallback if d is None else d)
    return found


def rate_interval(units: Units, arm: int, effects: list[float], level: float) -> Interval | None:
    """Wilson on effective counts, t quantile when an arm has fewer than 30 units; None with one unit."""
    from scipy.special import stdtrit

    here = units.arm == arm
    m = int(here.sum())
    if m < 2:
        return None
    quantile = float(stdtrit(m - 1, 0.5 + level / 2)) if m < FEW_UNITS else None
    k, n = float(units.total[here].sum()), float(units.cuttings[here].sum())
    return wilson(k / effects[arm], n / effects[arm], level, quantile)


def cluster_of(units: Units, responses: np.ndarray, arms: int) -> Cluster:
    """ICC and the design effect 1 + (m - 1) max(icc, 0) at the mean unit size m."""
    total = units.cuttings.sum()
    count = units.arm.size
    if (units.cuttings <= 1).all() or count <= arms or total <= count:
        return Cluster(None, None)
    grand = np.array([units.total[units.arm == a].sum() / units.cuttings[units.arm == a].sum() for a in range(arms)])
    between = float((units.cuttings * (units.mean - grand[units.arm]) ** 2).sum()) / (count - arms)
    within = sum(float(((responses[m] - responses[m].mean()) ** 2).sum()) for m in units.members) / (total - count)
    squares = sum(
        float((units.cuttings[units.arm == a] ** 2).sum() / units.cuttings[units.arm == a].sum()) for a in range(arms)
    )
    n0 = (total - squares) / (count - arms)
    spread = between + (n0 - 1) * within
    if spread <= 0:
        return Cluster(None, None)
    icc = float((between - within) / spread)
    interval = icc_interval(between, within, count - arms, int(total - count), n0)
    return Cluster(icc, 1 + (float(units.cuttings.mean()) - 1) * max(icc, 0.0), interval)


def pooled_icc(earlier: list[tuple[float, int]]) -> float | None:
    """The ICC to expect from a lab's own earlier trials: their mean, weighted by units less arms; None without any.

    Parameters
    ----------
    earlier : list of (icc, degrees of freedom)
        Of each trial: its ICC and its units less its arms. What came out negative counts as 0.
    """
    weight = sum(df for _, df in earlier if df > 0)
    return sum(max(0.0, icc) * df for icc, df in earlier if df > 0) / weight if weight else None


def icc_interval(
    between: float, within: float, df_between: int, df_within: int, n0: float, level: float = 0.95
) -> Interval | None:
    """Interval of the intraclass correlation from the F ratio (Searle 1971, *Linear Models*, ch. 9; with units of unequal size
    approximate, Donner 1986); None when cuttings of one unit are all alike. Never below -1/(n0 - 1), nor above 1.

    Parameters
    ----------
    between, within : float
        Mean squares.
    n0 : float
        The analysis of variance's mean unit size.
    """
    from scipy.special import fdtri

    if within <= 0 or df_between < 1 or df_within < 1:
        return None
    f, tail = between / within, (1 - level) / 2
    ends = [f / float(fdtri(df_between, df_within, q)) for q in (1 - tail, tail)]
    low, high = ((end - 1) / (end + n0 - 1) for end in ends)
    return Interval(max(low, -1 / (n0 - 1)), min(high, 1.0), level)
