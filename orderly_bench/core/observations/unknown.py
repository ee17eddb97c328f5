"""Cuttings without a known outcome: what they could do to a comparison.

One end takes all of a's as the least they could have been and all of b's as the most, the other the reverse (Manski 1990, Am Econ
Rev 80:319, worst-case bounds). Each end is a whole analysis of the pair: its own estimate, test, interval and verdict.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from orderly_bench.core.observations.table import SIMPLY_OUT, Observations, Row


def unknown(row: Row) -> bool:
    """Whether a cutting was stuck and should have an outcome, but has none."""
    return not row.known and row.state not in SIMPLY_OUT


def filled(
    observations: Observations, low: Callable[[Row], bool], high: Callable[[Row], bool], ends: tuple[float, float]
) -> Observations:
    """The same cuttings, the unknown of some given the least and of others the most they could have been.

    Parameters
    ----------
    low, high : callable
        Which rows.
    ends : tuple of float
    """

    def outcome(row: Row) -> Row:
        if not unknown(row):
            return row
        if low(row):
            return replace(row, response=ends[0])
        return replace(row, response=ends[1]) if high(row) else row

    return Observations(
        observations.factors, observations.arms, observations.blocks, tuple(outcome(row) for row in observations.rows)
    )
