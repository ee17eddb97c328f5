"""Latin square: every arm once in every row and column."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np

from orderly_bench.core.layouts.latin_square.draw import LatinSquare, draw_in_a_square
from orderly_bench.core.layouts.planned import Answers, Numbers, Planned, Suited
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.randomise.drawn_layout import Request
from orderly_bench.core.vocabulary import LayoutKind

LEAST_SQUARE, GREATEST_SQUARE = 3, 8


class PlannedInASquare(Planned):
    """As many units of an arm as there are arms."""

    kind = LayoutKind.LATIN_SQUARE
    redraws = N_("any Latin square of the order, each as likely")
    keeps_empty_places = True

    def where(self, numbers: Numbers, gradient: str) -> str:
        """In its square."""
        return _("in a Latin square")

    def made_by(self, groups: set[str], complete: bool) -> bool:
        """Rows and columns are given."""
        return {"row", "column"} <= groups

    def proposal(self, answers: Answers) -> Suited | None:
        """A bench that differs two ways."""
        if answers.gradient_ways != 2 or not LEAST_SQUARE <= answers.arms <= GREATEST_SQUARE:
            return None
        numbers = Numbers(answers.arms * answers.per_unit, answers.per_unit)
        return Suited(numbers, clause("propose/square", arms=answers.arms))

    def draw(self, request: Request, rng: np.random.Generator) -> LatinSquare:
        """Any square of the order."""
        return draw_in_a_square(request, rng)

    def resized(self, numbers: Numbers, arms: int, times: Fraction) -> Numbers:
        """More cuttings in each cell."""
        per_unit = max(1, round(numbers.per_unit * times))
        return replace(numbers, per_unit=per_unit, per_arm=per_unit * arms)
