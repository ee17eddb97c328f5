"""Differences between the levels of one factor, over the others: the headline of a factorial without interaction.

Single cuttings: stratified by the other factors and block (Mantel-Haenszel). Where several cuttings, whole plots or waves make
one replicate: linear model on the means of what was drawn, with the strata of the draw.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from itertools import combinations

import numpy as np

from orderly_bench.core.compare import additive
from orderly_bench.core.compare.comparisons import Ends, Limits, PairEvidence, Side
from orderly_bench.core.compare.difference import Difference, mantel_haenszel, odds_ratio, standardised
from orderly_bench.core.compare.linear import ArmFit, fit_arms
from orderly_bench.core.compare.measured.measured import Measured
from orderly_bench.core.compare.observations import Observations, Row, spoken_level
from orderly_bench.core.compare.rate_effects import NO_VARIANCE, Effect, RateEffects
from orderly_bench.core.compare.rates import Interval
from orderly_bench.core.compare.unknown import filled
from orderly_bench.core.compare.what_was_drawn import for_all_arms, for_factor
from orderly_bench.core.messages.words import tell
from orderly_bench.core.randomise import permutation
from orderly_bench.core.randomise.hypergeometric import two_sided_p
from orderly_bench.core.randomise.randomisation import NOTHING_RANDOMISED, RandomisationTest
from orderly_bench.core.randomise.shuffled import ShuffledWithin


def level_pairs(observations: Observations) -> list[tuple[int, int, int]]:
    """Every pair of levels of every factor that can be told from the others, as (factor, a, b); one family over all factors."""
    if not observations.layout.by_level:
        return []
    return [
        (f, a, b)
        for f, names in enumerate(observations.level_names)
        if f not in observations.not_drawn and additive.estimable(observations.level_index, f)
        for a, b in combinations(range(len(names)), 2)
    ]


class Levels:
    """The evidence on pairs of levels of one set of observations.

    Parameters
    ----------
    measured : Measured
    rng : numpy.random.Generator
    draws : int
    """

    def __init__(self, measured: Measured, rng: np.random.Generator, draws: int) -> None:
        self.measured, self.observations = measured, measured.o
        self.rng, self.draws = rng, draws

    def evidence(self, factor: int, a: int, b: int, only: RandomisationTest | None = None) -> PairEvidence:
        """Levels a and b of a factor; ``only`` is the test of a factor with no other levels."""
        o, level = self.observations, [a, b]
        rooted, stuck, out = (table[:, level] for table in stratified(o, factor))
        (k_a, k_b), (n_a, n_b), (out_a, out_b) = (t.sum(axis=0).tolist() for t in (rooted, stuck, out))
        names = o.level_names[factor]
        said = [spoken_level(o.factors[factor], names[one]) for one in level]
        sides = Side(names[a], k_a, n_a, out_a, said=said[0]), Side(names[b], k_b, n_b, out_b, said=said[1])
        if additive.needs_all_factors(o, factor):
            found = self._with_all_factors(factor, a, b, sides, only)
        elif o.layout.shared:
            found = self._shared(factor, a, b, sides, only)
        else:
            found = self._single(sides, rooted, stuck)
        return replace(found, odds_ratio=odds_ratio(k_a, n_a, k_b, n_b))

    def _single(self, sides: tuple[Side, Side], rooted: np.ndarray, stuck: np.ndarray) -> PairEvidence:
        both = (stuck > 0).all(axis=1).any()
        test = RandomisationTest(two_sided_p(rooted, stuck) if both else None, True, None, float(sides[0].rooted))
        units = [side.stuck for side in sides]
        return PairEvidence(
            *sides,
            test,
            lambda level: mantel_haenszel(rooted, stuck, level),
            sum(units) / 2,
            min(units),
            adjusted=standardised(rooted, stuck),
        )

    def _shared(
        self, factor: int, a: int, b: int, sides: tuple[Side, Side], only: RandomisationTest | None
    ) -> PairEvidence:
        """Two levels by the means of the units, whole plots or waves that carried them."""
        drawn = for_factor(self.observations, factor)
        if drawn is None or not isinstance(drawn.layout, ShuffledWithin):
            raw = (sides[0].rate or 0.0) - (sides[1].rate or 0.0)
            code = self.observations.layout.unreplicated
            return PairEvidence(
                *sides, NOTHING_RANDOMISED, lambda _: Difference(raw, None, "rates"), 1.0, 1, limits=Limits((code,))
            )
        means, layout = drawn.means(self.measured.values), drawn.layout
        test = only or self._two_levels(means, layout, a, b)
        fitted = fit_arms(means, layout.arm, [layout.stratum])
        return self._linear(
            factor, a, b, sides, test, fitted, layout.arm, tell("linear model on what was drawn, t interval")
        )

    def _with_all_factors(
        self, factor: int, a: int, b: int, sides: tuple[Side, Side], only: RandomisationTest | None
    ) -> PairEvidence:
        """Two levels in a fraction of a factorial: all factors and blocks in the model of the unit means."""
        o, index, units = self.observations, self.observations.level_index, self.observations.units
        drawn = for_all_arms(o)
        test = NOTHING_RANDOMISED
        if drawn is not None:
            means = drawn.means(self.measured.values)
            smaller, larger = additive.alike(index, factor, a, b), additive.main_effects(index)
            test = only or additive.test(means, drawn.layout, smaller, larger, self.rng, self.draws)
        others = [index[units.arm, other] for other in range(index.shape[1]) if other != factor]
        own = index[units.arm, factor]
        fitted = fit_arms(units.mean, own, [units.stratum, *others])
        method = tell("linear model with all factors, t interval")
        found = self._linear(factor, a, b, sides, test, fitted, own, method)
        return replace(found, limits=Limits((), ("aliased_with_interaction",)))

    def _linear(
        self,
        factor: int,
        a: int,
        b: int,
        sides: tuple[Side, Side],
        test: RandomisationTest,
        fitted: ArmFit,
        labels: np.ndarray,
        method: str,
    ) -> PairEvidence:
        units = np.bincount(labels)[[a, b]]
        return PairEvidence(
            *sides,
            test,
            self._t_effect(factor, a, b, fitted, method),
            float(units.mean()),
            int(units.min()),
            adjusted=(fitted.mean(a), fitted.mean(b)),
        )

    def _t_effect(self, factor: int, a: int, b: int, fitted: ArmFit, method: str) -> Effect:
        estimate = fitted.difference(a, b)[0]
        marginal = RateEffects(by_factors(self.observations, (factor,)))

        def effect(level: float) -> Difference:
            half = fitted.t_half_width(a, b, level)
            if half is None or fitted.variance <= NO_VARIANCE:
                return marginal.squared_and_added(a, b, estimate, level)
            interval = Interval(max(-1.0, estimate - half), min(1.0, estimate + half), level)
            return Difference(max(-1.0, min(1.0, estimate)), interval, method)

        return effect

    def _two_levels(self, means: np.ndarray, layout: ShuffledWithin, a: int, b: int) -> RandomisationTest:
        kept = np.isin(layout.arm, [a, b])
        _, strata = np.unique(layout.stratum[kept], return_inverse=True)
        labels = (layout.arm[kept] == b).astype(int)
        return permutation.test(means[kept], ShuffledWithin(labels, strata), self.rng, self.draws)


def level_ends(measured: Measured, pair: tuple[int, int, int], rng: np.random.Generator, draws: int) -> Ends | None:
    """Both ends of what the unknown outcomes of two levels could have been; None when there are none, or no such ends."""
    observations, (factor, a, b) = measured.o, pair
    ends, out = measured.kind.ends, stratified(observations, factor)[2]
    if ends is None or not out[:, [a, b]].any():
        return None
    names = observations.level_names[factor]

    def having(level: int) -> Callable[[Row], bool]:
        return lambda row: row.levels[factor] == names[level]

    low, high = (
        Levels(measured.over(filled(observations, having(against), having(for_it), ends)), rng, draws).evidence(
            factor, a, b
        )
        for against, for_it in ((a, b), (b, a))
    )
    return low, high


def stratified(observations: Observations, factor: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Counts per (other factors x block) and level of one factor: rooted, stuck, left out."""
    index = observations.level_index
    others = np.delete(index, factor, axis=1)
    strata = sorted({tuple(row) for row in others.tolist()})
    levels = len(observations.level_names[factor])
    tables = []
    for source in (observations.rooted, observations.stuck, observations.left_out):
        table = np.zeros((len(strata) * source.shape[0], levels), dtype=int)
        for arm, (other, level) in enumerate(zip(others.tolist(), index[:, factor].tolist(), strict=True)):
            start = strata.index(tuple(other)) * source.shape[0]
            table[start : start + source.shape[0], level] += source[:, arm]
        tables.append(table)
    return tables[0], tables[1], tables[2]


def by_factors(observations: Observations, factors: tuple[int, ...]) -> Observations:
    """The same cuttings with some of the factors alone as their arm."""
    rows = tuple(replace(row, levels=tuple(row.levels[f] for f in factors)) for row in observations.rows)
    arms = tuple(dict.fromkeys(tuple(arm[f] for f in factors) for arm in observations.arms))
    return Observations(tuple(observations.factors[f] for f in factors), arms, observations.blocks, rows)
