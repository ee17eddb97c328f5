"""From one end of what the unknown outcomes could have been to the other."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.judgement.verdict import Verdict


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

    @property
    def parts_by(self) -> str:
        """How the ends part from what was seen: one side or the other is ahead, both say the same else, or each its own."""
        if self.verdict_low.clear and self.verdict_high.clear:
            return "direction"
        return "neither" if self.verdict_low is self.verdict_high else ""
