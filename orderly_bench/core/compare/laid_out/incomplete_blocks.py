"""Incomplete blocks: labels, order of the blocks and places in them are drawn; arms are compared adjusted for blocks."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from orderly_bench.core.compare.laid_out.complete_blocks import CompleteBlocks
from orderly_bench.core.compare.laid_out.drawn import Drawn
from orderly_bench.core.messages.say import phrase
from orderly_bench.core.randomise.incomplete_blocks import IncompleteBlocks as IncompleteDraw

if TYPE_CHECKING:
    from orderly_bench.core.compare.rate_effects import Effect, RateEffects


class IncompleteBlocks(CompleteBlocks):
    """Blocks that were drawn without some of the arms."""

    name = "incomplete blocks"
    whole_redraw = True
    grows = False
    transforms = False

    @property
    def redrawn(self) -> str:
        """What the randomisation test repeats, in words."""
        return phrase("redrawn/part_blocks", n=len(self.o.blocks))

    def drawn(self) -> Drawn | None:
        """A block whose cuttings are all without an outcome is no block of the comparison."""
        units = self.o.units
        if len(self.o.arms) == 2 and self.lone(units):
            return None
        return Drawn(units.members, IncompleteDraw(units.arm, np.unique(units.stratum, return_inverse=True)[1]))

    def difference(self, effects: RateEffects, a: int, b: int) -> Effect:
        """By the linear model with blocks, of single cuttings too."""
        return lambda level: effects.of_units(a, b, level)

    def adjusted(self, effects: RateEffects, a: int, b: int) -> tuple[float, float] | None:
        """Least-squares means where a block lacks an arm."""
        return effects.least_squares(a, b) if self.o.gaps else super().adjusted(effects, a, b)
