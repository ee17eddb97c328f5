"""Units inside groups that carry a factor whole: what split-plots and waves have in common.

Nothing is permuted that was not laid out so: a factor on whole groups permutes groups, one inside them stays inside. Arms that
share groups are compared inside them, others by the means of the groups, which are then the replicates.
"""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Callable
from functools import cached_property

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.layouts.drawn import Drawn, firsts
from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.layouts.layout import FEW_UNITS, NO_MODEL, Layout, OfColumns
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import conditional_logistic, linear, quasi_binomial
from orderly_bench.core.methods import terms as factorial
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.observations.table import Row, Units
from orderly_bench.core.randomise.shuffled import ShuffledWithin


class Grouped(Layout):
    """Whole plots or waves hold the units."""

    factors_in_strata = False
    grows = False
    one_factor_is_term = True
    shared = True
    shared_groups = True
    tables = False
    transforms = False

    @property
    @abstractmethod
    def of(self) -> Callable[[Row], str | None]:
        """The group a row names."""

    @cached_property
    def group(self) -> np.ndarray:
        """Whole plot or wave of each known row."""
        return self.o.group_index(self.of)

    @cached_property
    def replicates(self) -> Units:
        """Each arm's part of every group."""
        return self.o.units_by(list(zip(self.group.tolist(), self.o.arm_of_known.tolist(), strict=True)))

    @cached_property
    def stratum(self) -> np.ndarray:
        """What each known row was drawn inside: its group and, where that was drawn in blocks, its block there."""
        inside = np.column_stack([self.group, self.o.stratum_of_known])
        return np.unique(inside, axis=0, return_inverse=True)[1].ravel()

    def holds_one(self, label: np.ndarray) -> bool:
        """Whether a label of the known rows is the same throughout each group."""
        return all(np.unique(label[self.group == g]).size == 1 for g in np.unique(self.group))

    def drawn(self) -> Drawn | None:
        """Of a single factor its own; else no single draw gave all arms."""
        return self.drawn_of(0) if len(self.o.factors) == 1 else None

    def drawn_between(self) -> Drawn | None:
        """Inside the groups that both arms share; else the groups themselves."""
        if not self._meet(0, 1):
            return self._groups(self.o.arm_of_known)
        units = self.o.units
        return Drawn(units.members, ShuffledWithin(units.arm, self.stratum[firsts(units.members)]))

    def drawn_of(self, factor: int) -> Drawn | None:
        """Whole groups where they carry the factor; inside them else."""
        level = self.o.level_index[self.o.arm_of_known, factor]
        if self.holds_one(level):
            return self._groups(level)
        return self.exchanged(factor, self.strata_of(factor))

    @abstractmethod
    def strata_of(self, factor: int) -> np.ndarray:
        """Keys inside which the units change the levels of a factor that the groups do not carry; a row a unit."""

    def _groups(self, label: np.ndarray) -> Drawn | None:
        """Whole groups carry the labels and change places inside their block; None when a label has one group."""
        block = self.o.stratum_of_known
        members = [np.flatnonzero(self.group == g).tolist() for g in np.unique(self.group)]
        one = firsts(members)
        labels, strata = (np.unique(of[one], return_inverse=True)[1] for of in (label, block))
        if np.bincount(labels).size < 2 or np.bincount(labels).min() < 2:
            return None
        if any(np.unique(block[m]).size > 1 for m in members):  # a wave spans blocks: waves themselves were drawn
            strata = np.zeros(len(members), dtype=int)
        return Drawn(members, ShuffledWithin(labels, strata))

    def _meet(self, a: int, b: int) -> bool:
        """Whether some group holds both arms."""
        in_a, in_b = (set(self.group[self.o.arm_of_known == arm].tolist()) for arm in (a, b))
        return bool(in_a & in_b)

    def frame(self, a: int, b: int) -> Frame:
        """Units inside the groups that both arms share; else the groups' means, in the blocks that the groups were drawn in."""
        if self._meet(a, b):
            return self._inside
        parts = self.replicates
        kept = np.flatnonzero(np.isin(parts.arm, [a, b]))
        members = [parts.members[i] for i in kept.tolist()]
        one = firsts(members)
        block = self.o.stratum_of_known[one]
        inside = all(np.unique(self.o.stratum_of_known[m]).size == 1 for m in members)
        strata = np.unique(block, return_inverse=True)[1] if inside else np.zeros(len(members), dtype=int)
        of = _("means of {replicates_are}", replicates_are=self.replicates_are)
        return Frame(members, parts.arm[kept], strata, [strata] if np.ptp(strata) else [], of=of)

    @cached_property
    def _inside(self) -> Frame:
        units = self.o.units
        own = self.stratum[firsts(units.members)]
        return Frame(units.members, units.arm, own, [own])

    def _counts(self) -> tuple[np.ndarray, np.ndarray]:
        """Rooted and known in each stratum and arm, shape (strata, arms)."""
        o = self.o
        tables = []
        for counted in (o.responses, np.ones(o.responses.size)):
            table = np.zeros((int(self.stratum.max()) + 1, len(o.arms)), dtype=int)
            np.add.at(table, (self.stratum, o.arm_of_known), counted.astype(int))
            tables.append(table)
        return tables[0], tables[1]

    def model(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """Of a single factor; several have a model of each term."""
        return self.term_model(True, (0,), lambda *_: NO_MODEL) if len(self.o.factors) == 1 else NO_MODEL

    def term_model(self, yes_no: bool, term: factorial.Term, of_columns: OfColumns) -> ModelTest:
        """What the groups carry by a quasi-binomial F test on them, the rest conditional on them."""
        if not yes_no:
            return NO_MODEL
        level = self.o.level_index[self.o.arm_of_known]
        constant = [f for f in range(level.shape[1]) if self.holds_one(level[:, f])]
        if set(term) <= set(constant):
            return self._model_between(tuple(constant.index(f) for f in term), constant)
        return self._model_within(term, constant)

    def _model_between(self, term: factorial.Term, constant: list[int]) -> ModelTest:
        """Quasi-binomial F on the groups."""
        one = np.unique(self.group, return_index=True)[1]
        rooted, stuck = np.bincount(self.group, self.o.responses), np.bincount(self.group).astype(float)
        smaller, larger = factorial.type_two(self.o.level_index[:, constant], term, True)
        arm = self.o.arm_of_known[one]
        return quasi_binomial.f_test(rooted, stuck, smaller[arm], larger[arm])

    def _model_within(self, term: factorial.Term, constant: list[int]) -> ModelTest:
        """Conditional logistic given the groups; with several cuttings per unit quasi-binomial with those as blocks."""
        index = self.o.level_index
        terms = factorial.all_terms(index.shape[1])
        others = [t for t in terms if not set(term) <= set(t) and not set(t) <= set(constant)]
        smaller, larger = factorial.design(index, others, False), factorial.design(index, [*others, term], False)
        if larger.shape[1] == smaller.shape[1]:
            return NO_MODEL
        if not self.o.clustered:
            return conditional_logistic.likelihood_ratio(smaller, larger, *self._counts())
        units = self.o.units
        own = self.stratum[firsts(units.members)]
        base = np.hstack([np.ones((own.size, 1)), linear.dummies(own)])
        small, large = (np.hstack([base, design[units.arm]]) for design in (smaller, larger))
        return quasi_binomial.f_test(units.total, units.cuttings, small, large)

    def few(self) -> list[Caution]:
        """Groups are the replicates of what was put on them."""
        per_arm = np.bincount(self.replicates.arm, minlength=len(self.o.arms))
        if not 2 <= per_arm.min() < FEW_UNITS:
            return []
        return [caution("few_units", "groups", units=int(per_arm.min()), what=self.replicates_are)]
