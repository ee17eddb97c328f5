"""The verdict on one comparison: never more than the evidence.

Read from the top: clear and large, clear but small, clear with size uncertain, practically the same
(two one-sided tests, Schuirmann 1987, J Pharmacokinet Biopharm 15:657), not settled.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from orderly_bench.core.methods.rates import Interval


class Verdict(StrEnum):
    """The grades, strongest first."""

    CLEAR_LARGE = "clear and large"
    CLEAR_PROBABLY_LARGE = "clear, probably large"
    CLEAR_SMALL = "clear but small"
    CLEAR_UNCERTAIN = "clear, size uncertain"
    SAME = "practically the same"
    NOT_SETTLED = "not settled"

    @property
    def clear(self) -> bool:
        """Whether a difference was found."""
        return self.value.startswith("clear")

    @property
    def alike(self) -> bool:
        """Whether any difference was shown to be smaller than the margin."""
        return self is Verdict.SAME


@dataclass(frozen=True)
class Rule:
    """What decides: alpha, the margin in the unit of the estimate, comparisons in the family.

    ``nothing`` is the value that means no difference: 0 for differences, 1 for ratios, 0.5 for
    probabilities. ``inside_low`` and ``inside_high`` bound differences too small to matter; both
    None without a margin.
    """

    alpha: float
    family: int
    nothing: float = 0.0
    inside_low: float | None = None
    inside_high: float | None = None

    @property
    def clear_level(self) -> float:
        """Confidence of the simultaneous interval behind the clear grades: 1 - alpha / c."""
        return 1 - self.alpha / self.family

    @property
    def same_level(self) -> float:
        """Confidence of the interval behind *practically the same*: 1 - 2 alpha / c."""
        return 1 - 2 * self.alpha / self.family


IntervalAt = Callable[[float], Interval | None]


def _inside(interval: Interval | None, rule: Rule) -> bool:
    if interval is None or rule.inside_low is None or rule.inside_high is None:
        return False
    return rule.inside_low < interval.low and interval.high < rule.inside_high


#: Fewer units than this in an arm can't be called practically the same.
LEAST_FOR_SAME = 5


def decide(
    p_adjusted: float | None,
    estimate: float | None,
    interval_at: IntervalAt,
    rule: Rule,
    fewest: int,
    same_at: IntervalAt | None = None,
) -> Verdict:
    """Grade one comparison.

    Parameters
    ----------
    p_adjusted : float or None
        None (nothing was randomised, or an arm has one unit) can never be clear.
    estimate : float or None
    interval_at : callable
        The interval of the comparison at a given confidence level, or None where it has none.
    rule : Rule
    fewest : int
        Units of the arm that has fewer.
    same_at : callable, optional
        The interval that *practically the same* is held against, where it is another one.
    """
    if p_adjusted is not None and p_adjusted < rule.alpha:
        return _clear(estimate, interval_at(rule.clear_level), rule)
    if p_adjusted is not None and fewest >= LEAST_FOR_SAME and _inside((same_at or interval_at)(rule.same_level), rule):
        return Verdict.SAME
    return Verdict.NOT_SETTLED


def _clear(estimate: float | None, interval: Interval | None, rule: Rule) -> Verdict:
    if interval is None or interval.low <= rule.nothing <= interval.high:
        return Verdict.CLEAR_UNCERTAIN
    if rule.inside_low is None or rule.inside_high is None or estimate is None:
        return Verdict.CLEAR_UNCERTAIN
    if interval.low > rule.inside_high or interval.high < rule.inside_low:
        return Verdict.CLEAR_LARGE
    if estimate >= rule.inside_high or estimate <= rule.inside_low:
        return Verdict.CLEAR_PROBABLY_LARGE
    if _inside(interval, rule):
        return Verdict.CLEAR_SMALL
    return Verdict.CLEAR_UNCERTAIN
