"""Differences between the levels of one factor, over the others: the headline of a factorial without interaction.

Single cuttings: stratified by the other factors and block (Mantel-Haenszel). Where several cuttings, whole plots or waves make
one replicate: linear model on the means of what was drawn, with the strata of the draw.
"""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations

import numpy as np

from orderly_bench.core.compare import additive
from orderly_bench.core.compare.comparisons import PairEvidence, Side
from orderly_bench.core.compare.difference import Difference, mantel_haenszel, odds_ratio
from orderly_bench.core.compare.effects import NO_VARIANCE, Effect, Effects
from orderly_bench.core.compare.layout_tests import NOTHING_RANDOMISED, values_of
from orderly_bench.core.compare.linear import ArmFit, fit_arms
from orderly_bench.core.compare.missing import missing_range
from orderly_bench.core.compare.observations import Observations
from orderly_bench.core.compare.rates import Interval
from orderly_bench.core.compare.responses import Response
from orderly_bench.core.compare.what_was_drawn import Drawn, for_all_arms, for_factor
from orderly_bench.core.randomise import permutation
from orderly_bench.core.randomise.hypergeometric import two_sided_p
from orderly_bench.core.randomise.layouts import ShuffledWithin
from orderly_bench.core.randomise.randomisation import RandomisationTest


def level_contrasts(
    observations: Observations,
    response: Response,
    tests: dict[str, RandomisationTest],
    rng: np.random.Generator,
    draws: int,
) -> list[tuple[str, PairEvidence]]:
    """Every pair of levels of every factor, as (factor, evidence); one family over all factors.

    Parameters
    ----------
    tests : dict
        The test of each factor: that of a factor's only two levels is the same one.
    """
    shared = observations.clustered or observations.grouped
    if observations.latin or observations.paired or (observations.incomplete and shared):
        return []
    found = []
    for f, factor in enumerate(observations.factors):
        if f in observations.not_drawn:
            continue
        tables = stratified(observations, f)
        drawn = for_factor(observations, f) if shared else None
        fraction = additive.needs_all_factors(observations, f)
        only = tests.get(factor) if tables[0].shape[1] == 2 else None
        for a, b in combinations(range(tables[0].shape[1]), 2):
            two = [t[:, [a, b]] for t in tables]
            if fraction:
                pair = _with_all_factors(observations, f, a, b, response, only, rng, draws, two)
            elif shared:
                pair = _shared_contrast(observations, f, a, b, drawn, response, only, rng, draws, two)
            else:
                pair = _contrast(observations.level_names[f], a, b, *two)
            found.append((factor, pair))
    return found


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


def _contrast(
    names: list[str], a: int, b: int, rooted: np.ndarray, stuck: np.ndarray, left_out: np.ndarray
) -> PairEvidence:
    (k_a, k_b), (n_a, n_b) = rooted.sum(axis=0).tolist(), stuck.sum(axis=0).tolist()
    both = (stuck > 0).all(axis=1).any()
    test = RandomisationTest(two_sided_p(rooted, stuck) if both else None, True, None, float(k_a))
    return PairEvidence(
        Side(names[a], k_a, n_a),
        Side(names[b], k_b, n_b),
        test,
        lambda level: mantel_haenszel(rooted, stuck, level),
        (n_a + n_b) / 2,
        min(n_a, n_b),
        odds_ratio(k_a, n_a, k_b, n_b),
        missing_range(rooted, stuck, left_out, True),
    )


