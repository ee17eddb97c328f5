"""Whether a drawn layout lets every asked contrast be estimated at all, before anything is stuck."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.layouts.draws import told_apart
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.observations.table import Row


class Placed(NamedTuple):
    """The arm of a unit, its block, and its wave where whole waves carry a factor."""

    arm: int
    block: str
    wave: str | None = None


def arms_apart(
    factors: Sequence[str], levels: Sequence[tuple[str, ...]], placed: Sequence[Placed], by_factor: bool
) -> list[list[int]]:
    """Parts of the arms that no chain of blocks joins; empty where all are joined, or the factors asked about can be told all the same.

    Parameters
    ----------
    factors : sequence of str
    levels : sequence of tuple of str
        Of every arm.
    placed : sequence of Placed
        Every unit.
    by_factor : bool
        Whether the verdict speaks of factors.
    """
    rows = [Row(levels[unit.arm], 0.0, block=unit.block, wave=unit.wave) for unit in placed]
    if len({unit.arm for unit in placed}) < 2 or not factors:
        return []
    made = arrange(factors, rows)
    parts = layout_of(made).parts
    if not parts:
        return []
    told = len(factors) > 1 and made.every_combination and all(told_apart(made, f) for f in range(len(factors)))
    if by_factor and told:
        return []
    index = {arm: i for i, arm in enumerate(levels)}
    return sorted(sorted(index[made.arms[a]] for a in part.arms) for part in parts)
