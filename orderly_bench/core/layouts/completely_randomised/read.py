"""Completely randomised: units shuffled over the whole bench."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.layouts.strata import Strata
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods import classical, firth, logistic
from orderly_bench.core.methods.classical import Classical
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.methods.randomisation import RandomisationTest


class CompletelyRandomised(Strata):
    """One stratum."""

    name = "completely randomised"
    counted_out = True
    where = N_("over the whole bench")

    def model_of_counts(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """Logistic; Firth's where an arm rooted fully or not at all."""
        k, n = self.o.rooted.sum(axis=0), self.o.stuck.sum(axis=0)
        if ((k == 0) | (k == n)).any():
            tested = np.arange(larger.shape[1]) >= smaller.shape[1]
            return firth.likelihood_ratio(larger, tested, k.astype(float), n.astype(float))
        return logistic.likelihood_ratio("logistic", smaller, larger, k, n)

    def textbook(self, test: RandomisationTest) -> dict[str, Classical]:
        """Pearson's chi-square, and Fisher's exact test of two arms."""
        if self.o.clustered:
            return {}
        k, n = self.o.rooted.sum(axis=0), self.o.stuck.sum(axis=0)
        found = {"pearson": classical.pearson(k, n)}
        return {**found, "fisher": classical.fisher(k, n)} if len(self.o.arms) == 2 else found
