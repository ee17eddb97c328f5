"""Whole units shuffled inside strata: what the layouts of one stratum, of blocks and of pairs have in common."""

from __future__ import annotations

from abc import abstractmethod
from functools import cached_property

import numpy as np

from orderly_bench.core.layouts.drawn import Drawn
from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.layouts.layout import Layout
from orderly_bench.core.messages.say import clause
from orderly_bench.core.methods import linear, quasi_binomial
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.randomise.shuffled import ShuffledWithin


class Strata(Layout):
    """Units shuffled inside strata; counts of single cuttings, or means of units."""

    @property
    @abstractmethod
    def where(self) -> str:
        """Inside what the units change places, in words."""

    @property
    def redrawn(self) -> str:
        """What the randomisation test repeats, in words."""
        return clause("redrawn/units", where=self.where) if self.o.clustered else self.where

    def drawn(self) -> Drawn | None:
        """The draw behind the overall test; None when one of two arms has a single unit."""
        units = self.o.units
        if len(self.o.arms) == 2 and self.lone(units):
            return None
        return Drawn(units.members, ShuffledWithin(units.arm, units.stratum))

    def frame(self, a: int, b: int) -> Frame:
        """The units in their strata."""
        return self._frame

    @cached_property
    def _frame(self) -> Frame:
        units = self.o.units
        groupings = [units.stratum] if self.o.blocks else []
        return Frame(units.members, units.arm, units.stratum, groupings, in_pairs=self.paired)

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
