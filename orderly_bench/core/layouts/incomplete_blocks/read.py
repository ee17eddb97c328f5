"""Incomplete blocks: labels, order of the blocks and places in them are drawn; arms are compared adjusted for blocks."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from orderly_bench.core.layouts.complete_blocks.read import CompleteBlocks
from orderly_bench.core.layouts.drawn import Drawn
from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.layouts.incomplete_blocks.draw import IncompleteBlocks as IncompleteDraw
from orderly_bench.core.messages.say import clause


class IncompleteBlocks(CompleteBlocks):
    """Blocks that were drawn without some of the arms."""

    name = "incomplete blocks"
    whole_redraw = True
    grows = False
    transforms = False

    @property
    def redrawn(self) -> str:
        """What the randomisation test repeats, in words."""
        return clause("redrawn/part_blocks", n=len(self.o.blocks))

    def drawn(self) -> Drawn | None:
        """A block whose cuttings are all without an outcome is no block of the comparison."""
        units = self.o.units
        if len(self.o.arms) == 2 and self.lone(units):
            return None
        return Drawn(units.members, IncompleteDraw(units.arm, np.unique(units.stratum, return_inverse=True)[1]))

    def frame(self, a: int, b: int) -> Frame:
        """All units, with the blocks in the model."""
        return self._frame

    @cached_property
    def _frame(self) -> Frame:
        units = self.o.units
        return Frame(units.members, units.arm, np.zeros_like(units.arm), [units.stratum], modelled=True)
