"""Arms shuffled over units inside strata: completely randomised, complete blocks, pairs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from math import factorial, prod

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.randomise.arrangements import MOST_ENUMERATED, arrangements, product_of


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
    kind : str
        What a stratum is: ``block``, ``pair``, or nothing.
    """

    arm: np.ndarray
    stratum: np.ndarray
    kind: str = ""

    @property
    def block(self) -> np.ndarray:
        """The stratum."""
        return self.stratum

    @cached_property
    def counts(self) -> np.ndarray:
        """Units per stratum and arm, shape (strata, arms)."""
        table = np.zeros((int(self.stratum.max()) + 1, int(self.arm.max()) + 1), dtype=int)
        np.add.at(table, (self.stratum, self.arm), 1)
        return table

    def assignments(self) -> int:
        """How many different assignments the draw could have given."""
        return prod(factorial(int(row.sum())) // prod(factorial(int(n)) for n in row) for row in self.counts)

    def every(self) -> np.ndarray | None:
        """All assignments up to 200,000; the tests of sums convolve strata instead."""
        if self.assignments() > MOST_ENUMERATED:
            return None
        found = np.empty((self.assignments(), self.arm.size), dtype=np.int16)
        members = [np.flatnonzero(self.stratum == s) for s in np.unique(self.stratum)]
        parts = [arrangements(tuple(sorted(self.arm[m].tolist()))) for m in members]
        for m, part in zip(members, product_of(parts), strict=True):
            found[:, m] = part
        return found

    def unlabelled(self) -> np.ndarray | None:
        """Not listed: the tests of sums convolve strata."""
        return None

    def redraw(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """Arm indices of ``draws`` fresh draws, shape (draws, units)."""
        labels = np.empty((draws, self.arm.size), dtype=self.arm.dtype)
        for stratum in np.unique(self.stratum):
            here = np.flatnonzero(self.stratum == stratum)
            labels[:, here] = rng.permuted(np.tile(self.arm[here], (draws, 1)), axis=1)
        return labels

    def groups(self) -> dict[str, np.ndarray]:
        """The strata under their kind."""
        return {self.kind: self.stratum} if self.kind else {}


def completely_randomised(units_per_arm: list[int], rng: np.random.Generator) -> ShuffledWithin:
    """Arms of any sizes shuffled over one stratum."""
    arms = np.repeat(np.arange(len(units_per_arm)), units_per_arm)
    return ShuffledWithin(rng.permutation(arms), np.zeros(arms.size, dtype=int))


def complete_blocks(units: Sequence[int], blocks: int, rng: np.random.Generator) -> ShuffledWithin:
    """Randomised complete blocks: every block holds an equal part of each arm.

    Raises
    ------
    InvalidInput
        When the units of an arm do not divide over the blocks.
    """
    for own in units:
        if own % blocks:
            fitting = blocks * max(1, round(own / blocks))
            raise InvalidInput(
                "units per arm",
                _("must be a multiple of the {blocks} blocks; take {fitting}", blocks=blocks, fitting=fitting),
                own,
            )
    each = np.repeat(np.arange(len(units)), [own // blocks for own in units])
    drawn = np.concatenate([rng.permutation(each) for _ in range(blocks)])
    return ShuffledWithin(drawn, np.repeat(np.arange(blocks), each.size), "block")
