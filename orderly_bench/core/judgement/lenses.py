"""Other lenses on the same data: classical tests, transformed analysis of variance, Bayesian, GEE, Firth."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations
from math import sqrt

import numpy as np

from orderly_bench.core.judgement.main_effects import stratified
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.methods import bayes, classical, firth, gee, transform
from orderly_bench.core.methods.classical import Classical
from orderly_bench.core.methods.clusters import design_effects
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.responses.outcomes_of import outcomes_of
from orderly_bench.core.responses.registry import kind_of

#: Units of an arm below which no posterior probability is given: the prior would speak for them.
LEAST_UNITS = 4


@dataclass(frozen=True)
class Lenses:
    """What other schools would compute; the primary analysis stays the one that decides.

    Attributes
    ----------
    classical : dict
        Test by name; ``cmh`` by factor in a factorial.
    firth : dict
        (a, b) arm indices to (log odds ratio, standard error), when an arm is at 0 or 100 %.
    bayes : dict
        (a, b) arm indices to the pair, where both have four units; ``p_best`` by arm, empty where one has fewer.
    """

    classical: dict[str, Classical]
    cmh_by_factor: dict[str, Classical]
    firth: dict[tuple[int, int], tuple[float, float]]
    gee: ModelTest | None
    theta: float | None
    transform: transform.Transformed | None
    bayes: dict[tuple[int, int], bayes.BayesPair]
    p_best: list[float]


def look_through(analysis: Analysis) -> Lenses:
    """Compute every lens that applies to the response and layout."""
    o = analysis.observations
    seen = outcomes_of(o, analysis.settings.response)
    textbook = seen.textbook(analysis.test) if len(analysis.observations.arms) > 1 else {}
    if not seen.kind.yes_no:
        return Lenses(textbook, {}, {}, None, seen.theta, None, {}, [])
    arms = len(o.arms)
    k, n = o.rooted.sum(axis=0).astype(float), o.stuck.sum(axis=0).astype(float)
    effects = np.array(design_effects(layout_of(o).replicates, arms)) if layout_of(o).shared else np.ones(arms)
    counts = [(float(a / d), float(b / d)) for a, b, d in zip(k, n, effects, strict=True)]
    enough = np.bincount(layout_of(o).replicates.arm, minlength=arms) >= LEAST_UNITS
    pairs = {
        (a, b): bayes.compare(counts[a], counts[b], analysis.settings.margin)
        for a, b in combinations(range(arms), 2)
        if enough[a] and enough[b]
    }
    transformed = None
    if layout_of(o).transforms:
        transformed = transform.arcsine(o.units.mean, o.units.arm, o.units.stratum if o.blocks else None)
    return Lenses(
        textbook, _cmh_by_factor(analysis), _firth(analysis), gee.robust_wald(o) if o.clustered else None, None, transformed, pairs, bayes.p_best(counts) if enough.all() else []
    )  # fmt: skip


def unconditional(analysis: Analysis) -> Classical | None:
    """Boschloo's test where it applies: two arms of single cuttings without blocks. Slower than the others, so apart."""
    o = analysis.observations
    plain = layout_of(o).tables and not o.blocks and kind_of(analysis.settings.response).yes_no
    return classical.boschloo(o.rooted[0], o.stuck[0]) if plain and len(o.arms) == 2 else None


def _cmh_by_factor(analysis: Analysis) -> dict[str, Classical]:
    o = analysis.observations
    if len(o.factors) < 2 or o.clustered or not layout_of(o).factors_in_strata:
        return {}
    found = {}
    for f, factor in enumerate(o.factors):
        rooted, stuck, _ = stratified(o, f)
        found[factor] = classical.cmh(rooted, stuck)
    return found


def _firth(analysis: Analysis) -> dict[tuple[int, int], tuple[float, float]]:
    o = analysis.observations
    k, n = o.rooted.sum(axis=0).astype(float), o.stuck.sum(axis=0).astype(float)
    if o.blocks or not layout_of(o).tables or not ((k == 0) | (k == n)).any():
        return {}
    fitted = firth.fit(np.eye(k.size), k, n)
    return {
        (a, b): (
            float(fitted.coefficients[a] - fitted.coefficients[b]),
            sqrt(float(fitted.covariance[a, a] + fitted.covariance[b, b] - 2 * fitted.covariance[a, b])),
        )
        for a, b in combinations(range(k.size), 2)
    }
