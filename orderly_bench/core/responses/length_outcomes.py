"""Longest root: the shift of one side against another (Hodges-Lehmann), of unit means where cuttings share a unit."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.methods.difference import Difference
from orderly_bench.core.methods.hodges_lehmann import METHOD, paired_shift, stratified_shift
from orderly_bench.core.responses.outcomes import Effect, Outcomes


class LengthOutcomes(Outcomes):
    """Millimetres."""

    def effect(self, frame: Frame, a: int, b: int) -> Effect:
        """Shift inside the strata; of pairs by Walsh averages; in squares of aligned values."""
        values = frame.means(self.o.responses)
        strata = frame.stratum
        if frame.modelled:
            fitted = frame.fit(values)
            if not fitted.estimable[a, b]:
                return lambda _: Difference(None, None, METHOD)
            values = fitted.aligned
        in_a, in_b = frame.label == a, frame.label == b
        if frame.in_pairs:
            differences = _of_pairs(values, strata, in_a, in_b)
            return lambda level: paired_shift(differences, level)
        x, y, at_x, at_y = values[in_a], values[in_b], strata[in_a], strata[in_b]
        lone = min(x.size, y.size) < 2

        def at(level: float) -> Difference:
            found = stratified_shift(x, y, at_x, at_y, level)
            return Difference(found.estimate, None, found.method) if lone else found

        return at


def _of_pairs(values: np.ndarray, strata: np.ndarray, in_a: np.ndarray, in_b: np.ndarray) -> np.ndarray:
    """First minus second of every pair that holds both."""
    first = dict(zip(strata[in_a].tolist(), values[in_a].tolist(), strict=True))
    second = dict(zip(strata[in_b].tolist(), values[in_b].tolist(), strict=True))
    return np.array([first[pair] - second[pair] for pair in sorted(first.keys() & second.keys())])
