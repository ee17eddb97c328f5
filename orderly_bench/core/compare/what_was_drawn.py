"""What was randomised, read from the observations: the things that were drawn and the layout that drew them.

Nothing is permuted that was not randomised: a factor on whole plots permutes whole plots, one inside them stays inside; a
factor that is constant within waves permutes waves (assumed, not drawn: the caution says so).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import chain

import numpy as np

from orderly_bench.core.compare.observations import Alone, Observations
from orderly_bench.core.randomise.layouts import IncompleteBlocks, LatinSquare, Layout, ShuffledWithin


@dataclass(frozen=True)
class Drawn:
    """The things that were drawn: units, cells of a square, whole plots or waves.

    Attributes
    ----------
    members : sequence of list of int
        Indices into the observations' known rows of each thing.
    layout : Layout
        Over those things, with the labels that were drawn as its arms.
    """

    members: Sequence[list[int]]
    layout: Layout

    @property
    def single(self) -> bool:
        """Whether every one of them is a single cutting."""
        return isinstance(self.members, Alone) or all(len(m) == 1 for m in self.members)

    def means(self, values: np.ndarray) -> np.ndarray:
        """Mean of the cuttings' values in each thing, shape (things,)."""
        if isinstance(self.members, Alone):
            return values
        order = np.fromiter(chain.from_iterable(self.members), dtype=np.intp, count=values.size)
        sizes = np.fromiter(map(len, self.members), dtype=np.intp, count=len(self.members))
        starts = np.concatenate([[0], np.cumsum(sizes)[:-1]])
        found: np.ndarray = np.add.reduceat(values[order], starts) / sizes
        return found


def for_all_arms(observations: Observations) -> Drawn | None:
    """The draw behind the overall test; None when no single draw gave all arms, or nothing was randomised."""
    if any(len(observations.level_names[f]) > 1 for f in observations.not_drawn):
        return None
    if observations.latin:
        return _square(observations)
    if observations.waved or observations.split:
        return for_factor(observations, 0) if len(observations.factors) == 1 else None
    units = observations.units
    if len(observations.arms) == 2 and not observations.paired and np.bincount(units.arm, minlength=2).min() < 2:
        return None
    if observations.incomplete:
        # A block whose cuttings are all without an outcome is no block of the comparison.
        return Drawn(units.members, IncompleteBlocks(units.arm, np.unique(units.stratum, return_inverse=True)[1]))
    return Drawn(units.members, ShuffledWithin(units.arm, units.stratum))


def for_pair(observations: Observations, a: int, b: int) -> Drawn | None:
    """The draw behind two arms, on their own units only; None for an arm with a single shared unit, plot or wave."""
    if not observations.drawn_apart(a, b):
        return None
    two = observations.only([a, b])
    units = two.units
    if two.grouped:
        group = two.group_of_known
        if not two.shares_groups(0, 1):
            return _groups(two.arm_of_known, group, two.stratum_of_known)
        return Drawn(units.members, ShuffledWithin(units.arm, group[_firsts(units.members)]))
    if not two.paired and np.bincount(units.arm, minlength=2).min() < 2:
        return None
    return Drawn(units.members, ShuffledWithin(units.arm, units.stratum))


def for_factor(observations: Observations, factor: int) -> Drawn | None:
    """The draw behind a main effect: its levels inside strata of the other factors x block."""
    if factor in observations.not_drawn:
        return None
    index = observations.level_index
    level = index[observations.arm_of_known, factor]
    group = observations.group_of_known
    if observations.grouped and all(np.unique(level[group == g]).size == 1 for g in np.unique(group)):
        return _groups(level, group, observations.stratum_of_known)
    units = observations.units
    others = np.delete(index, factor, axis=1)[units.arm]
    if not observations.grouped:
        keys = np.column_stack([others, units.stratum])
    elif observations.split:
        keys = group[_firsts(units.members)][:, None]
    else:
        keys = np.column_stack([others, group[_firsts(units.members)]])
    _, strata = np.unique(keys, axis=0, return_inverse=True)
    return Drawn(units.members, ShuffledWithin(index[units.arm, factor], strata.ravel()))


def _firsts(members: Sequence[list[int]]) -> list[int]:
    return [m[0] for m in members]


def _groups(label: np.ndarray, group: np.ndarray, block: np.ndarray) -> Drawn | None:
    """Whole groups carry the labels and change places inside their block; None when a label has one group."""
    members = [np.flatnonzero(group == g).tolist() for g in np.unique(group)]
    firsts = _firsts(members)
    labels, strata = (np.unique(of[firsts], return_inverse=True)[1] for of in (label, block))
    if np.bincount(labels).size < 2 or np.bincount(labels).min() < 2:
        return None
    if any(np.unique(block[m]).size > 1 for m in members):  # a wave spans blocks: waves themselves were drawn
        strata = np.zeros(len(members), dtype=int)
    return Drawn(members, ShuffledWithin(labels, strata))


def _square(observations: Observations) -> Drawn:
    row, column = observations.group_index(lambda r: r.row), observations.group_index(lambda r: r.column)
    cells: dict[tuple[int, int], list[int]] = {}
    for i, place in enumerate(zip(row.tolist(), column.tolist(), strict=True)):
        cells.setdefault(place, []).append(i)
    members = list(cells.values())
    firsts = _firsts(members)
    return Drawn(members, LatinSquare(observations.arm_of_known[firsts], row[firsts], column[firsts]))
