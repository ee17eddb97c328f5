"""Days to root: the area under the cumulative proportion rooted, with death as a competing event."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from math import sqrt

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.layouts.drawn import Drawn
from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.layouts.layout import NO_MODEL
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods import time_to_root
from orderly_bench.core.methods.classical import Classical
from orderly_bench.core.methods.difference import Difference
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.methods.rates import Interval, normal_quantile
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.added import Curve, DaysApart
from orderly_bench.core.responses.lives import lives_of, looked_apart, possible_gap
from orderly_bench.core.responses.outcomes import Effect, OfArm, Outcomes, whole_design

AREAS = N_("difference of mean rooted-days, pseudo-values")
#: Fewer strata than this say too little of how they vary.
LEAST_STRATA = 3


@dataclass(frozen=True)
class _Areas:
    """Of one stratum: both areas, the variance of their difference, the units of each side."""

    areas: tuple[float, float]
    variance: float
    units: tuple[int, int]

    @property
    def weight(self) -> float:
        """n_a n_b / (n_a + n_b)."""
        return self.units[0] * self.units[1] / sum(self.units)


def _together(strata: list[_Areas], shared: bool, level: float) -> Difference:
    """The difference over the strata; where one holds a single unit of a side, its variance from how the strata vary."""
    from scipy.special import stdtrit

    if not strata:
        return Difference(None, None, AREAS)
    weight = np.array([one.weight for one in strata])
    weight /= weight.sum()
    each = np.array([one.areas[0] - one.areas[1] for one in strata])
    d, h = float(weight @ each), len(strata)
    units = sum(sum(one.units) for one in strata)
    df: float | None = max(1, units - 2 * h) if shared or h > 1 else None
    if min(min(one.units) for one in strata) > 1:
        variance = float(weight**2 @ np.array([one.variance for one in strata]))
    elif h >= LEAST_STRATA:
        variance, df = h / (h - 1) * float(weight**2 @ (each - d) ** 2), h - 1
    else:
        return Difference(d, None, AREAS)
    if variance <= 0:
        return Difference(d, None, AREAS)
    quantile = normal_quantile(level) if df is None else float(stdtrit(df, 0.5 + level / 2))
    half = quantile * sqrt(variance)
    return Difference(d, Interval(d - half, d + half, level), AREAS)


class TimeOutcomes(Outcomes):
    """Mean rooted-days to the last check."""

    estimate_is = N_("area under the curve, rooted-days")
    average_is = N_("mean rooted-days")
    pooled = False

    @cached_property
    def lives(self) -> time_to_root.Lives:
        """What happened to every cutting, and at which check."""
        return lives_of(self.o)

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
        rows = Frame(drawn.members, layout.arm, layout.stratum).rows
        lives = time_to_root.Lives(self.lives.checks, self.lives.kind[rows], self.lives.at[rows])
        return time_to_root.areas_test(lives, layout, rng, draws)

    def unit_values(self, frame: Frame) -> np.ndarray:
        """Pseudo-values of the area, all sides together."""
        return frame.means(self.values) if self.ready else np.zeros(len(frame.members))

    def effect(self, frame: Frame, a: int, b: int) -> Effect:
        """Difference of areas inside the strata, its variance from pseudo-values (Andersen, Klein & Rosthoj 2003)."""
        if not self.ready:
            return lambda _: Difference(None, None, AREAS)
        if frame.modelled:
            return self._of_units(frame, a, b)
        strata = self._areas(frame, a, b)
        return lambda level: _together(strata, not frame.single, level)

    def _of_units(self, frame: Frame, a: int, b: int) -> Effect:
        fitted = frame.fit(self.unit_values(frame))
        if not fitted.estimable[a, b]:
            return lambda _: Difference(None, None, AREAS)
        d = fitted.difference(a, b)[0]

        def at(level: float) -> Difference:
            half = fitted.t_half_width(a, b, level)
            return Difference(d, Interval(d - half, d + half, level) if half else None, AREAS)

        return at

    def adjusted(self, frame: Frame, a: int, b: int) -> tuple[float, float] | None:
        """Both areas over the strata that hold both; least-squares means in squares."""
        if not self.ready:
            return None
        if frame.modelled:
            fitted = frame.fit(self.unit_values(frame))
            return (fitted.mean(a), fitted.mean(b)) if fitted.estimable[a, b] else None
        strata = self._areas(frame, a, b)
        if not strata:
            return None
        weight = np.array([one.weight for one in strata])
        first, second = (weight @ np.array([one.areas for one in strata]) / weight.sum()).tolist()
        return first, second

    def _areas(self, frame: Frame, a: int, b: int) -> list[_Areas]:
        """Areas of both sides and what the units vary by, in the strata that hold both."""
        unit = frame.unit_of_rows
        strata, label = frame.stratum[unit], frame.label[unit]
        categories, checks = self.lives.categories()[frame.rows], self.lives.checks
        found = []
        for s in np.flatnonzero((frame.counts(a, b) > 0).all(axis=1)).tolist():
            both, spread, sizes = [], [], []
            for side in (a, b):
                here = (strata == s) & (label == side)
                both.append(float(time_to_root.areas(categories[here].sum(axis=0), checks)))
                of_unit = np.unique(unit[here], return_inverse=True)[1]
                size = np.bincount(of_unit)
                means = np.bincount(of_unit, time_to_root.pseudo_values(categories[here], checks)) / size
                spread.append(float(means.var(ddof=1)) / size.size if size.size > 1 else 0.0)
                sizes.append(size.size)
            found.append(_Areas((both[0], both[1]), sum(spread), (sizes[0], sizes[1])))
        return found

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
        apart = looked_apart(self.o, a, b) is not None
        ends = possible_gap(self.o, a, b) if apart else None
        if not tested:
            return DaysApart(None, ends)
        two = self.o.only([a, b])
        ratio = time_to_root.hazard(lives_of(two), two.arm_of_known).ratio(0, 1, normal_quantile(0.95))
        return DaysApart(ratio, ends)

    def untold(self, a: int, b: int) -> list[str]:
        """Arms looked at on different days."""
        return ["looked_on_different_days"] if looked_apart(self.o, a, b) is not None else []

    def model(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """The discrete-time hazard, of all arms at once only."""
        if not whole_design(smaller, larger):
            return NO_MODEL
        return time_to_root.hazard(self.lives, self.o.arm_of_known).test

    def textbook(self, test: RandomisationTest) -> dict[str, Classical]:
        """None: ranks of days would leave the dead out."""
        return {}

    def doubts_of_margin(self, margin: float | None) -> list[Caution]:
        """A margin beyond a third of the days looked at."""
        horizon = float(self.lives.checks[-1]) if self.lives.checks.size else 0.0
        if margin is None or margin <= horizon / 3:
            return []
        return [caution("margin_wide", margin=f"{margin:g}", horizon=f"{horizon:g}")]

    def doubts(self) -> list[Caution]:
        """The first two arms whose looks fell on different days."""
        arms = range(len(self.o.arms))
        for a, b in ((a, b) for a in arms for b in arms if a < b):
            day = looked_apart(self.o, a, b)
            if day is None:
                continue
            named = {row.levels for row in self.o.known if day in (row.last_without_day, row.first_with_day)}
            first, other = (a, b) if self.o.arms[a] in named else (b, a)
            names = self.o.labels
            low, high = possible_gap(self.o, first, other)
            said = {"a": names[first], "b": names[other], "day": f"{day:g}", "low": f"{low:.0f}", "high": f"{high:.0f}"}
            return [caution("looked_on_different_days", serious=True, **said)]
        return []
