"""How big: the difference of two rates with its interval, from the means of units or replicates; no interval collapses.

What a layout calls on where counts of single cuttings do not say it.
"""

from __future__ import annotations

from collections.abc import Callable
from math import sqrt

import numpy as np

from orderly_bench.core.compare.clusters import design_effects, rate_interval
from orderly_bench.core.compare.difference import Difference
from orderly_bench.core.compare.linear import ArmFit, fit_arms
from orderly_bench.core.compare.observations import Observations
from orderly_bench.core.compare.rates import Interval
from orderly_bench.core.messages.words import tell

Effect = Callable[[float], Difference]
NO_VARIANCE = 1e-12


class RateEffects:
    """Differences of rates between the arms of one set of observations; the model is fitted once.

    Parameters
    ----------
    observations : Observations
    """

    def __init__(self, observations: Observations) -> None:
        self.observations = observations
        self._linear: ArmFit | None = None

    def least_squares(self, a: int, b: int) -> tuple[float, float]:
        """Least-squares means of two arms."""
        return self.linear().mean(a), self.linear().mean(b)

    def means(self, a: int, b: int) -> tuple[float, float]:
        """Mean proportions of the replicates of two arms."""
        r = self.observations.layout.replicates
        return float(r.mean[r.arm == a].mean()), float(r.mean[r.arm == b].mean())

    def linear(self) -> ArmFit:
        """The linear model on unit proportions, with the layout's groups."""
        if self._linear is None:
            units = self.observations.units
            self._linear = fit_arms(units.mean, units.arm, self.observations.layout.groupings())
        return self._linear

    def of_replicates(self, a: int, b: int, level: float, method: str) -> Difference:
        """Means of replicates, two-sample t interval; none when an arm has a single one."""
        r = self.observations.layout.replicates
        kept = np.isin(r.arm, [a, b])
        estimate = float(r.mean[r.arm == a].mean() - r.mean[r.arm == b].mean())
        if min((r.arm == a).sum(), (r.arm == b).sum()) < 2:
            return Difference(estimate, None, method)
        fitted = fit_arms(r.mean[kept], (r.arm[kept] == b).astype(int), [])
        return self._t_interval(fitted, (0, 1), (a, b), estimate, level, tell("{method}, t interval", method=method))

    def inside(self, a: int, b: int, groups: list[np.ndarray], level: float) -> Difference:
        """Units inside groups of them, linear model with those beside the arms."""
        units = self.observations.units
        fitted = fit_arms(units.mean, units.arm, groups)
        estimate = fitted.difference(a, b)[0]
        return self._t_interval(fitted, (a, b), (a, b), estimate, level, tell("linear model within groups, t interval"))

    def _t_interval(
        self,
        fitted: ArmFit,
        columns: tuple[int, int],
        arms: tuple[int, int],
        estimate: float,
        level: float,
        method: str,
    ) -> Difference:
        half = fitted.t_half_width(*columns, level)
        if half is None or fitted.variance <= NO_VARIANCE:
            return self.squared_and_added(*arms, estimate, level)
        low, high = max(-1.0, estimate - half), min(1.0, estimate + half)
        return Difference(max(-1.0, min(1.0, estimate)), Interval(low, high, level), method)

    def of_units(self, a: int, b: int, level: float) -> Difference:
        """Means of units; in the linear model with the layout's groupings."""
        o, units, fitted = self.observations, self.observations.units, self.linear()
        method = tell("linear model on unit means, t interval")
        if o.layout.adjusts:
            estimate = fitted.difference(a, b)[0]
        else:
            estimate = float(units.mean[units.arm == a].mean() - units.mean[units.arm == b].mean())
        if min((units.arm == a).sum(), (units.arm == b).sum()) < 2:
            return Difference(estimate, None, method)
        return self._t_interval(fitted, (a, b), (a, b), estimate, level, method)

    def squared_and_added(self, a: int, b: int, estimate: float, level: float) -> Difference:
        """No unit varies: Newcombe's square-and-add of the arms' Rao-Scott limits.

        Around the difference of k/n; where the estimate is adjusted for blocks, whole plots or waves, around that.
        """
        o, units = self.observations, self.observations.layout.replicates
        effects = design_effects(units, len(o.arms))
        ends = [rate_interval(units, arm, effects, level) for arm in (a, b)]
        if ends[0] is None or ends[1] is None:
            return Difference(estimate, None, "square-and-add")
        p = [float(units.total[units.arm == arm].sum() / units.cuttings[units.arm == arm].sum()) for arm in (a, b)]
        centre = estimate if o.layout.adjusts else p[0] - p[1]
        low = centre - sqrt((p[0] - ends[0].low) ** 2 + (ends[1].high - p[1]) ** 2)
        high = centre + sqrt((ends[0].high - p[0]) ** 2 + (p[1] - ends[1].low) ** 2)
        return Difference(
            max(-1.0, min(1.0, estimate)),
            Interval(max(-1.0, low), min(1.0, high), level),
            tell("square-and-add of Rao-Scott limits (Newcombe 1998)"),
        )
