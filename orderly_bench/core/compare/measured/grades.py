"""Grades from 0 to 5: mid-ranks are permuted, the effect is the probability that one arm scores above the other."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from orderly_bench.core.compare.measured.measured import Measured
from orderly_bench.core.compare.rate_effects import Effect
from orderly_bench.core.compare.superiority import (
    block_scores,
    clustered_superiority,
    mid_ranks,
    stratified_superiority,
    superiority,
)


class Grades(Measured):
    """Ordered grades."""

    @cached_property
    def values(self) -> np.ndarray:
        """Mid-ranks, within blocks where there are."""
        values = self.o.responses
        return block_scores(values, self.o.stratum_of_known) if self.o.blocks else mid_ranks(values)

    def between(self, a: int, b: int) -> Effect:
        """Of cuttings, its variance between replicates where they share one."""
        if self.o.layout.shared:
            r = self.o.layout.replicates
            x, y = ([self.o.responses[r.members[i]] for i in np.flatnonzero(r.arm == arm).tolist()] for arm in (a, b))
            return lambda level: clustered_superiority(x, y, level)
        of_a, of_b = self.of(a), self.of(b)
        if not self.o.blocks:
            return lambda level: superiority(of_a, of_b, level)
        strata = [self.o.stratum_of_known[self.o.arm_of_known == arm] for arm in (a, b)]
        return lambda level: stratified_superiority(of_a, of_b, strata[0], strata[1], level)
