"""A yes or no on every cutting: rooted, fit to pot on, alive. Rates and their differences, in the strata of the test."""

from __future__ import annotations

from functools import cached_property
from math import sqrt

import numpy as np

from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.classical import Classical
from orderly_bench.core.methods.clusters import design_effects, rate_interval
from orderly_bench.core.methods.difference import Difference, mantel_haenszel, newcombe, standardised
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.methods.paired import newcombe_paired, tango
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.methods.rates import Interval, clopper_pearson, wilson
from orderly_bench.core.observations.table import Units
from orderly_bench.core.responses.outcomes import Effect, OfArm, Outcomes

NO_VARIANCE = 1e-12


class RateOutcomes(Outcomes):
    """Rates."""

    def effect(self, frame: Frame, a: int, b: int) -> Effect:
        """Newcombe's, the Mantel-Haenszel or the paired difference of counts; of units and in squares the linear model's."""
        if frame.modelled or not frame.single:
            return self._of_units(frame, a, b)
        rooted, stuck = self.counts_of(frame, a, b)
        if frame.in_pairs:
            cells = _paired_cells(rooted, stuck)
            return lambda level: newcombe_paired(*cells, level)
        if stuck.shape[0] > 1:
            return lambda level: mantel_haenszel(rooted, stuck, level)
        (k_a, k_b), (n_a, n_b) = rooted[0].tolist(), stuck[0].tolist()
        return lambda level: newcombe(k_a, n_a, k_b, n_b, level)

    def effect_for_same(self, frame: Frame, a: int, b: int) -> Effect:
        """Of single pairs Tango's: Newcombe's calls too many alike that are not."""
        if not frame.in_pairs or frame.modelled or not frame.single:
            return self.effect(frame, a, b)
        cells = _paired_cells(*self.counts_of(frame, a, b))
        return lambda level: tango(*cells, level)

    def adjusted(self, frame: Frame, a: int, b: int) -> tuple[float, float] | None:
        """With the Mantel-Haenszel weights; of units and in squares least-squares means."""
        if not frame.modelled and frame.single:
            return standardised(*self.counts_of(frame, a, b))
        fitted = self._fit(frame)
        return (fitted.mean(a), fitted.mean(b)) if fitted.estimable[a, b] else None

    def counts_of(self, frame: Frame, a: int, b: int) -> tuple[np.ndarray, np.ndarray]:
        """Rooted and known cuttings in each stratum and side, each shape (strata, 2)."""
        strata, label = frame.stratum[frame.unit_of_rows], frame.label[frame.unit_of_rows]
        values, size = self.o.responses[frame.rows], int(frame.stratum.max()) + 1
        tables = [
            np.column_stack([np.bincount(strata[label == s], weights[label == s], minlength=size) for s in (a, b)])
            for weights in (values, np.ones(values.size))
        ]
        rooted, stuck = (np.rint(table).astype(int) for table in tables)
        held = stuck.any(axis=1)
        return rooted[held], stuck[held]

    def _of_units(self, frame: Frame, a: int, b: int) -> Effect:
        fitted = self._fit(frame)
        method = _("linear model on {of}, t interval", of=frame.of)
        if not fitted.estimable[a, b]:
            return lambda _: Difference(None, None, method)
        estimate = fitted.difference(a, b)[0]
        clipped = max(-1.0, min(1.0, estimate))

        def at(level: float) -> Difference:
            if min(frame.units(a, b)) < 2:
                return Difference(clipped, None, method)
            half = fitted.t_half_width(a, b, level)
            if half is None or fitted.variance <= NO_VARIANCE:
                return self._squared_and_added(frame, a, b, estimate, level)
            return Difference(clipped, Interval(max(-1.0, estimate - half), min(1.0, estimate + half), level), method)

        return at

    def _squared_and_added(self, frame: Frame, a: int, b: int, estimate: float, level: float) -> Difference:
        """No unit varies: Newcombe's square-and-add of the sides' Rao-Scott limits around the estimate; of the difference of k/n
        where nothing stands beside the sides."""
        sides, label = np.unique(frame.label, return_inverse=True)
        a, b = int(np.searchsorted(sides, a)), int(np.searchsorted(sides, b))
        units = Units(label, frame.stratum, frame.sizes, frame.means(self.o.responses) * frame.sizes, frame.members)
        effects = design_effects(units, sides.size)
        ends = [rate_interval(units, side, effects, level) for side in (a, b)]
        if ends[0] is None or ends[1] is None:
            return Difference(estimate, None, "square-and-add")
        p = [float(units.total[units.arm == side].sum() / units.cuttings[units.arm == side].sum()) for side in (a, b)]
        centre = estimate if frame.groupings else p[0] - p[1]
        low = centre - sqrt((p[0] - ends[0].low) ** 2 + (ends[1].high - p[1]) ** 2)
        high = centre + sqrt((ends[0].high - p[0]) ** 2 + (p[1] - ends[1].low) ** 2)
        return Difference(
            max(-1.0, min(1.0, estimate)),
            Interval(max(-1.0, low), min(1.0, high), level),
            _("square-and-add of Rao-Scott limits (Newcombe 1998)"),
        )

    @cached_property
    def _design_effects(self) -> list[float] | None:
        return design_effects(self.layout.replicates, len(self.o.arms)) if self.layout.shared else None

    def alone(self, arm: int, level: float, exact: bool) -> OfArm:
        """k/n, Wilson or Clopper-Pearson; on effective counts where cuttings share a replicate."""
        k, n = int(self.o.counted[arm]), int(self.o.stuck[:, arm].sum())
        if self._design_effects:
            return OfArm(k / n, rate_interval(self.layout.replicates, arm, self._design_effects, level), None)
        return OfArm(k / n, clopper_pearson(k, n, level) if exact else wilson(k, n, level), None)

    def average(self, arm: int) -> float | None:
        """Counts stand for themselves."""
        return None

    def model(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """The layout's."""
        return self.layout.model(smaller, larger)

    def textbook(self, test: RandomisationTest) -> dict[str, Classical]:
        """The layout's."""
        return self.layout.textbook(test)


def _paired_cells(rooted: np.ndarray, stuck: np.ndarray) -> tuple[int, int, int, int]:
    """Both, first only, second only, neither, over the pairs of which both are known."""
    whole = (stuck == 1).all(axis=1)
    first, second = rooted[whole, 0] == 1, rooted[whole, 1] == 1
    return (
        int((first & second).sum()),
        int((first & ~second).sum()),
        int((~first & second).sum()),
        int((~first & ~second).sum()),
    )
