"""Whole units shuffled inside strata: what the layouts of one stratum, of blocks and of pairs have in common."""

from __future__ import annotations

from abc import abstractmethod
from typing import TYPE_CHECKING

import numpy as np

from orderly_bench.core.compare import linear, quasi_binomial
from orderly_bench.core.compare.difference import Difference, standardised
from orderly_bench.core.compare.laid_out.drawn import Drawn
from orderly_bench.core.compare.laid_out.layout import Layout
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.messages.say import phrase
from orderly_bench.core.randomise.shuffled import ShuffledWithin

if TYPE_CHECKING:
    from orderly_bench.core.compare.rate_effects import Effect, RateEffects


class Strata(Layout):
    """Units shuffled inside strata; counts of single cuttings, or means of units."""

    @property
    @abstractmethod
    def where(self) -> str:
        """Inside what the units change places, in words."""

    @property
    def redrawn(self) -> str:
        """What the randomisation test repeats, in words."""
        return phrase("redrawn/units", where=self.where) if self.o.clustered else self.where

    def drawn(self) -> Drawn | None:
        """The draw behind the overall test; None when one of two arms has a single unit."""
        units = self.o.units
        if len(self.o.arms) == 2 and self.lone(units):
            return None
        return Drawn(units.members, ShuffledWithin(units.arm, units.stratum))

    def difference(self, effects: RateEffects, a: int, b: int) -> Effect:
        """From the counts of single cuttings, or by the linear model of unit means."""
        if self.o.clustered:
            return lambda level: effects.of_units(a, b, level)
        both = [a, b]
        rooted, stuck = self.o.rooted[:, both], self.o.stuck[:, both]
        return lambda level: self.of_counts(rooted, stuck, level)

    @abstractmethod
    def of_counts(self, rooted: np.ndarray, stuck: np.ndarray, level: float) -> Difference:
        """Difference of two rates from counts, each shape (strata, 2)."""

    def adjusted(self, effects: RateEffects, a: int, b: int) -> tuple[float, float] | None:
        """With the Mantel-Haenszel weights; the mean unit proportion where cuttings share units."""
        if not self.o.clustered:
            return standardised(self.o.rooted[:, [a, b]], self.o.stuck[:, [a, b]])
        return effects.least_squares(a, b) if self.o.gaps else effects.means(a, b)

    def model(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """A model of counts; quasi-binomial on units where cuttings share them."""
        if not self.o.clustered:
            return self.model_of_counts(smaller, larger)
        units = self.o.units
        block = [linear.dummies(units.stratum)] if self.o.blocks else []
        small, large = (np.hstack([design[units.arm], *block]) for design in (smaller, larger))
        return quasi_binomial.f_test(units.total, units.cuttings, small, large)

    @abstractmethod
    def model_of_counts(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """The model where units are single cuttings."""
