"""Layouts: the object that draws a trial is the one that redraws it for the test.

Fisher (1935), *The Design of Experiments*: the p-value comes from repeating the draw that laid the trial out. A layout knows
what was randomised and nothing about responses. ``drawing.py`` makes layouts from a plan.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import permutations
from math import factorial, prod
from typing import Protocol

import numpy as np

from orderly_bench.core.randomise.arrangements import MOST_ENUMERATED, arrangements, product_of
from orderly_bench.core.randomise.latin_square import (
    MOST_LISTED,
    all_squares,
    count_squares,
    draw_squares,
    squares_in_order,
)


class Layout(Protocol):
    """What was drawn, and how to draw it again.

    Attributes
    ----------
    arm : ndarray of int, shape (units,)
        Arm index of each unit as drawn.
    block : ndarray of int, shape (units,)
        Group inside which units are compared; 0 throughout where there is none.
    """

    @property
    def arm(self) -> np.ndarray:
        """Arm index of each unit as drawn."""

    @property
    def block(self) -> np.ndarray:
        """Group of each unit."""

    def assignments(self) -> int:
        """How many different outcomes the draw could have had, or the ways to reach them."""

    def every(self) -> np.ndarray | None:
        """All assignments, equally likely, shape (assignments, units); None where they are not listed."""

    def unlabelled(self) -> np.ndarray | None:
        """All assignments with each set of them that differ in the arms' names alone given once; None where not listed."""

    def redraw(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """Arm indices of ``draws`` fresh draws, shape (draws, units)."""

    def groups(self) -> dict[str, np.ndarray]:
        """Typed groupings of the units: ``block``, ``pair``, ``row``, ``column``, ``whole plot``; each shape (units,)."""


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


@dataclass(frozen=True)
class LatinSquare:
    """Every arm once in every row and every column; drawn uniformly from all squares of the order.

    Attributes
    ----------
    arm, row, column : ndarray of int, shape (cells,)
    """

    arm: np.ndarray
    row: np.ndarray
    column: np.ndarray

    @property
    def block(self) -> np.ndarray:
        """Rows and columns hold every arm equally, so nothing needs adjusting."""
        return np.zeros(self.arm.size, dtype=int)

    @property
    def order(self) -> int:
        """Arms, rows and columns."""
        return int(self.arm.max()) + 1

    def assignments(self) -> int:
        """Latin squares of the order."""
        return count_squares(self.order)

    def every(self) -> np.ndarray | None:
        """All squares up to order 5 (161,280)."""
        return self._cells(all_squares(self.order)) if self.order <= MOST_LISTED else None

    def unlabelled(self) -> np.ndarray | None:
        """Squares whose first row is in order, up to order 5 (1,344); any symbols may be put for its own."""
        return self._cells(squares_in_order(self.order)) if self.order <= MOST_LISTED else None

    def redraw(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """Arm indices of ``draws`` uniform squares, shape (draws, cells)."""
        return self._cells(draw_squares(self.order, rng, draws))

    def _cells(self, squares: np.ndarray) -> np.ndarray:
        return squares[:, self.row, self.column]

    def groups(self) -> dict[str, np.ndarray]:
        """Rows and columns."""
        return {"row": self.row, "column": self.column}


@dataclass(frozen=True)
class IncompleteBlocks:
    """Blocks that hold some of the arms: labels, order of blocks and places in blocks are drawn.

    Which arms share a block is kept up to the labels; sets of arms move only between blocks of one size.

    Attributes
    ----------
    arm, block : ndarray of int, shape (units,)
    """

    arm: np.ndarray
    block: np.ndarray

    @cached_property
    def _members(self) -> list[np.ndarray]:
        return [np.flatnonzero(self.block == b) for b in range(int(self.block.max()) + 1)]

    def assignments(self) -> int:
        """Ways to draw labels, blocks and places; some give the same assignment."""
        sizes = np.array([m.size for m in self._members])
        return (
            prod(factorial(int((sizes == s).sum())) for s in np.unique(sizes))
            * prod(factorial(int(s)) for s in sizes)
            * factorial(int(self.arm.max()) + 1)
        )

    def every(self) -> np.ndarray | None:
        """All ways up to 200,000, each as likely; some give the same assignment."""
        ways = self.unlabelled()
        if ways is None:
            return None
        labels = np.array(list(permutations(range(int(self.arm.max()) + 1))))
        return np.concatenate([named[ways] for named in labels])

    def unlabelled(self) -> np.ndarray | None:
        """The same with the arms' names as they are: only blocks and places drawn."""
        if self.assignments() > MOST_ENUMERATED:
            return None
        sizes = np.array([m.size for m in self._members])
        parts, where = [], []
        for size in np.unique(sizes):
            same = np.flatnonzero(sizes == size)
            places = np.array([self._members[b] for b in same])
            orders = np.array(list(permutations(range(same.size))))
            inside = np.array(list(permutations(range(int(size)))))
            held = self.arm[places][orders]  # orders, blocks, places
            drawn = product_of([np.arange(orders.shape[0])[:, None], *[inside] * same.size])
            which = drawn[0][:, 0]
            parts.append(
                np.hstack([np.take_along_axis(held[which, b], order, axis=1) for b, order in enumerate(drawn[1:])])
            )
            where.append(places.ravel())
        mixed = product_of(parts)
        found = np.empty((mixed[0].shape[0], self.arm.size), dtype=np.int16)
        for places, part in zip(where, mixed, strict=True):
            found[:, places] = part
        return found

    def redraw(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """Arm indices of ``draws`` fresh draws, shape (draws, units)."""
        drawn = np.empty((draws, self.arm.size), dtype=np.intp)
        sizes = np.array([m.size for m in self._members])
        for size in np.unique(sizes):
            same = np.flatnonzero(sizes == size)
            places = np.array([self._members[b] for b in same])
            order = np.argsort(rng.random((draws, same.size)), axis=1)
            drawn[:, places] = rng.permuted(self.arm[places][order], axis=2)
        labels = np.argsort(rng.random((draws, int(self.arm.max()) + 1)), axis=1)
        return np.take_along_axis(labels, drawn, axis=1)

    def groups(self) -> dict[str, np.ndarray]:
        """The blocks."""
        return {"block": self.block}


@dataclass(frozen=True)
class SplitPlot:
    """One factor on whole plots, the combinations of the others inside each.

    Attributes
    ----------
    whole, sub, plot : ndarray of int, shape (units,)
        Level of the whole-plot factor, combination of the other levels, and whole plot of each unit.
    arms : ndarray of int, shape (whole levels, sub combinations)
        Arm index of each combination.
    """

    whole: np.ndarray
    sub: np.ndarray
    plot: np.ndarray
    arms: np.ndarray

    @property
    def arm(self) -> np.ndarray:
        """Arm index of each unit as drawn."""
        found: np.ndarray = self.arms[self.whole, self.sub]
        return found

    @property
    def block(self) -> np.ndarray:
        """The whole plot."""
        return self.plot

    @cached_property
    def whole_plots(self) -> ShuffledWithin:
        """The draw of the whole-plot factor: one entry a whole plot."""
        firsts = np.unique(self.plot, return_index=True)[1]
        return ShuffledWithin(self.whole[firsts], np.zeros(firsts.size, dtype=int))

    @property
    def sub_plots(self) -> ShuffledWithin:
        """The draw inside the whole plots."""
        return ShuffledWithin(self.sub, self.plot, "whole plot")

    def assignments(self) -> int:
        """Assignments of whole plots times those inside them."""
        return self.whole_plots.assignments() * self.sub_plots.assignments()

    def every(self) -> np.ndarray | None:
        """Not listed: each factor is tested on its own part of the draw."""
        return None

    def unlabelled(self) -> np.ndarray | None:
        """Not listed either."""
        return None

    def redraw(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """Arm indices of ``draws`` fresh draws, shape (draws, units)."""
        whole = self.whole_plots.redraw(rng, draws)[:, self.plot]
        found: np.ndarray = self.arms[whole, self.sub_plots.redraw(rng, draws)]
        return found

    def groups(self) -> dict[str, np.ndarray]:
        """The whole plots."""
        return {"whole plot": self.plot}
