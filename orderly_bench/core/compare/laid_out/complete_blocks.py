"""Randomised complete blocks: units shuffled inside blocks that hold every arm."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.compare import classical, conditional_logistic
from orderly_bench.core.compare.classical import Classical
from orderly_bench.core.compare.difference import Difference, mantel_haenszel
from orderly_bench.core.compare.laid_out.strata import Strata
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.messages.words import tell, word
from orderly_bench.core.randomise.randomisation import RandomisationTest


class CompleteBlocks(Strata):
    """Strata are blocks."""

    name = word("randomised complete blocks")

    @property
    def where(self) -> str:
        """Inside its blocks."""
        return tell("within its {n} {strata_are}", n=len(self.o.blocks), strata_are=self.strata_are)

    def of_counts(self, rooted: np.ndarray, stuck: np.ndarray, level: float) -> Difference:
        """Mantel-Haenszel difference with Klingenberg's interval."""
        return mantel_haenszel(rooted, stuck, level)

    def model_of_counts(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """Conditional logistic, strata as they are."""
        return conditional_logistic.likelihood_ratio(smaller[:, 1:], larger[:, 1:], self.o.rooted, self.o.stuck)

    def textbook(self, test: RandomisationTest) -> dict[str, Classical]:
        """Cochran-Mantel-Haenszel."""
        return {} if self.o.clustered else {"cmh": classical.cmh(self.o.rooted, self.o.stuck)}
