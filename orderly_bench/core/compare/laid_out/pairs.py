"""Pairs: two cuttings of one stem, one for each of two arms, that change places inside their pair."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np

from orderly_bench.core.compare import classical
from orderly_bench.core.compare.classical import Classical
from orderly_bench.core.compare.difference import Difference
from orderly_bench.core.compare.laid_out.complete_blocks import CompleteBlocks
from orderly_bench.core.compare.observations import Row
from orderly_bench.core.compare.paired import newcombe_paired
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.words import tell
from orderly_bench.core.randomise.randomisation import RandomisationTest

if TYPE_CHECKING:
    from orderly_bench.core.compare.more_units import Grown


class Pairs(CompleteBlocks):
    """Blocks of two."""

    name = "pairs"
    strata_are = "pairs"
    columns = (("--pair", "pair"),)
    factors_in_strata = False
    grown_from_rates = False
    one_needs_two = False
    by_level = False
    adjusts = False

    def misfit(self) -> UnusableData | None:
        """A pair is two cuttings of two arms."""
        pairs: dict[str | None, list[Row]] = {}
        for row in self.o.rows:
            pairs.setdefault(row.pair, []).append(row)
        for name, members in pairs.items():
            arms = {row.levels for row in members}
            if len(members) != 2 or len(arms) != 2:
                return UnusableData(
                    tell("pair {name} has {n} cuttings in {arms} arms", name=name, n=len(members), arms=len(arms)),
                    tell("A pair is two cuttings, one in each of two arms; use --block for larger groups"),
                    row=members[-1].line or None,
                )
        return None

    @property
    def redrawn(self) -> str:
        """What the randomisation test repeats, in words."""
        return self.where

    def of_counts(self, rooted: np.ndarray, stuck: np.ndarray, level: float) -> Difference:
        """Newcombe's paired interval, over the pairs of which both are known."""
        whole = (stuck == 1).all(axis=1)
        first, second = rooted[whole, 0] == 1, rooted[whole, 1] == 1
        both, neither = int((first & second).sum()), int((~first & ~second).sum())
        return newcombe_paired(both, int((first & ~second).sum()), int((~first & second).sum()), neither, level)

    def textbook(self, test: RandomisationTest) -> dict[str, Classical]:
        """McNemar's: exact, and the chi-square."""
        return {"mcnemar": Classical(None, test.p), **classical.mcnemar(self.o.rooted, self.o.stuck)}

    def grown(self, trials: Grown, more: int, rng: np.random.Generator) -> Iterator[list[float | None]]:
        """So many pairs more."""
        return trials.pairs_again(more, rng)

    @property
    def strata_fall_silent(self) -> bool:
        """Pairs in which both or neither rooted say nothing."""
        return len(self.o.blocks) > 1

    def lacking(self) -> list[tuple[int, int]]:
        """A pair with one lost is no block that lacks an arm."""
        return []
