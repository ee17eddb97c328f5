"""Randomised complete blocks: units shuffled inside blocks that hold every arm."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.layouts.planned import Answers, Numbers, Suited
from orderly_bench.core.layouts.shuffled_units import ShuffledUnits, enough
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.randomise.drawn_layout import Request
from orderly_bench.core.randomise.shuffled import ShuffledWithin, complete_blocks
from orderly_bench.core.vocabulary import LayoutKind

#: Blocks tried, the usual first.
BLOCKS = (4, 3, 5, 6, 2, 8, 10)


class PlannedInBlocks(ShuffledUnits):
    """Strata are blocks."""

    kind = LayoutKind.COMPLETE_BLOCKS
    redraws = N_("within its blocks")
    names_blocks = True
    counts_blocks = True

    def where(self, numbers: Numbers, gradient: str) -> str:
        """In its blocks, along what they follow."""
        return _("in {blocks} blocks", blocks=numbers.blocks) + (f", {gradient}" if gradient else "")

    def made_by(self, groups: set[str], complete: bool) -> bool:
        """Blocks that hold every arm."""
        return groups & {"block", "pair", "row", "whole plot"} == {"block"} and complete

    def proposal(self, answers: Answers) -> Suited | None:
        """Where bench or pieces differ, and nothing fits them closer."""
        if not answers.differ:
            return None
        usual = next((b for b in BLOCKS if answers.wanted >= b and answers.wanted % b == 0), None)
        blocks = answers.blocks if answers.stands is self.kind else usual or 2
        units = blocks * max(1, round(answers.wanted / blocks))
        if answers.stands is not self.kind:
            units, blocks = enough(answers, self.kind, BLOCKS) or (units, blocks)
        key = "stems" if answers.pieces_by else ("both_ways" if answers.gradient_ways == 2 else "blocks")
        reason = clause(f"propose/{key}", blocks=blocks)
        if usual and units > answers.wanted:
            reason = clause("propose/enough", reason=reason, n=units)
        return Suited(Numbers(units * answers.per_unit, answers.per_unit, blocks), reason)

    def draw(self, request: Request, rng: np.random.Generator) -> ShuffledWithin:
        """Shuffle inside each block."""
        if request.blocks < 2:
            raise InvalidInput("blocks", _("must be 2 or more; for one choose completely randomised"), request.blocks)
        return complete_blocks(request.units, request.blocks, rng)
