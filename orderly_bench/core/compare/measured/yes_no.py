"""A yes or no on every cutting: rooted, fit to pot on, alive. Rates and their differences, as the layout compares them."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from orderly_bench.core.compare.classical import Classical
from orderly_bench.core.compare.clusters import design_effects, rate_interval
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.measured.measured import Measured, OfArm
from orderly_bench.core.compare.rate_effects import Effect, RateEffects
from orderly_bench.core.compare.rates import clopper_pearson, wilson
from orderly_bench.core.randomise.randomisation import RandomisationTest


class YesNo(Measured):
    """Rates."""

    @cached_property
    def effects(self) -> RateEffects:
        """Differences of rates."""
        return RateEffects(self.o)

    def between(self, a: int, b: int) -> Effect:
        """As the layout compares two rates."""
        return self.o.layout.difference(self.effects, a, b)

    def adjusted(self, a: int, b: int) -> tuple[float, float] | None:
        """None where they are not compared inside."""
        return self.o.layout.adjusted(self.effects, a, b)

    @cached_property
    def _design_effects(self) -> list[float] | None:
        return design_effects(self.o.layout.replicates, len(self.o.arms)) if self.o.layout.shared else None

    def alone(self, arm: int, level: float, exact: bool) -> OfArm:
        """k/n, Wilson or Clopper-Pearson; on effective counts where cuttings share a replicate."""
        k, n = int(self.o.counted[arm]), int(self.o.stuck[:, arm].sum())
        if self._design_effects:
            return OfArm(k / n, rate_interval(self.o.layout.replicates, arm, self._design_effects, level), None)
        return OfArm(k / n, clopper_pearson(k, n, level) if exact else wilson(k, n, level), None)

    def average(self, arm: int) -> float | None:
        """Counts stand for themselves."""
        return None

    def model(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """The layout's."""
        return self.o.layout.model(smaller, larger)

    def textbook(self, test: RandomisationTest) -> dict[str, Classical]:
        """The layout's."""
        return self.o.layout.textbook(test)
