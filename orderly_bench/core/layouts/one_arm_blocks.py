"""Blocks that hold one arm only say nothing about a difference: set aside before anything else, the layout's name included."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.observations.table import NOT_STUCK, Observations


@dataclass(frozen=True)
class SetAside:
    """What is left to compare, the blocks set aside, and the cuttings in them.

    ``nothing_left`` when every block holds one arm: then nothing is set aside and nothing can be told.
    """

    kept: Observations
    blocks: tuple[str, ...]
    cuttings: int
    nothing_left: bool


def set_aside(observations: Observations) -> SetAside:
    """Drop the blocks in which a single arm was stuck, and the arms that stood nowhere else."""
    if not observations.blocks or not layout_of(observations).factors_in_strata:
        return SetAside(observations, (), 0, False)
    arms: dict[str, set[tuple[str, ...]]] = {}
    for row in observations.rows:
        if row.state != NOT_STUCK:
            arms.setdefault(row.block or "", set()).add(row.levels)
    alone = {block for block, held in arms.items() if len(held) < 2}
    if not alone:
        return SetAside(observations, (), 0, False)
    if alone == set(arms):
        return SetAside(observations, (), 0, True)
    rows = tuple(row for row in observations.rows if row.block not in alone)
    left = {row.levels for row in rows if row.known}
    kept = Observations(
        observations.factors,
        tuple(arm for arm in observations.arms if arm in left),
        tuple(block for block in observations.blocks if block not in alone),
        tuple(row for row in rows if row.levels in left),
    )
    if len(kept.arms) < 2:
        return SetAside(observations, (), 0, True)
    aside = sum(row.block in alone and row.state != NOT_STUCK for row in observations.rows)
    return SetAside(kept, tuple(b for b in observations.blocks if b in alone), aside, False)
