"""What the layouts share whose units are shuffled one by one, over the bench or inside blocks that hold every arm."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

import numpy as np

from orderly_bench.core.layouts.planned import Answers, Numbers, Planned
from orderly_bench.core.layouts.reach import Reach, of_strata, of_unequal
from orderly_bench.core.randomise.drawn_layout import Request
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.vocabulary import LayoutKind

#: Units of an arm tried, beyond twice those aimed at, until two arms can be told apart.
TRIED = 12


def enough(answers: Answers, kind: LayoutKind, blocks: Sequence[int]) -> tuple[int, int] | None:
    """Units of each arm, not fewer than aimed at, and blocks, the first of these, in which a comparison can come out clear."""
    for units in range(answers.wanted, 2 * answers.wanted + TRIED):
        for b in blocks:
            if units % b == 0 and answers.convinces(kind, Numbers(units * answers.per_unit, answers.per_unit, b)):
                return units, b
    return None


class FreeNumbers(Planned):
    """Layouts of strata, whose arms may have any number that the strata divide."""

    any_number = True

    @abstractmethod
    def draw(self, request: Request, rng: np.random.Generator) -> ShuffledWithin:
        """Shuffle inside strata."""

    def resized(self, numbers: Numbers, arms: int, times: Fraction) -> Numbers:
        """The nearest number that the strata divide."""
        step = numbers.per_unit * self.strata(numbers.blocks)
        return replace(numbers, per_arm=max(step, round(numbers.per_arm * times / step) * step))


class ShuffledUnits(FreeNumbers):
    """Over the bench, or in complete blocks."""

    shuffles_units = True

    def reach(self, request: Request) -> Reach:
        """All of one arm rooted and none of another, counted out."""
        rng = np.random.default_rng(0)
        layout = self.draw(request, rng)
        return of_unequal(request, layout, rng) if request.unequal else of_strata(request, request.blocks)
