"""The table an analysis works on: one row per cutting, in arms and blocks."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.vocabulary import State

JOINER = " + "


def natural_key(text: str) -> tuple[object, ...]:
    """Sort key that puts ``300 ppm`` before ``1000 ppm``."""
    return tuple(
        (0, int(part), "") if part.isdigit() else (1, 0, part.casefold()) for part in re.split(r"(\d+)", text) if part
    )


@dataclass(frozen=True)
class Row:
    """One cutting as read. ``response`` None means left out, with ``state`` saying why."""

    levels: tuple[str, ...]
    response: float | None
    block: str | None = None
    state: str = ""
    line: int = 0


@dataclass(frozen=True)
class Observations:
    """Rows arranged for analysis.

    Attributes
    ----------
    factors : tuple of str
    arms : tuple of tuple of str
        Level values of each arm, naturally sorted.
    blocks : tuple of str
        Empty without blocks.
    """

    factors: tuple[str, ...]
    arms: tuple[tuple[str, ...], ...]
    blocks: tuple[str, ...]
    rows: tuple[Row, ...] = field(repr=False)

    @property
    def names(self) -> list[str]:
        """Arm names: level values joined by ``+`` in factor order."""
        return [JOINER.join(arm) for arm in self.arms]

    @cached_property
    def level_names(self) -> list[list[str]]:
        """Levels of each factor, naturally sorted."""
        return [sorted({arm[f] for arm in self.arms}, key=natural_key) for f in range(len(self.factors))]

    @cached_property
    def level_index(self) -> np.ndarray:
        """Level index of each arm in each factor, shape (arms, factors)."""
        return np.array([[names.index(arm[f]) for f, names in enumerate(self.level_names)] for arm in self.arms])

    def _table(self, weight: Mapping[int, int]) -> np.ndarray:
        arm_of = {arm: i for i, arm in enumerate(self.arms)}
        block_of = {block: i for i, block in enumerate(self.blocks)}
        table = np.zeros((max(1, len(self.blocks)), len(self.arms)), dtype=int)
        for i, row in enumerate(self.rows):
            table[block_of.get(row.block or "", 0), arm_of[row.levels]] += weight[i]
        return table

    @cached_property
    def stuck(self) -> np.ndarray:
        """Cuttings with a known outcome per block and arm, shape (strata, arms)."""
        return self._table({i: int(row.response is not None) for i, row in enumerate(self.rows)})

    @cached_property
    def rooted(self) -> np.ndarray:
        """Cuttings rooted per block and arm, shape (strata, arms)."""
        return self._table({i: int(row.response or 0) for i, row in enumerate(self.rows)})

    @cached_property
    def left_out(self) -> np.ndarray:
        """Cuttings left out per block and arm, shape (strata, arms); those sampled by design are simply out."""
        return self._table(
            {i: int(row.response is None and row.state != State.SAMPLED) for i, row in enumerate(self.rows)}
        )


def arrange(factors: Sequence[str], rows: Sequence[Row]) -> Observations:
    """Arrange rows into observations.

    Raises
    ------
    UnusableData
        No rows, one arm, an arm without an examined cutting, or rows with and without a block.
    """
    if not rows:
        raise UnusableData("the table has no cuttings", "Add one row per cutting under the header")
    arms = sorted({row.levels for row in rows}, key=lambda arm: tuple(natural_key(level) for level in arm))
    if len(arms) < 2:
        raise UnusableData(
            f"all cuttings are in one arm ({JOINER.join(arms[0])})",
            "A comparison needs two; check the factor columns",
            column=",".join(factors),
        )
    blocks = sorted({row.block for row in rows if row.block is not None}, key=natural_key)
    for row in rows:
        if blocks and row.block is None:
            raise UnusableData("no block is given", "Fill the block for every cutting", row=row.line or None)
    for arm in arms:
        if all(row.response is None for row in rows if row.levels == arm):
            raise UnusableData(
                f"arm {JOINER.join(arm)} has no cutting with a known outcome",
                "Score it, or leave its rows out of the file",
            )
    return Observations(tuple(factors), tuple(arms), tuple(blocks), tuple(rows))
