"""Blocks in parts that share no arm: what stands in one part was never put beside what stands in another."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from orderly_bench.core.layouts.complete_blocks.read import CompleteBlocks
from orderly_bench.core.layouts.drawn import Drawn
from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.layouts.incomplete_blocks.draw import IncompleteBlocks as IncompleteDraw
from orderly_bench.core.layouts.layout import ArmsApart
from orderly_bench.core.layouts.separate_parts.draw import Part, Separate
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.observations.table import Observations
from orderly_bench.core.randomise.shuffled import ShuffledWithin


def joined_parts(held: np.ndarray) -> np.ndarray:
    """Part of each arm: arms that a chain of blocks joins are in one part.

    Parameters
    ----------
    held : ndarray of bool, shape (blocks, arms)
        Which block holds which arm.
    """
    part = np.arange(held.shape[1])
    for block in held:
        own = np.unique(part[block])
        part[np.isin(part, own)] = own.min() if own.size else 0
    return np.unique(part, return_inverse=True)[1]


class SeparateParts(CompleteBlocks):
    """Each part is a layout of its own."""

    name = N_("blocks in separate parts")
    grows = False
    transforms = False

    @cached_property
    def part_of(self) -> np.ndarray:
        """Part of each arm."""
        return joined_parts(self.o.drawn_in_block)

    @cached_property
    def parts(self) -> list[ArmsApart]:
        """The parts, each in its own blocks."""
        found = []
        for p in range(int(self.part_of.max()) + 1):
            arms = np.flatnonzero(self.part_of == p).tolist()
            blocks = np.flatnonzero(self.o.drawn_in_block[:, arms].any(axis=1)).tolist()
            found.append(ArmsApart(self.o.only(arms).in_blocks(blocks), tuple(arms)))
        return found

    def joined(self, a: int, b: int) -> bool:
        """Whether they stand in one part."""
        return bool(self.part_of[a] == self.part_of[b])

    def home(self, a: int, b: int) -> tuple[Observations, int, int]:
        """Their own part, and where they stand in it."""
        part = self.parts[int(self.part_of[a])]
        return part.observations, part.arms.index(a), part.arms.index(b)

    @property
    def redrawn(self) -> str:
        """What the randomisation test repeats, in words."""
        return clause("redrawn/parts", n=len(self.parts))

    def drawn(self) -> Drawn | None:
        """Every part drawn by itself."""
        units = self.o.units
        parts = []
        for p in range(int(self.part_of.max()) + 1):
            arms = np.flatnonzero(self.part_of == p)
            here = np.flatnonzero(np.isin(units.arm, arms))
            arm = np.searchsorted(arms, units.arm[here])
            block = np.unique(units.stratum[here], return_inverse=True)[1]
            held = self.o.drawn_in_block[:, arms]
            complete = bool(held[held.any(axis=1)].all())
            parts.append(Part(here, arms, ShuffledWithin(arm, block) if complete else IncompleteDraw(arm, block)))
        return Drawn(units.members, Separate(units.arm, units.stratum, tuple(parts)))

    @cached_property
    def _frame(self) -> Frame:
        units = self.o.units
        return Frame(units.members, units.arm, np.zeros_like(units.arm), [units.stratum], modelled=True)

    def lacking(self) -> list[tuple[int, int]]:
        """What a block lacks by design is said of the parts."""
        return []
