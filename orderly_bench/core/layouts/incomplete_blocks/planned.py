"""Incomplete blocks: each holds some of the arms, every arm equally often and linked to all others."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.layouts.incomplete_blocks.draw import IncompleteBlocks, draw_in_part_blocks
from orderly_bench.core.layouts.planned import Answers, Numbers, Planned, Suited
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.randomise.drawn_layout import Request
from orderly_bench.core.vocabulary import LayoutKind

MOST_PART_BLOCKS = 60


class PlannedInPartBlocks(Planned):
    """Blocks of a size of their own."""

    kind = LayoutKind.INCOMPLETE_BLOCKS
    redraws = N_("labels, order of the blocks, places in them")
    names_blocks = True
    counts_blocks = True
    part_blocks = True

    def where(self, numbers: Numbers, gradient: str) -> str:
        """In its blocks, of their size."""
        return _("in {blocks} blocks of {block_size}", blocks=numbers.blocks, block_size=numbers.block_size)

    def made_by(self, groups: set[str], complete: bool) -> bool:
        """Blocks of which some lack an arm."""
        return groups & {"block", "pair", "row", "whole plot"} == {"block"} and not complete

    def proposal(self, answers: Answers) -> Suited | None:
        """Not all arms are alike in one place: the numbers near those wanted that can be drawn."""
        arms, size = answers.arms, answers.alike_at_most
        if not answers.differ or not 0 < size < arms:
            return None
        whole = [(b * size // arms, b) for b in range(2, MOST_PART_BLOCKS + 1) if b * size % arms == 0]
        own = answers.blocks if answers.stands is self.kind else 0
        for units, blocks in sorted(whole, key=lambda one: (one[1] != own, abs(one[0] - answers.wanted), one)):
            numbers = Numbers(units * answers.per_unit, answers.per_unit, blocks, size)
            if answers.can(self.kind, numbers):
                key = "propose/part_stems" if answers.pieces_by else "propose/part_blocks"
                return Suited(numbers, clause(key, arms=arms, size=size, blocks=blocks))
        return None

    def draw(self, request: Request, rng: np.random.Generator) -> IncompleteBlocks:
        """Labels, order and places."""
        return draw_in_part_blocks(request, rng)
