"""A family of comparisons: adjusted for one another by Holm, or jointly, and each judged."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from itertools import combinations

from orderly_bench.core.judgement.comparisons import JOINT, Comparison, Ends, NotWorse, PairEvidence, sign_of
from orderly_bench.core.judgement.range import Range
from orderly_bench.core.judgement.verdict import LEAST_FOR_SAME, Rule, Verdict, decide
from orderly_bench.core.methods.holm import holm
from orderly_bench.core.methods.rates import Interval

#: The p of a pair, by its place in the family, as seen or at one end of its unknown outcomes.
Joint = Callable[[int, int | None], float]


def compare_family(
    pairs: list[PairEvidence],
    rule: Rule,
    ends: dict[int, Ends] | None = None,
    not_worse: bool = False,
    joint: Joint | None = None,
) -> list[Comparison]:
    """Compare every pair of a family; ``rule.family`` is replaced by the number of pairs.

    Parameters
    ----------
    pairs : list of PairEvidence
    rule : Rule
    ends : dict, optional
        Of the pairs with unknown outcomes, the evidence at both ends; the other pairs stay as they are.
    not_worse : bool
        Add whether a is not worse than b by more than the margin.
    joint : callable, optional
        Adjusted p of a pair from one joint redraw in Holm's place, never below the pair's own; at an end of its unknown outcomes it is
        asked for where Holm's does not settle it.
    """
    rule = replace(rule, family=max(1, sum(pair.joined for pair in pairs)))
    raw = [pair.test.p for pair in pairs]
    adjusted = (
        holm(raw) if joint is None else [None if p is None else max(p, joint(i, None)) for i, p in enumerate(raw)]
    )
    found = [_compare(pair, p, rule, not_worse) for pair, p in zip(pairs, adjusted, strict=True)]
    if joint is not None:
        found = [replace(one, adjusted_by=JOINT) for one in found]
    for i, both in (ends or {}).items():
        judged = []
        for which, end in enumerate(both):
            p = holm([*raw[:i], end.test.p, *raw[i + 1 :]])[i]
            own = end.test.p
            if joint is not None and p is not None and own is not None and own < rule.alpha <= p:
                p = max(own, joint(i, which))
            judged.append(_compare(end, p, rule, False))
        found[i] = replace(found[i], range=_range(pairs[i], judged[0], judged[1]))
    return found


def adjusted_alike(comparisons: Sequence[Comparison], found: Sequence[float | None]) -> list[float | None]:
    """The p of another reading of the same comparisons, adjusted as theirs are: by Holm; after a joint redraw by the same factor each."""
    if not any(c.adjusted_by == JOINT for c in comparisons):
        return holm(found)
    return [
        p if p is None or not c.p or c.p_adjusted is None else min(1.0, p * c.p_adjusted / c.p)
        for c, p in zip(comparisons, found, strict=True)
    ]


def _range(pair: PairEvidence, low: Comparison, high: Comparison) -> Range:
    return Range(
        pair.a.unknown + pair.b.unknown,
        low.difference.estimate,
        high.difference.estimate,
        low.p_adjusted,
        high.p_adjusted,
        low.verdict,
        high.verdict,
        (sign_of(low.above), sign_of(high.above)),
    )


def _compare(pair: PairEvidence, adjusted: float | None, rule: Rule, not_worse: bool) -> Comparison:
    def at(level: float) -> Interval | None:
        return pair.effect(level).interval if 0 < level < 1 else None

    def for_same(level: float) -> Interval | None:
        return (pair.effect_for_same or pair.effect)(level).interval if 0 < level < 1 else None

    difference = pair.effect(1 - rule.alpha)
    verdict = decide(adjusted, difference.estimate, at, rule, pair.fewest, for_same)
    hurdle_held = verdict is Verdict.SAME and not pair.rooting_allows(rule.alpha)
    ended = any(one.ends_the_same for one in pair.varies or ())
    if _apart_in_means(pair, rule):
        verdict = {Verdict.SAME: Verdict.NOT_SETTLED, Verdict.CLEAR_SMALL: Verdict.CLEAR_UNCERTAIN}.get(
            verdict, verdict
        )
    if verdict is Verdict.SAME and (hurdle_held or ended):
        verdict = Verdict.NOT_SETTLED
    may = not ended and pair.rooting_allows(rule.alpha)
    return Comparison(
        pair.a,
        pair.b,
        difference,
        at(rule.clear_level),
        for_same(rule.same_level),
        pair.test,
        adjusted,
        verdict,
        pair.odds_ratio,
        pair.units,
        pair.fewest,
        pair.adjusted,
        not_worse=_not_worse(pair, for_same(rule.same_level), rule, may) if not_worse else None,
        nothing=rule.nothing,
        limits=pair.limits,
        days=pair.days,
        factor=pair.factor,
        varies=pair.varies,
        hurdle=pair.hurdle,
        hurdle_held=hurdle_held,
        alpha=rule.alpha,
        joined=pair.joined,
        strata=pair.strata,
        adjusts_for=pair.adjusts_for,
    )


def _apart_in_means(pair: PairEvidence, rule: Rule) -> bool:
    """Whether means in the estimate's own unit lie a margin apart: a shift of mostly rootless cuttings is small whatever they do."""
    if pair.a.mean is None or pair.b.mean is None or rule.nothing != 0 or rule.inside_high is None:
        return False
    return abs(pair.a.mean - pair.b.mean) >= rule.inside_high


def _not_worse(pair: PairEvidence, interval: Interval | None, rule: Rule, may: bool) -> NotWorse | None:
    """The two-sided 1 - 2 alpha/c interval has the one-sided 1 - alpha/c lower limit as its low end."""
    if interval is None or rule.inside_low is None:
        return None
    return NotWorse(interval.low, may and pair.fewest >= LEAST_FOR_SAME and interval.low > rule.inside_low)


def chosen_pairs(arms: int, control: int | None) -> list[tuple[int, int]]:
    """All pairs of arms, or each arm with the control as second."""
    if control is None:
        return list(combinations(range(arms), 2))
    return [(a, control) for a in range(arms) if a != control]
