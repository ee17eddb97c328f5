"""A family of comparisons: Holm adjusted, with simultaneous intervals for the verdict."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from itertools import combinations

from orderly_bench.core.compare.difference import Difference
from orderly_bench.core.compare.holm import holm
from orderly_bench.core.compare.missing import MissingRange
from orderly_bench.core.compare.rates import Interval
from orderly_bench.core.compare.verdict import Rule, Verdict, decide, more_units_to_settle
from orderly_bench.core.randomise.randomisation import RandomisationTest


@dataclass(frozen=True)
class Side:
    """One side of a comparison: its name and k of n; ``rooted`` is what counts as 1, or a sum."""

    name: str
    rooted: int
    stuck: int

    @property
    def rate(self) -> float | None:
        """k/n, None when n is 0."""
        return self.rooted / self.stuck if self.stuck else None


@dataclass(frozen=True)
class PairEvidence:
    """Two sides before the family is known.

    ``effect`` gives the estimate with its interval at any confidence; ``units`` is the mean number of units a side,
    ``fewest`` that of the side with fewer.
    """

    a: Side
    b: Side
    test: RandomisationTest
    effect: Callable[[float], Difference]
    units: float
    fewest: int
    odds_ratio: float | None = None
    missing: MissingRange | None = None
    extras: dict[str, float | None] = field(default_factory=dict)


#: As a proportion: farther than this from the raw counts, an adjusted difference says so.
FAR_FROM_RAW = 0.05


@dataclass(frozen=True)
class Comparison:
    """a against b.

    ``difference`` holds the plain 1 - alpha interval; ``simultaneous`` the 1 - alpha/c interval the
    verdict used; ``same`` the 1 - 2 alpha/c one.
    """

    a: Side
    b: Side
    difference: Difference
    simultaneous: Interval | None
    same: Interval | None
    test: RandomisationTest
    p_adjusted: float | None
    verdict: Verdict
    odds_ratio: float | None
    missing: MissingRange | None
    more_units: int | None
    extras: dict[str, float | None] = field(default_factory=dict)

    @property
    def p(self) -> float | None:
        """The unadjusted p."""
        return self.test.p

    @property
    def raw(self) -> float | None:
        """Difference of the counts as they are, k/n of a minus k/n of b; None when a side is empty."""
        a, b = self.a.rate, self.b.rate
        return None if a is None or b is None else a - b

    @property
    def reversed_by_adjustment(self) -> bool:
        """Whether the estimate and the raw counts point in different directions."""
        estimate = self.difference.estimate
        return self.raw is not None and estimate is not None and self.raw * estimate < 0

    @property
    def far_from_raw(self) -> bool:
        """Whether the estimate, adjusted for the layout, lies over 5 points from the raw counts or points the other way."""
        estimate = self.difference.estimate
        away = self.raw is not None and estimate is not None and abs(self.raw - estimate) > FAR_FROM_RAW
        return away or self.reversed_by_adjustment


def compare_family(pairs: list[PairEvidence], rule: Rule) -> list[Comparison]:
    """Compare every pair of a family; ``rule.family`` is replaced by the number of pairs."""
    rule = replace(rule, family=max(1, len(pairs)))
    adjusted = holm([pair.test.p for pair in pairs])
    return [_compare(pair, p, rule) for pair, p in zip(pairs, adjusted, strict=True)]


def _compare(pair: PairEvidence, adjusted: float | None, rule: Rule) -> Comparison:
    def at(level: float) -> Interval | None:
        return pair.effect(level).interval if 0 < level < 1 else None

    difference = pair.effect(1 - rule.alpha)
    verdict = decide(adjusted, difference.estimate, at, rule, pair.fewest)
    more = None
    if verdict is Verdict.NOT_SETTLED and adjusted is not None and difference.estimate is not None:
        more = more_units_to_settle(difference.estimate, at(rule.clear_level), rule, pair.units)
    return Comparison(
        pair.a,
        pair.b,
        difference,
        at(rule.clear_level),
        at(rule.same_level),
        pair.test,
        adjusted,
        verdict,
        pair.odds_ratio,
        pair.missing,
        more,
        pair.extras,
    )


def chosen_pairs(arms: int, control: int | None) -> list[tuple[int, int]]:
    """All pairs of arms, or each arm with the control as second."""
    if control is None:
        return list(combinations(range(arms), 2))
    return [(a, control) for a in range(arms) if a != control]


def turned(comparison: Comparison) -> Comparison:
    """The same difference with the higher side first, for sentences."""
    d = comparison.difference
    if d.estimate is None or d.estimate >= 0:
        return comparison

    def flip(interval: Interval | None) -> Interval | None:
        return interval and Interval(-interval.high, -interval.low, interval.level)

    m = comparison.missing
    return replace(
        comparison,
        a=comparison.b,
        b=comparison.a,
        difference=Difference(-d.estimate, flip(d.interval), d.method),
        simultaneous=flip(comparison.simultaneous),
        same=flip(comparison.same),
        odds_ratio=1 / comparison.odds_ratio if comparison.odds_ratio else None,
        missing=m and MissingRange(m.left_out_b, m.left_out_a, -m.high, -m.low, m.p_high, m.p_low),
    )
