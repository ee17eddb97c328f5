"""Layouts: the object that draws a trial is the one that redraws it for the test.

Fisher (1935), *The Design of Experiments*: the p-value comes from repeating the draw that laid the
trial out. A layout knows what was randomised and nothing about responses.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from math import factorial, prod

import numpy as np

from orderly_bench.core.errors import InvalidInput


@dataclass(frozen=True)
class ShuffledWithin:
    """Arms shuffled over units inside strata.

    One stratum is the completely randomised layout; blocks, and pairs as blocks of two, are several.

    Attributes
    ----------
    arm : ndarray of int, shape (units,)
        Arm index of each unit as drawn.
    stratum : ndarray of int, shape (units,)
        Stratum index of each unit.
    """

    arm: np.ndarray
    stratum: np.ndarray

    @cached_property
    def counts(self) -> np.ndarray:
        """Units per stratum and arm, shape (strata, arms)."""
        table = np.zeros((int(self.stratum.max()) + 1, int(self.arm.max()) + 1), dtype=int)
        np.add.at(table, (self.stratum, self.arm), 1)
        return table

    def assignments(self) -> int:
        """How many different assignments the draw could have given."""
        return prod(factorial(int(row.sum())) // prod(factorial(int(n)) for n in row) for row in self.counts)

    def redraw(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """Arm indices of ``draws`` fresh draws, shape (draws, units)."""
        labels = np.empty((draws, self.arm.size), dtype=self.arm.dtype)
        for stratum in np.unique(self.stratum):
            here = np.flatnonzero(self.stratum == stratum)
            labels[:, here] = rng.permuted(np.tile(self.arm[here], (draws, 1)), axis=1)
        return labels


def completely_randomised(units_per_arm: list[int], rng: np.random.Generator) -> ShuffledWithin:
    """Draw a completely randomised layout; unit i of the result is the i-th place on the bench."""
    arms = np.repeat(np.arange(len(units_per_arm)), units_per_arm)
    return ShuffledWithin(rng.permutation(arms), np.zeros(arms.size, dtype=int))


def complete_blocks(arms: int, units_per_arm: int, blocks: int, rng: np.random.Generator) -> ShuffledWithin:
    """Draw randomised complete blocks: every block holds every arm equally often.

    Raises
    ------
    InvalidInput
        When the units of an arm do not divide over the blocks.
    """
    if units_per_arm % blocks:
        raise InvalidInput(
            "cuttings per arm",
            f"must be a multiple of the {blocks} blocks; take {blocks * max(1, round(units_per_arm / blocks))}",
            units_per_arm,
        )
    each = np.repeat(np.arange(arms), units_per_arm // blocks)
    drawn = np.concatenate([rng.permutation(each) for _ in range(blocks)])
    return ShuffledWithin(drawn, np.repeat(np.arange(blocks), each.size))
