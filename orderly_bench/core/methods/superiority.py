"""Probability that a cutting of one arm scores above one of the other, ties split.

Brunner & Munzel (2000, Biom J 42:17): placement variances, t with Satterthwaite's degrees of freedom. Where one arm lies
wholly above the other that interval has no width: Newcombe (2006, Stat Med 25:559, method 5) instead.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods.difference import Difference
from orderly_bench.core.methods.rates import Interval, normal_quantile

METHOD = N_("probability of superiority (Brunner-Munzel)")
NEWCOMBE = N_("probability of superiority (Newcombe 2006)")
CLUSTERED = N_("probability of superiority, variance between units (Obuchowski 1997)")
BETWEEN_STRATA = N_("probability of superiority, variance between strata")
FEW_STRATA = N_("probability of superiority; too few strata of few units for an interval")


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


#: A stratum with fewer units of a side than this has no variance of its own to speak of.
FEW_A_SIDE = 3
#: Fewer strata than this say too little of how they vary.
LEAST_STRATA = 5


@dataclass(frozen=True)
class Graded:
    """Grades of both sides in one stratum, with the unit of each cutting, numbered from 0 on each side."""

    a: np.ndarray
    b: np.ndarray
    unit_a: np.ndarray
    unit_b: np.ndarray

    @property
    def units(self) -> tuple[int, int]:
        """Units of each side."""
        return int(self.unit_a.max()) + 1, int(self.unit_b.max()) + 1

    @property
    def cuttings(self) -> int:
        """Of both sides."""
        return int(self.a.size + self.b.size)

    def placement(self) -> Placement:
        """P(a > b) + P(tie)/2 over cuttings, its variance between units (Obuchowski 1997, Biometrics 53:567)."""
        above = (self.a[:, None] > self.b[None, :]) + 0.5 * (self.a[:, None] == self.b[None, :])
        estimate = float(above.mean())
        parts = []
        for placements, unit in ((above.mean(axis=1), self.unit_a), (above.mean(axis=0), self.unit_b)):
            size = np.bincount(unit)
            away = np.bincount(unit, placements) - estimate * size
            m = size.size
            parts.append(float((away**2).sum()) * m / (m - 1) / placements.size**2 if m > 1 else 0.0)
        return Placement(estimate, parts[0], parts[1], *self.units)


def stratified_superiority(strata: list[Graded], level: float = 0.95) -> Difference:
    """Mean over strata of P(a > b) + P(tie)/2, weighted by the cuttings of both sides, with its interval.

    Notes
    -----
    Variance inside the strata, sum w^2 V; where a stratum has fewer than 3 units of a side, between them, H/(H - 1) sum w^2 (P_h - P)^2,
    with t on H - 1, no interval from fewer than 5 strata. No variance: Newcombe's on the units of both sides. Shared units: t with
    Satterthwaite's degrees of freedom.
    """
    from scipy.special import stdtrit

    if not strata:
        return Difference(None, None, METHOD)
    found = [one.placement() for one in strata]
    share = np.array([one.cuttings for one in strata], dtype=float)
    share /= share.sum()
    each = np.array([one.estimate for one in found])
    estimate = float(share @ each)
    units = tuple(sum(one.units[side] for one in strata) for side in (0, 1))
    shared = any(sum(one.units) < one.cuttings for one in strata)
    if len(strata) > 1 and min(min(one.units) for one in strata) < FEW_A_SIDE:
        if len(strata) < LEAST_STRATA:
            return Difference(estimate, None, FEW_STRATA)
        h = len(strata)
        variance, df = h / (h - 1) * float((share**2 * (each - estimate) ** 2).sum()), float(h - 1)
        method = BETWEEN_STRATA
    else:
        if min(units) < 2 and shared:
            return Difference(estimate, None, METHOD)
        variance = float(sum(w * w * one.variance for w, one in zip(share, found, strict=True)))
        bottom = sum(
            w**4 * (one.part_a**2 / max(1, one.n_a - 1) + one.part_b**2 / max(1, one.n_b - 1))
            for w, one in zip(share, found, strict=True)
        )
        plain = len(strata) > 1 and not shared
        df = float("inf") if plain else variance**2 / bottom if bottom > 0 else 1.0
        method = CLUSTERED if shared else METHOD
        method += _(" within strata") if len(strata) > 1 else ""
    if variance <= 1e-15 or (len(strata) == 1 and min(units) < 2):
        return Difference(estimate, _newcombe(estimate, units[0], units[1], level), NEWCOMBE)
    quantile = normal_quantile(level) if df == float("inf") else float(stdtrit(df, 0.5 + level / 2))
    half = quantile * sqrt(variance)
    return Difference(estimate, Interval(max(0.0, estimate - half), min(1.0, estimate + half), level), method)


def superiority(a: np.ndarray, b: np.ndarray, level: float = 0.95) -> Difference:
    """P(a > b) + P(tie)/2 of two samples with its interval, clipped to 0 and 1."""
    return stratified_superiority([Graded(a, b, np.arange(a.size), np.arange(b.size))], level)


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
