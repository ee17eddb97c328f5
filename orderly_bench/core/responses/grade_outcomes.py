"""Grades from 0 to 5: mid-ranks are permuted, the effect is the probability that one side scores above the other."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from orderly_bench.core.layouts.drawn import Drawn
from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.methods.difference import Difference
from orderly_bench.core.methods.superiority import METHOD, Graded, block_scores, mid_ranks, stratified_superiority
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.outcomes import Effect, Outcomes


class GradeOutcomes(Outcomes):
    """Ordered grades."""

    @cached_property
    def values(self) -> np.ndarray:
        """Mid-ranks, within blocks where there are."""
        values = self.o.responses
        return block_scores(values, self.o.stratum_of_known) if self.o.blocks else mid_ranks(values)

    def unit_scores(self, drawn: Drawn) -> np.ndarray:
        """Mid-ranks among the cuttings of each stratum of the draw, averaged over its units."""
        if not isinstance(drawn.layout, ShuffledWithin):
            return super().unit_scores(drawn)
        frame = Frame(drawn.members, drawn.layout.arm, drawn.layout.stratum)
        here = self.o.responses[frame.rows]
        strata = frame.stratum[frame.unit_of_rows]
        scores = np.zeros(self.o.responses.size)
        scores[frame.rows] = block_scores(here, strata) if np.ptp(strata) else mid_ranks(here)
        return frame.means(scores)

    def effect(self, frame: Frame, a: int, b: int) -> Effect:
        """Of cuttings inside the strata, its variance between units where they share one; in squares of aligned unit values."""
        if frame.modelled:
            fitted = frame.fit(frame.means(self.o.responses))
            if not fitted.estimable[a, b]:
                return lambda _: Difference(None, None, METHOD)
            x, y = (fitted.aligned[frame.label == side] for side in (a, b))
            one = [Graded(x, y, np.arange(x.size), np.arange(y.size))]
            return lambda level: stratified_superiority(one, level)
        strata = _graded(self.o.responses, frame, a, b)
        return lambda level: stratified_superiority(strata, level)


def _graded(values: np.ndarray, frame: Frame, a: int, b: int) -> list[Graded]:
    """Grades of both sides in the strata that hold both."""
    unit = frame.unit_of_rows
    of_rows, strata, label = values[frame.rows], frame.stratum[unit], frame.label[unit]
    found = []
    for s in np.flatnonzero((frame.counts(a, b) > 0).all(axis=1)).tolist():
        sides = [(strata == s) & (label == side) for side in (a, b)]
        units = [np.unique(unit[side], return_inverse=True)[1] for side in sides]
        found.append(Graded(of_rows[sides[0]], of_rows[sides[1]], units[0], units[1]))
    return found
