"""Days to root: the area under the cumulative proportion rooted, with death as a competing event."""

from __future__ import annotations

from functools import cached_property
from math import sqrt

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare import time_to_root
from orderly_bench.core.compare.arms import Curve
from orderly_bench.core.compare.classical import Classical
from orderly_bench.core.compare.comparisons import DaysApart
from orderly_bench.core.compare.difference import Difference
from orderly_bench.core.compare.laid_out.drawn import Drawn
from orderly_bench.core.compare.laid_out.layout import NO_MODEL
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.measured.measured import Measured, OfArm, whole_design
from orderly_bench.core.compare.rate_effects import Effect
from orderly_bench.core.compare.rates import Interval, normal_quantile
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.words import tell, word
from orderly_bench.core.randomise.randomisation import RandomisationTest
from orderly_bench.core.randomise.shuffled import ShuffledWithin


class Days(Measured):
    """Mean rooted-days to the last check."""

    estimate_is = word("area under the curve, rooted-days")
    average_is = word("mean rooted-days")
    pooled = False

    @cached_property
    def lives(self) -> time_to_root.Lives:
        """What happened to every cutting, and at which check."""
        return time_to_root.lives_of(self.o)

    @cached_property
    def values(self) -> np.ndarray:
        """Each cutting's part in the area of all."""
        return time_to_root.pseudo_values(self.lives.categories(), self.lives.checks)

    @property
    def ready(self) -> bool:
        """Whether there are two checks, so that there is a curve."""
        return self.lives.checks.size > 1

    def redrawn(self, drawn: Drawn, layout: ShuffledWithin, rng: np.random.Generator, draws: int) -> RandomisationTest:
        """Whole cuttings are permuted and the areas worked out anew; units by the means of their parts."""
        if not drawn.single:
            return super().redrawn(drawn, layout, rng, draws)
        return time_to_root.areas_test(self.lives, layout, rng, draws)

    def between(self, a: int, b: int) -> Effect:
        """Difference of areas, its variance from pseudo-values (Andersen, Klein & Rosthoj 2003)."""
        return lambda level: self._area_apart(a, b, level)

    def _area_apart(self, a: int, b: int, level: float) -> Difference:
        method = tell("difference of mean rooted-days, pseudo-values")
        if not self.ready:
            return Difference(None, None, method)
        categories, checks, r = self.lives.categories(), self.lives.checks, self.o.layout.replicates
        estimates, variances, sizes = [], [], []
        for arm in (a, b):
            known = self.o.arm_of_known == arm
            estimates.append(float(time_to_root.areas(categories[known].sum(axis=0), checks)))
            pseudo = np.zeros(known.size)
            pseudo[known] = time_to_root.pseudo_values(categories[known], checks)
            means = np.array([pseudo[m].mean() for m, who in zip(r.members, r.arm, strict=True) if who == arm])
            sizes.append(means.size)
            variances.append(float(means.var(ddof=1)) / means.size if means.size > 1 else 0.0)
        d, half = estimates[0] - estimates[1], self._quantile(sum(sizes) - 2, level) * sqrt(sum(variances))
        if half <= 0 or (self.o.layout.shared and min(sizes) < 2):
            return Difference(d, None, method)
        return Difference(d, Interval(d - half, d + half, level), method)

    def _quantile(self, df: int, level: float) -> float:
        """Normal for single cuttings; t where several make one replicate."""
        from scipy.special import stdtrit

        shared = self.o.layout.shared
        return float(stdtrit(max(1, df), 0.5 + level / 2)) if shared else normal_quantile(level)

    def alone(self, arm: int, level: float, exact: bool) -> OfArm:
        """Area, curve and the day by which half had rooted."""
        counts, checks = self.lives.categories()[self.o.arm_of_known == arm].sum(axis=0), self.lives.checks
        if checks.size == 0:
            return OfArm(None, None, Curve({}, None, None))
        cumulative = time_to_root.incidence(counts, checks.size)
        area = float(time_to_root.areas(counts, checks)) if self.ready else None
        cif = {f"{day:g}": float(value) for day, value in zip(checks, cumulative, strict=True)}
        return OfArm(area, None, Curve(cif, time_to_root.median_day(cumulative, checks), area))

    def average(self, arm: int) -> float | None:
        """The area; 0 before there is a curve."""
        counts = self.lives.categories()[self.o.arm_of_known == arm].sum(axis=0)
        return float(time_to_root.areas(counts, self.lives.checks)) if self.ready else 0.0

    def days(self, a: int, b: int, tested: bool) -> DaysApart | None:
        """The hazard ratio, and both ends of the gap where the arms were looked at on different days."""
        apart = time_to_root.looked_apart(self.o, a, b) is not None
        ends = time_to_root.possible_gap(self.o, a, b) if apart else None
        if not tested:
            return DaysApart(None, ends)
        two = self.o.only([a, b])
        ratio = time_to_root.hazard(time_to_root.lives_of(two), two.arm_of_known).ratio(0, 1, normal_quantile(0.95))
        return DaysApart(ratio, ends)

    def untold(self, a: int, b: int) -> list[str]:
        """Arms looked at on different days."""
        return ["looked_on_different_days"] if time_to_root.looked_apart(self.o, a, b) is not None else []

    def model(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """The discrete-time hazard, of all arms at once only."""
        if not whole_design(smaller, larger):
            return NO_MODEL
        return time_to_root.hazard(self.lives, self.o.arm_of_known).test

    def textbook(self, test: RandomisationTest) -> dict[str, Classical]:
        """None: ranks of days would leave the dead out."""
        return {}

    def doubts(self) -> list[Caution]:
        """The first two arms whose looks fell on different days."""
        arms = range(len(self.o.arms))
        for a, b in ((a, b) for a in arms for b in arms if a < b):
            day = time_to_root.looked_apart(self.o, a, b)
            if day is None:
                continue
            named = {row.levels for row in self.o.known if day in (row.last_without_day, row.first_with_day)}
            first, other = (a, b) if self.o.arms[a] in named else (b, a)
            names = self.o.spoken
            low, high = time_to_root.possible_gap(self.o, first, other)
            said = {"a": names[first], "b": names[other], "day": f"{day:g}", "low": f"{low:.0f}", "high": f"{high:.0f}"}
            return [caution("looked_on_different_days", serious=True, **said)]
        return []
