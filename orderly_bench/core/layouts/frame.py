"""Where two sides stand: the units that were drawn, with their labels, inside the strata of their test.

Test, estimate, interval and adjusted values of a comparison all come from its frame, so that none of them speaks of other strata
than the rest.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from orderly_bench.core.layouts.drawn import Drawn
from orderly_bench.core.methods.linear import ArmFit, fit_arms
from orderly_bench.core.observations.table import Alone
from orderly_bench.core.randomise.shuffled import ShuffledWithin


@dataclass(frozen=True)
class Frame:
    """The units of one question.

    Attributes
    ----------
    members : sequence of list of int
        Indices into the observations' known rows of each unit.
    label : ndarray of int, shape (units,)
        The arm, or the level of the factor asked about.
    stratum : ndarray of int, shape (units,)
        Inside what the sides are compared; 0 throughout where there is one.
    groupings : list of ndarray of int, shape (units,)
        What stands beside the labels in a model.
    modelled : bool
        No stratum holds both sides by design: squares, incomplete blocks, fractions of a factorial.
    in_pairs : bool
        Strata are pairs.
    of : str
        What the units' values are, in words.
    """

    members: Sequence[list[int]]
    label: np.ndarray
    stratum: np.ndarray
    groupings: list[np.ndarray] = field(default_factory=list)
    modelled: bool = False
    in_pairs: bool = False
    of: str = "unit means"

    @cached_property
    def drawn(self) -> Drawn:
        """The same units with their labels, shuffled inside the strata."""
        return Drawn(self.members, ShuffledWithin(self.label, self.stratum))

    @cached_property
    def single(self) -> bool:
        """Whether every unit is a single cutting."""
        return self.drawn.single

    @cached_property
    def sizes(self) -> np.ndarray:
        """Cuttings of each unit."""
        if self.single:
            return np.ones(len(self.members))
        return np.fromiter(map(len, self.members), dtype=float, count=len(self.members))

    @cached_property
    def rows(self) -> np.ndarray:
        """Known rows, unit by unit."""
        if isinstance(self.members, Alone):
            return np.arange(len(self.members))
        return np.concatenate([np.asarray(m, dtype=np.intp) for m in self.members])

    @cached_property
    def unit_of_rows(self) -> np.ndarray:
        """Unit of each of ``rows``."""
        return np.repeat(np.arange(len(self.members)), self.sizes.astype(int))

    def means(self, values: np.ndarray) -> np.ndarray:
        """Mean of the known rows' values in each unit."""
        if self.single:
            return np.asarray(values[self.rows], dtype=float)
        return np.asarray(np.bincount(self.unit_of_rows, values[self.rows]) / self.sizes)

    def units(self, a: int, b: int) -> tuple[int, int]:
        """Units of each side."""
        return int((self.label == a).sum()), int((self.label == b).sum())

    def only(self, a: int, b: int) -> Frame:
        """The units of two labels, a as 0 and b as 1, in the strata they stand in."""
        kept = np.flatnonzero((self.label == a) | (self.label == b))
        if kept.size == self.label.size and a == 0:
            return self
        members = [self.members[i] for i in kept.tolist()]
        strata = np.unique(self.stratum[kept], return_inverse=True)[1]
        groupings = [np.unique(g[kept], return_inverse=True)[1] for g in self.groupings]
        return Frame(
            members, (self.label[kept] == b).astype(int), strata, groupings, self.modelled, self.in_pairs, self.of
        )

    def counts(self, a: int, b: int) -> np.ndarray:
        """Units of both sides in each stratum, shape (strata, 2)."""
        strata = int(self.stratum.max()) + 1
        return np.column_stack([np.bincount(self.stratum[self.label == x], minlength=strata) for x in (a, b)])

    def weights(self, a: int, b: int) -> np.ndarray:
        """n_a n_b / (n_a + n_b) of each stratum, 0 where a side is not there."""
        n = self.counts(a, b)
        return np.asarray(n.prod(axis=1) / np.maximum(1, n.sum(axis=1)))

    def stratum_means(self, values: np.ndarray, a: int, b: int) -> tuple[float, float] | None:
        """Each side's means of the units in the strata that hold both, so weighted; None where there is none."""
        weight = self.weights(a, b)
        if weight.sum() <= 0:
            return None
        found = []
        for side in (a, b):
            here = self.label == side
            n = np.bincount(self.stratum[here], minlength=weight.size)
            totals = np.bincount(self.stratum[here], values[here], minlength=weight.size)
            found.append(float(weight @ (totals / np.maximum(1, n)) / weight.sum()))
        return found[0], found[1]

    @property
    def stratified(self) -> bool:
        """Whether anything stands beside the labels."""
        return self.modelled or bool(np.ptp(self.stratum))

    def fit(self, values: np.ndarray) -> ArmFit:
        """Linear model of unit values on the labels and what stands beside them."""
        return fit_arms(values, self.label, self.groupings)

    def aligned(self, values: np.ndarray) -> np.ndarray:
        """Unit values less what stands beside the labels (Hodges & Lehmann 1962, Ann Math Stat 33:482)."""
        return self.fit(values).aligned
