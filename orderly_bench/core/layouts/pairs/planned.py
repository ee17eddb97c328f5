"""Pairs: two cuttings of one stem, one for each of two arms, drawn which is which."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.layouts.planned import Answers, Numbers, Suited
from orderly_bench.core.layouts.reach import Reach, of_strata
from orderly_bench.core.layouts.shuffled_units import FreeNumbers
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.randomise.drawn_layout import Request
from orderly_bench.core.randomise.shuffled import ShuffledWithin, complete_blocks
from orderly_bench.core.vocabulary import LayoutKind


class PlannedInPairs(FreeNumbers):
    """As many strata as units of an arm."""

    kind = LayoutKind.PAIRS
    redraws = N_("within its pairs")
    paired = True
    keeps_empty_places = True

    def where(self, numbers: Numbers, gradient: str) -> str:
        """In pairs."""
        return _("in pairs")

    def made_by(self, groups: set[str], complete: bool) -> bool:
        """Pairs are given."""
        return "pair" in groups and not groups & {"row", "whole plot"}

    def proposal(self, answers: Answers) -> Suited | None:
        """Two arms, and two pieces of one stem."""
        if not answers.pieces_by or answers.arms != 2:
            return None
        numbers = Numbers(answers.wanted * answers.per_unit, answers.per_unit)
        return Suited(numbers, clause(f"propose/pairs_{answers.pieces_by}"))

    def draw(self, request: Request, rng: np.random.Generator) -> ShuffledWithin:
        """Shuffle inside each pair."""
        if request.arms != 2:
            raise InvalidInput(
                "arms", _("a pair has one cutting for each of two arms; choose two, or take blocks"), request.arms
            )
        drawn = complete_blocks([request.units_per_arm] * 2, request.units_per_arm, rng)
        return ShuffledWithin(drawn.arm, drawn.stratum, "pair")

    def reach(self, request: Request) -> Reach:
        """One pair after the other."""
        self.draw(request, np.random.default_rng(0))
        return of_strata(request, request.units_per_arm)

    def over_waves(self, request: Request, waves: int) -> Request:
        """More pairs; they are no blocks of their own."""
        return replace(super().over_waves(request, waves), blocks=request.blocks)
