"""Randomised complete blocks: units shuffled inside blocks that hold every arm."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.layouts.strata import Strata
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods import classical, conditional_logistic
from orderly_bench.core.methods.classical import Classical
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.methods.randomisation import RandomisationTest


class CompleteBlocks(Strata):
    """Strata are blocks."""

    name = N_("randomised complete blocks")

    @property
    def where(self) -> str:
        """Inside its blocks."""
        return _("within its {strata}", strata=self.strata(len(self.o.blocks)))

    def model_of_counts(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """Conditional logistic, strata as they are."""
        return conditional_logistic.likelihood_ratio(smaller[:, 1:], larger[:, 1:], self.o.rooted, self.o.stuck)

    def textbook(self, test: RandomisationTest) -> dict[str, Classical]:
        """Cochran-Mantel-Haenszel."""
        return {} if self.o.clustered else {"cmh": classical.cmh(self.o.rooted, self.o.stuck)}
