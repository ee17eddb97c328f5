"""Cuttings without a known outcome: what they could do to a comparison.

One end takes all of a's as the least they could have been and all of b's as the most, the other the reverse (Manski 1990, Am Econ
Rev 80:319, worst-case bounds). Each end is a whole analysis of the pair: its own estimate, test, interval and verdict.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from orderly_bench.core.compare.observations import SIMPLY_OUT, Observations, Row
from orderly_bench.core.compare.verdict import Verdict


@dataclass(frozen=True)
class Range:
    """From one end of the unknown to the other.

    Attributes
    ----------
    unknown : int
        Unknown outcomes of the two sides.
    low, high : float or None
        The estimate with a's unknown all against and b's all for it, and the reverse.
    p_low, p_high : float or None
        The adjusted p at those ends.
    verdict_low, verdict_high : Verdict
    """

    unknown: int
    low: float | None
    high: float | None
    p_low: float | None
    p_high: float | None
    verdict_low: Verdict
    verdict_high: Verdict
    directions: tuple[int, int]

    @property
    def holds(self) -> bool:
        """Whether both ends say the same: clear in one direction, or practically the same."""
        if self.verdict_low.clear and self.verdict_high.clear:
            return self.directions[0] == self.directions[1] != 0
        return self.verdict_low is self.verdict_high is Verdict.SAME


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
