"""Completely randomised: units shuffled over the whole bench."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from orderly_bench.core.layouts.planned import Answers, Numbers, Suited
from orderly_bench.core.layouts.shuffled_units import ShuffledUnits, enough
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.randomise.drawn_layout import Request
from orderly_bench.core.randomise.shuffled import ShuffledWithin, completely_randomised
from orderly_bench.core.vocabulary import LayoutKind


class PlannedOverTheBench(ShuffledUnits):
    """One stratum."""

    kind = LayoutKind.COMPLETELY_RANDOMISED
    redraws = N_("over the whole bench")
    stratified = False

    def where(self, numbers: Numbers, gradient: str) -> str:
        """Anywhere."""
        return _("over the whole bench")

    def made_by(self, groups: set[str], complete: bool) -> bool:
        """Nothing groups them."""
        return not groups & {"block", "pair", "row", "column", "whole plot"}

    def proposal(self, answers: Answers) -> Suited | None:
        """Where nothing is expected to differ."""
        if answers.differ:
            return None
        stands = answers.stands is self.kind
        units = answers.wanted if stands else (enough(answers, self.kind, [1]) or (answers.wanted,))[0]
        reason = clause("propose/random")
        if units > answers.wanted:
            reason = clause("propose/enough", reason=reason, n=units)
        return Suited(Numbers(units * answers.per_unit, answers.per_unit), reason)

    def draw(self, request: Request, rng: np.random.Generator) -> ShuffledWithin:
        """Shuffle over the bench."""
        return completely_randomised(list(request.units), rng)

    def over_waves(self, request: Request, waves: int) -> Request:
        """A wave is a block."""
        return replace(super().over_waves(request, waves), kind=LayoutKind.COMPLETE_BLOCKS)
