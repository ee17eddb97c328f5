"""Pairs: two cuttings of one stem, one for each of two arms, that change places inside their pair."""

from __future__ import annotations

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.layouts.complete_blocks.read import CompleteBlocks
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import classical
from orderly_bench.core.methods.classical import Classical
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.observations.table import Row


class Pairs(CompleteBlocks):
    """Blocks of two."""

    name = "pairs"
    columns = (("--pair", "pair"),)
    paired = True
    factors_in_strata = False
    grown_from_rates = False
    grown_in_pairs = True
    one_needs_two = False
    by_level = False

    def strata(self, n: int) -> str:
        """So many pairs."""
        return _("{n:pair|pairs}", n=n)

    def misfit(self) -> UnusableData | None:
        """A pair is two cuttings of two arms."""
        pairs: dict[str | None, list[Row]] = {}
        for row in self.o.rows:
            pairs.setdefault(row.pair, []).append(row)
        for name, members in pairs.items():
            arms = {row.levels for row in members}
            if len(members) != 2 or len(arms) != 2:
                return UnusableData(
                    _("pair {name} has {n} cuttings in {arms} arms", name=name, n=len(members), arms=len(arms)),
                    _("A pair is two cuttings, one in each of two arms; use --block for larger groups"),
                    row=members[-1].line or None,
                )
        return None

    @property
    def redrawn(self) -> str:
        """What the randomisation test repeats, in words."""
        return self.where

    def textbook(self, test: RandomisationTest) -> dict[str, Classical]:
        """McNemar's: exact, and the chi-square."""
        return {"mcnemar": Classical(None, test.p), **classical.mcnemar(self.o.rooted, self.o.stuck)}

    @property
    def strata_fall_silent(self) -> bool:
        """Pairs in which both or neither rooted say nothing."""
        return len(self.o.blocks) > 1

    def lacking(self) -> list[tuple[int, int]]:
        """A pair with one lost is no block that lacks an arm."""
        return []
