"""Families of comparisons between arms, or between levels of a factor, of single cuttings."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from orderly_bench.core.compare.difference import Difference, mantel_haenszel, newcombe, odds_ratio
from orderly_bench.core.compare.holm import holm
from orderly_bench.core.compare.hypergeometric import two_sided_p
from orderly_bench.core.compare.missing import MissingRange, missing_range
from orderly_bench.core.compare.rates import Interval
from orderly_bench.core.compare.verdict import Rule, Verdict, decide, more_units_to_settle


@dataclass(frozen=True)
class Side:
    """One side of a comparison: its name and k of n."""

    name: str
    rooted: int
    stuck: int

    @property
    def rate(self) -> float | None:
        """k/n, None when n is 0."""
        return self.rooted / self.stuck if self.stuck else None


@dataclass(frozen=True)
class Comparison:
    """Rate(a) - rate(b).

    ``difference`` holds the plain 1 - alpha interval; ``simultaneous`` the 1 - alpha/c interval the
    verdict used; ``same`` the 1 - 2 alpha/c one.
    """

    a: Side
    b: Side
    difference: Difference
    simultaneous: Interval | None
    same: Interval | None
    p: float | None
    p_adjusted: float | None
    verdict: Verdict
    odds_ratio: float | None
    missing: MissingRange | None
    more_units: int | None


def estimate_difference(rooted: np.ndarray, stuck: np.ndarray, blocked: bool, level: float) -> Difference:
    """The difference for the layout: stratified when blocked, else hybrid score."""
    if blocked:
        return mantel_haenszel(rooted, stuck, level)
    (k_a, k_b), (n_a, n_b) = rooted.sum(axis=0).tolist(), stuck.sum(axis=0).tolist()
    return newcombe(k_a, n_a, k_b, n_b, level)


def interval_at(rooted: np.ndarray, stuck: np.ndarray, blocked: bool, level: float) -> Interval | None:
    """The interval of the difference at any level; none at or below confidence 0."""
    return estimate_difference(rooted, stuck, blocked, level).interval if level > 0 else None


@dataclass(frozen=True)
class Pair:
    """Counts of two sides, shape (strata, 2), before the family is known."""

    names: tuple[str, str]
    rooted: np.ndarray
    stuck: np.ndarray
    left_out: np.ndarray
    blocked: bool


def compare_family(pairs: list[Pair], alpha: float, margin: float | None) -> list[Comparison]:
    """Compare every pair of a family, Holm adjusted, with simultaneous intervals for the verdict.

    Parameters
    ----------
    pairs : list of Pair
        All pairs, or each arm against the control.
    alpha : float
    margin : float or None
        Smallest difference that matters, as a proportion.
    """
    rule = Rule(alpha, max(1, len(pairs)), 0.0, None if margin is None else -margin, margin)
    p_values: list[float | None] = [
        two_sided_p(pair.rooted, pair.stuck) if pair.stuck.sum(axis=0).min() > 0 else None for pair in pairs
    ]
    return [
        _compare(pair, p, adjusted, rule) for pair, p, adjusted in zip(pairs, p_values, holm(p_values), strict=True)
    ]


def _compare(pair: Pair, p: float | None, adjusted: float | None, rule: Rule) -> Comparison:
    def at(level: float) -> Interval | None:
        return interval_at(pair.rooted, pair.stuck, pair.blocked, level)

    difference = estimate_difference(pair.rooted, pair.stuck, pair.blocked, 1 - rule.alpha)
    verdict = decide(adjusted, difference.estimate, at, rule)
    (k_a, k_b), (n_a, n_b) = pair.rooted.sum(axis=0).tolist(), pair.stuck.sum(axis=0).tolist()
    more = None
    if verdict is Verdict.NOT_SETTLED and difference.estimate is not None:
        more = more_units_to_settle(difference.estimate, at(rule.clear_level), rule, (n_a + n_b) / 2)
    return Comparison(
        Side(pair.names[0], k_a, n_a),
        Side(pair.names[1], k_b, n_b),
        difference,
        at(rule.clear_level),
        at(rule.same_level),
        p,
        adjusted,
        verdict,
        odds_ratio(k_a, n_a, k_b, n_b),
        missing_range(pair.rooted, pair.stuck, pair.left_out, pair.blocked),
        more,
    )


def arm_pairs(
    names: list[str], rooted: np.ndarray, stuck: np.ndarray, left_out: np.ndarray, blocked: bool, control: int | None
) -> list[Pair]:
    """All pairs of arms, or each arm with the control when one is given."""
    chosen = [(a, b) for a, b in combinations(range(len(names)), 2) if control is None or control in (a, b)]
    pairs = []
    for a, b in chosen:
        if control is not None and a == control:
            a, b = b, a
        both = [a, b]
        pairs.append(Pair((names[a], names[b]), rooted[:, both], stuck[:, both], left_out[:, both], blocked))
    return pairs


def turned(comparison: Comparison) -> Comparison:
    """The same comparison with the higher side first, for sentences."""
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