def _shared_contrast(
    observations: Observations,
    factor: int,
    a: int,
    b: int,
    drawn: Drawn | None,
    response: Response,
    only: RandomisationTest | None,
    rng: np.random.Generator,
    draws: int,
    tables: list[np.ndarray],
) -> PairEvidence:
    """Two levels by the means of the units, whole plots or waves that carried them."""
    names = observations.level_names[factor]
    (k_a, k_b), (n_a, n_b) = (t.sum(axis=0).tolist() for t in tables[:2])
    sides = Side(names[a], k_a, n_a), Side(names[b], k_b, n_b)
    if drawn is None or not isinstance(drawn.layout, ShuffledWithin):
        return PairEvidence(
            *sides, NOTHING_RANDOMISED, lambda _: Difference(k_a / n_a - k_b / n_b, None, "rates"), 1.0, 1
        )
    means, layout = drawn.means(values_of(observations, response)), drawn.layout
    test = only or _two_levels(means, layout, a, b, rng, draws)
    fitted = fit_arms(means, layout.arm, [layout.stratum])
    effect = _t_effect(observations, factor, a, b, response, fitted, "linear model on what was drawn, t interval")
    units = np.bincount(layout.arm)[[a, b]]
    return PairEvidence(*sides, test, effect, float(units.mean()), int(units.min()), odds_ratio(k_a, n_a, k_b, n_b))


def _with_all_factors(
    observations: Observations,
    factor: int,
    a: int,
    b: int,
    response: Response,
    only: RandomisationTest | None,
    rng: np.random.Generator,
    draws: int,
    tables: list[np.ndarray],
) -> PairEvidence:
    """Two levels in a fraction of a factorial: all factors and blocks in the model of the unit means."""
    names, index, units = observations.level_names[factor], observations.level_index, observations.units
    (k_a, k_b), (n_a, n_b) = (t.sum(axis=0).tolist() for t in tables[:2])
    drawn = for_all_arms(observations)
    if drawn is None:
        test = NOTHING_RANDOMISED
    else:
        means = drawn.means(values_of(observations, response))
        smaller, larger = additive.alike(index, factor, a, b), additive.main_effects(index)
        test = only or additive.test(means, drawn.layout, smaller, larger, rng, draws)
    others = [index[units.arm, other] for other in range(index.shape[1]) if other != factor]
    fitted = fit_arms(units.mean, index[units.arm, factor], [units.stratum, *others])
    effect = _t_effect(observations, factor, a, b, response, fitted, "linear model with all factors, t interval")
    count = np.bincount(index[units.arm, factor])[[a, b]]
    sides = Side(names[a], k_a, n_a), Side(names[b], k_b, n_b)
    return PairEvidence(*sides, test, effect, float(count.mean()), int(count.min()), odds_ratio(k_a, n_a, k_b, n_b))


def _t_effect(
    observations: Observations, factor: int, a: int, b: int, response: Response, fitted: ArmFit, method: str
) -> Effect:
    estimate = fitted.difference(a, b)[0]
    marginal = Effects(by_factors(observations, (factor,)), response)

    def effect(level: float) -> Difference:
        half = fitted.t_half_width(a, b, level)
        if half is None or fitted.variance <= NO_VARIANCE:
            return marginal.squared_and_added(a, b, estimate, level)
        interval = Interval(max(-1.0, estimate - half), min(1.0, estimate + half), level)
        return Difference(max(-1.0, min(1.0, estimate)), interval, method)

    return effect


def _two_levels(
    means: np.ndarray, layout: ShuffledWithin, a: int, b: int, rng: np.random.Generator, draws: int
) -> RandomisationTest:
    kept = np.isin(layout.arm, [a, b])
    _, strata = np.unique(layout.stratum[kept], return_inverse=True)
    return permutation.test(means[kept], ShuffledWithin((layout.arm[kept] == b).astype(int), strata), rng, draws)


def by_factors(observations: Observations, factors: tuple[int, ...]) -> Observations:
    """The same cuttings with some of the factors alone as their arm."""
    rows = tuple(replace(row, levels=tuple(row.levels[f] for f in factors)) for row in observations.rows)
    arms = tuple(dict.fromkeys(tuple(arm[f] for f in factors) for arm in observations.arms))
    return Observations(tuple(observations.factors[f] for f in factors), arms, observations.blocks, rows)
