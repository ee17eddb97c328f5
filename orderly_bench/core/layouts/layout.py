"""What every layout answers when its trial is read: what was drawn, how two arms differ in it, its model, its words.

How a layout is planned and drawn lies in its ``planned.py``; this is the same layout after the harvest, over the observations. The
defaults are those of whole units shuffled inside strata; ``read.py`` in a folder says what is different in each layout. What
reads a trial asks the layout and knows none of them by name.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.layouts.drawn import Drawn
from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods import terms as factorial
from orderly_bench.core.methods.classical import Classical
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.observations.table import Observations, Units
from orderly_bench.core.observations.times import is_time
from orderly_bench.core.randomise.shuffled import ShuffledWithin

NO_MODEL = ModelTest("no model", None, None, None)
#: Below this many units an arm, intervals and models are fragile.
FEW_UNITS = 6
#: The model of the columns that the second design of the arms adds to the first.
OfColumns = Callable[[np.ndarray, np.ndarray], ModelTest]


@dataclass(frozen=True)
class ArmsApart:
    """Arms that no block joins to the others: their own observations, and which of the whole's arms they are."""

    observations: Observations
    arms: tuple[int, ...]


class Layout(ABC):
    """One layout over one set of observations.

    Attributes
    ----------
    name : str
        The layout in words, for single cuttings.
    replicates_are, replicate_is : str
        What an arm's mean varies over, all of them and one.
    columns : tuple of (str, str)
        Flags of the headless command that give it, with the columns of the endpoint's file.
    whole_redraw : bool
        The whole layout is redrawn for a pair of arms as well.
    factors_in_strata : bool
        A factor's levels can be exchanged inside the strata of the other factors.
    grows : bool
        So many units could be added to every arm.
    grown_from_rates : bool
        Two rates say how trials of more units would come out; of pairs it takes how often both rooted.
    counted_out : bool
        Every outcome of two arms of single cuttings can be counted out beforehand.
    one_needs_two : bool
        A single unit of an arm tells nothing; not so where the arms meet inside pairs.
    paired : bool
        Strata are pairs of two cuttings.
    grown_in_pairs : bool
        More units come as pairs.
    one_factor_is_term : bool
        A single factor has a main effect beside the overall test.
    unreplicated : str
        Code of what is said of an arm without a second replicate.
    """

    name: ClassVar[str]
    replicates_are: ClassVar[str] = "units"
    replicate_is: ClassVar[str] = N_("unit")
    columns: ClassVar[tuple[tuple[str, str], ...]] = ()
    whole_redraw: ClassVar[bool] = False
    factors_in_strata: ClassVar[bool] = True
    grows: ClassVar[bool] = True
    grown_from_rates: ClassVar[bool] = True
    counted_out: ClassVar[bool] = False
    one_needs_two: ClassVar[bool] = True
    paired: ClassVar[bool] = False
    grown_in_pairs: ClassVar[bool] = False
    one_factor_is_term: ClassVar[bool] = False
    unreplicated: ClassVar[str] = "one_unit"

    def __init__(self, observations: Observations) -> None:
        self.o = observations

    def misfit(self) -> UnusableData | None:
        """What keeps the rows from being this layout."""
        return None

    # Words

    def strata(self, n: int) -> str:
        """So many strata, as they are called."""
        return _("{n:block|blocks}", n=n)

    @property
    def title(self) -> str:
        """The layout in words, with what a unit holds."""
        return self.name + (_(", several cuttings per unit") if self.o.clustered else "")

    @property
    @abstractmethod
    def redrawn(self) -> str:
        """What the randomisation test repeats, in words."""

    # What was drawn

    @abstractmethod
    def drawn(self) -> Drawn | None:
        """The draw behind the overall test; None when no single draw gave all arms, or an arm has one unit."""

    def drawn_between(self) -> Drawn | None:
        """The draw behind the first two arms, on their own units only; None for an arm with a single one."""
        units = self.o.units
        return None if self.lone(units) else Drawn(units.members, ShuffledWithin(units.arm, units.stratum))

    def drawn_of(self, factor: int) -> Drawn | None:
        """The draw behind a main effect: its levels inside strata of the other factors x block."""
        index, units = self.o.level_index, self.o.units
        others = np.delete(index, factor, axis=1)[units.arm]
        return self.exchanged(factor, np.column_stack([others, units.stratum]))

    def exchanged(self, factor: int, keys: np.ndarray) -> Drawn:
        """The units with a factor's levels as their labels, in strata of equal keys."""
        units = self.o.units
        _, strata = np.unique(keys, axis=0, return_inverse=True)
        return Drawn(units.members, ShuffledWithin(self.o.level_index[units.arm, factor], strata.ravel()))

    def lone(self, units: Units) -> bool:
        """Whether an arm has a single unit, which tells nothing."""
        return self.one_needs_two and bool(np.bincount(units.arm, minlength=2).min() < 2)

    @cached_property
    def group(self) -> np.ndarray:
        """Whole plot or wave of each known row; 0 where there is none."""
        return np.zeros(len(self.o.known), dtype=int)

    #: Whether units stand in groups that the draw put things on whole.
    shared_groups: ClassVar[bool] = False
    #: What the groups are called when a difference is held against them; blank where they are not.
    gathers: ClassVar[str] = ""

    @property
    def group_names(self) -> tuple[str, ...]:
        """Names of the groups, in their order."""
        return ()

    @property
    def replicates(self) -> Units:
        """What an arm's mean varies over."""
        return self.o.units

    @property
    def unit_count(self) -> int:
        """Experimental units with a known outcome."""
        return int(self.o.units.arm.size)

    @property
    def carried(self) -> tuple[int, ...]:
        """Factors that whole waves carry, so that their p is a permutation's and not a draw's."""
        return ()

    @cached_property
    def not_drawn(self) -> tuple[int, ...]:
        """Factors that nothing drew: a season, or any other time, without the waves that carried it."""
        if self.season_is_drawn:
            return ()
        return tuple(f for f, name in enumerate(self.o.factors) if is_time(name, self.o.level_names[f]))

    def drawn_apart(self, a: int, b: int) -> bool:
        """Whether what differs between two arms was drawn."""
        return all(self.o.arms[a][f] == self.o.arms[b][f] for f in self.not_drawn)

    @property
    def season_is_drawn(self) -> bool:
        """Whether something carries a season, so that it can be compared at all."""
        return False

    # How big

    @property
    def shared(self) -> bool:
        """Whether several cuttings make one replicate."""
        return self.o.clustered

    @property
    def by_level(self) -> bool:
        """Whether levels are compared over the other factors."""
        return not (self.shared and self.o.lacks_arms)

    @property
    def tables(self) -> bool:
        """Whether counts of single cuttings in a table are all there is."""
        return not self.o.clustered

    @property
    def transforms(self) -> bool:
        """Whether the analysis of variance of transformed proportions fits."""
        return self.o.clustered

    def groupings(self) -> list[np.ndarray]:
        """Groupings of the units that stand beside the arms in the linear model."""
        return [self.o.units.stratum] if self.o.blocks else []

    @cached_property
    def parts(self) -> list[ArmsApart]:
        """Parts that share no block; empty where all arms are joined."""
        return []

    def joined(self, a: int, b: int) -> bool:
        """Whether a chain of blocks joins two arms, so that they can be compared at all."""
        return True

    def home(self, a: int, b: int) -> tuple[Observations, int, int]:
        """The observations in which two arms are compared, and where they stand there."""
        return self.o, a, b

    @abstractmethod
    def frame(self, a: int, b: int) -> Frame:
        """Where two arms stand: what their estimate is worked out from, as their test is."""

    # Its model

    @abstractmethod
    def model(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """The model of a yes or no: what the columns of ``larger`` add to those of ``smaller``, each shape (arms, columns)."""

    def term_model(self, yes_no: bool, term: factorial.Term, of_columns: OfColumns) -> ModelTest:
        """Type II test of a main effect or interaction, of a yes or no or of another response."""
        smaller, larger = factorial.type_two(self.o.level_index, term, True)
        return of_columns(smaller, larger) if larger.shape[1] > smaller.shape[1] else NO_MODEL

    def textbook(self, test: RandomisationTest) -> dict[str, Classical]:
        """The classical tests of a yes or no, by name; ``test`` is the overall one."""
        return {}

    # What is doubtful

    def doubts(self) -> list[Caution]:
        """What was not drawn at all."""
        return []

    def few(self) -> list[Caution]:
        """Too few units in an arm to say much."""
        if not self.o.clustered:
            counts = self.o.stuck.sum(axis=0).tolist()
            alone = [name for name, m in zip(self.o.labels, counts, strict=True) if m == 1]
            return [caution("one_unit", "cutting", arms=all_of(alone), serious=True)] if alone else []
        per_arm = np.bincount(self.o.units.arm, minlength=len(self.o.arms))
        if per_arm.min() < 2:
            names = [n for n, m in zip(self.o.labels, per_arm.tolist(), strict=True) if m < 2]
            return [caution("one_unit", arms=all_of(names), serious=True)]
        return [caution("few_units", units=int(per_arm.min()))] if per_arm.min() < FEW_UNITS else []

    def lacking(self) -> list[tuple[int, int]]:
        """Blocks without a known outcome of an arm, as (block, arm)."""
        if not self.o.blocks:
            return []
        return [(int(block), int(arm)) for block, arm in np.argwhere(self.o.stuck == 0)]

    @property
    def strata_fall_silent(self) -> bool:
        """Whether strata in which none or all rooted say nothing of the difference."""
        return len(self.o.blocks) > 1 and not self.o.lacks_arms
