"""Incomplete blocks: labels, order of the blocks and places in them are drawn; which arms meet is searched beforehand."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import permutations
from math import factorial, prod

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.layouts.incomplete_blocks.block_sets import blocks_of_arms, check_incomplete
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.randomise.arrangements import MOST_ENUMERATED, product_of
from orderly_bench.core.randomise.drawn_layout import Request


@dataclass(frozen=True)
class IncompleteBlocks:
    """Blocks that hold some of the arms: labels, order of blocks and places in blocks are drawn.

    Which arms share a block is kept up to the labels; sets of arms move only between blocks of one size.

    Attributes
    ----------
    arm, block : ndarray of int, shape (units,)
    """

    arm: np.ndarray
    block: np.ndarray

    @cached_property
    def _members(self) -> list[np.ndarray]:
        return [np.flatnonzero(self.block == b) for b in range(int(self.block.max()) + 1)]

    def assignments(self) -> int:
        """Ways to draw labels, blocks and places; some give the same assignment."""
        sizes = np.array([m.size for m in self._members])
        return (
            prod(factorial(int((sizes == s).sum())) for s in np.unique(sizes))
            * prod(factorial(int(s)) for s in sizes)
            * factorial(int(self.arm.max()) + 1)
        )

    def every(self) -> np.ndarray | None:
        """All ways up to 200,000, each as likely; some give the same assignment."""
        ways = self.unlabelled()
        if ways is None:
            return None
        labels = np.array(list(permutations(range(int(self.arm.max()) + 1))))
        return np.concatenate([named[ways] for named in labels])

    def unlabelled(self) -> np.ndarray | None:
        """The same with the arms' names as they are: only blocks and places drawn."""
        if self.assignments() > MOST_ENUMERATED:
            return None
        sizes = np.array([m.size for m in self._members])
        parts, where = [], []
        for size in np.unique(sizes):
            same = np.flatnonzero(sizes == size)
            places = np.array([self._members[b] for b in same])
            orders = np.array(list(permutations(range(same.size))))
            inside = np.array(list(permutations(range(int(size)))))
            held = self.arm[places][orders]  # orders, blocks, places
            drawn = product_of([np.arange(orders.shape[0])[:, None], *[inside] * same.size])
            which = drawn[0][:, 0]
            parts.append(
                np.hstack([np.take_along_axis(held[which, b], order, axis=1) for b, order in enumerate(drawn[1:])])
            )
            where.append(places.ravel())
        mixed = product_of(parts)
        found = np.empty((mixed[0].shape[0], self.arm.size), dtype=np.int16)
        for places, part in zip(where, mixed, strict=True):
            found[:, places] = part
        return found

    def redraw(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """Arm indices of ``draws`` fresh draws, shape (draws, units)."""
        drawn = np.empty((draws, self.arm.size), dtype=np.intp)
        sizes = np.array([m.size for m in self._members])
        for size in np.unique(sizes):
            same = np.flatnonzero(sizes == size)
            places = np.array([self._members[b] for b in same])
            order = np.argsort(rng.random((draws, same.size)), axis=1)
            drawn[:, places] = rng.permuted(self.arm[places][order], axis=2)
        labels = np.argsort(rng.random((draws, int(self.arm.max()) + 1)), axis=1)
        return np.take_along_axis(labels, drawn, axis=1)

    def groups(self) -> dict[str, np.ndarray]:
        """The blocks."""
        return {"block": self.block}


def draw_in_part_blocks(request: Request, rng: np.random.Generator) -> IncompleteBlocks:
    """Draw blocks that hold some of the arms."""
    units = check_incomplete(request.arms, request.block_size, request.blocks)
    if request.units_per_arm != units:
        rule = _(
            "is {units}: {blocks} blocks of {block_size} over {arms} arms",
            units=units,
            blocks=request.blocks,
            block_size=request.block_size,
            arms=request.arms,
        )
        raise InvalidInput("units per arm", rule, request.units_per_arm)
    sets = np.array(blocks_of_arms(request.arms, request.block_size, request.blocks))
    made = IncompleteBlocks(sets.ravel(), np.repeat(np.arange(request.blocks), request.block_size))
    return IncompleteBlocks(made.redraw(rng, 1)[0], made.block)
