"""The things that were drawn, and the layout that drew them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import chain

import numpy as np

from orderly_bench.core.observations.table import Alone
from orderly_bench.core.randomise.drawn_layout import DrawnLayout


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
    layout: DrawnLayout

    @property
    def single(self) -> bool:
        """Whether every one of them is a single cutting."""
        return isinstance(self.members, Alone) or all(len(m) == 1 for m in self.members)

    def means(self, values: np.ndarray) -> np.ndarray:
        """Mean of the cuttings' values in each thing, shape (things,)."""
        if isinstance(self.members, Alone):
            return values
        sizes = np.fromiter(map(len, self.members), dtype=np.intp, count=len(self.members))
        order = np.fromiter(chain.from_iterable(self.members), dtype=np.intp, count=int(sizes.sum()))
        starts = np.concatenate([[0], np.cumsum(sizes)[:-1]])
        found: np.ndarray = np.add.reduceat(values[order], starts) / sizes
        return found


def firsts(members: Sequence[list[int]]) -> list[int]:
    """One known row of each thing."""
    return [m[0] for m in members]
