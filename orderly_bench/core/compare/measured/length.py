"""Longest root: the shift of one arm against another (Hodges-Lehmann), of unit means where cuttings share a unit."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.compare.difference import Difference
from orderly_bench.core.compare.hodges_lehmann import shift, stratified_shift
from orderly_bench.core.compare.measured.measured import Measured
from orderly_bench.core.compare.rate_effects import Effect
from orderly_bench.core.messages.words import tell


class Length(Measured):
    """Millimetres."""

    def between(self, a: int, b: int) -> Effect:
        """Shift, inside blocks where there are."""
        if self.o.layout.shared:
            return lambda level: self._of_replicates(a, b, level)
        x, y = self.of(a), self.of(b)
        if not self.o.blocks:
            return lambda level: shift(x, y, level)
        strata = [self.o.stratum_of_known[self.o.arm_of_known == arm] for arm in (a, b)]
        return lambda level: stratified_shift(x, y, strata[0], strata[1], level)

    def _of_replicates(self, a: int, b: int, level: float) -> Difference:
        """Of replicate means; no interval with a single one."""
        r = self.o.layout.replicates
        here = [r.arm == arm for arm in (a, b)]
        x, y = (r.mean[h] for h in here)
        if min(x.size, y.size) < 2:
            return Difference(float(np.median(np.subtract.outer(x, y))), None, tell("shift of unit means"))
        if self.o.layout.ranks_inside:
            return stratified_shift(x, y, r.stratum[here[0]], r.stratum[here[1]], level)
        return shift(x, y, level)
