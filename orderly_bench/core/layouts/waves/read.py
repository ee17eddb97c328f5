"""Waves: sticking occasions that carry a season; permuted as if they could have fallen either way, which the caution says."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.layouts.drawn import firsts
from orderly_bench.core.layouts.grouped import Grouped
from orderly_bench.core.messages.say import caution, clause
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.observations.table import Row, natural_key
from orderly_bench.core.observations.times import is_time

#: Waves of a level below which it can't be told from its week.
LEAST_WAVES = 2


class Waves(Grouped):
    """Waves hold the units."""

    name = "waves"
    replicates_are = "waves"
    replicate_is = N_("wave")
    columns = (("--wave", "wave"),)
    season_is_drawn = True
    unreplicated = "waves_not_replicated"
    by_level = True
    gathers = "wave"

    @property
    def of(self) -> Callable[[Row], str | None]:
        """Its wave."""
        return lambda row: row.wave

    @property
    def group_names(self) -> tuple[str, ...]:
        """The waves."""
        return tuple(sorted({row.wave or "" for row in self.o.known}, key=natural_key))

    @property
    def redrawn(self) -> str:
        """What the randomisation test repeats, in words."""
        return clause("redrawn/waves")

    def strata_of(self, factor: int) -> np.ndarray:
        """The other factors inside each wave and, where the wave was drawn in them, its blocks."""
        units = self.o.units
        others = np.delete(self.o.level_index, factor, axis=1)[units.arm]
        return np.column_stack([others, self.stratum[firsts(units.members)]])

    @property
    def unit_count(self) -> int:
        """Whole waves where each holds one arm, else the units."""
        return int(self.group.max()) + 1 if self.holds_one(self.o.arm_of_known) else super().unit_count

    @property
    def carried(self) -> tuple[int, ...]:
        """Factors that are constant within waves."""
        level = self.o.level_index[self.o.arm_of_known]
        return tuple(f for f in range(level.shape[1]) if self.holds_one(level[:, f]))

    @property
    def strata_fall_silent(self) -> bool:
        """Blocks inside waves."""
        return len(self.o.blocks) > 1

    def lacking(self) -> list[tuple[int, int]]:
        """A block lacks an arm only that its wave held elsewhere."""
        waves = dict(zip(self.o.stratum_of_known.tolist(), self.group.tolist(), strict=True))
        held = set(zip(self.group.tolist(), self.o.arm_of_known.tolist(), strict=True))
        return [(block, arm) for block, arm in super().lacking() if (waves.get(block), arm) in held]

    @property
    def compared(self) -> tuple[int, ...]:
        """Factors with several levels that whole waves carry."""
        return tuple(f for f in self.carried if len(self.o.level_names[f]) > 1)

    def doubts(self) -> list[Caution]:
        """Waves were not assigned; a level with one is not replicated."""
        others = [self.o.factors[f] for f in self.compared if not is_time(self.o.factors[f], self.o.level_names[f])]
        found = [
            caution("season_not_assigned", "other", factors=all_of(others))
            if others
            else caution("season_not_assigned")
        ]
        if any(self._waves_of_level(f).min() < LEAST_WAVES for f in self.compared):
            found.append(caution("waves_not_replicated", serious=True))
        return found

    def _waves_of_level(self, factor: int) -> np.ndarray:
        """Waves that hold each level of a factor."""
        level = self.o.level_index[self.o.arm_of_known, factor]
        return np.array([np.unique(self.group[level == at]).size for at in np.unique(level)])
