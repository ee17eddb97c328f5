"""Strength as a dose: does the response rise or fall with the number the level stands for?

Linear-by-linear association (Agresti 2013, *Categorical Data Analysis*, 3rd ed., sections 3.4 and 8.4): T is the sum of score x
value, the scores being the strengths as typed, permuted as they were drawn. One slope in the layout's model stands beside it.
A hump escapes a trend, so it is no gate to the other comparisons.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.judgement.dose_curve import DoseCurve, dose_curve, has_curve, strengths_of
from orderly_bench.core.judgement.dose_fits import OfMeans, OfRates, Quadratic
from orderly_bench.core.judgement.second_opinion import model_test
from orderly_bench.core.layouts.draws import for_factor
from orderly_bench.core.layouts.layout import NO_MODEL
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import permutation
from orderly_bench.core.methods import terms as factorial
from orderly_bench.core.methods.hypergeometric import TIE
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.methods.randomisation import NOTHING_RANDOMISED, RandomisationTest, monte_carlo_p
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.outcomes import Outcomes

CHUNK = 4_000_000


@dataclass(frozen=True)
class Trend:
    """A factor's scores by level, the randomisation test of their trend, the model's one slope, and the curve."""

    scores: dict[str, float]
    test: RandomisationTest
    model: ModelTest
    curve: DoseCurve | None = None


def scores_of(levels: list[str], factor: str) -> np.ndarray:
    """The strengths as numbers, in the order of the levels.

    Raises
    ------
    InvalidInput
        A level that is no number, or two that are the same number.
    """
    named = strengths_of(levels)
    if named is not None:
        return np.array(named)
    found = []
    for level in levels:
        try:
            score = float(level.replace(",", "."))
        except ValueError:
            score = float("nan")
        if not isfinite(score):
            raise InvalidInput(
                "dose",
                _(
                    "every level of {factor} must be a strength as a number, none as 0; one unit throughout",
                    factor=factor,
                ),
                level,
            )
        found.append(score)
    if len(set(found)) < len(found):
        raise InvalidInput("dose", _("two levels of {factor} are the same strength", factor=factor), ", ".join(levels))
    return np.array(found)


def trend(
    outcomes: Outcomes,
    factor: int,
    rng: np.random.Generator,
    draws: int,
    alpha: float = 0.05,
) -> Trend:
    """The trend of one factor.

    Notes
    -----
    Days to root have no trend: the rooted-days they are averaged over depend on the arms.
    """
    observations = outcomes.o
    names = observations.level_names[factor]
    scores = scores_of(names, observations.factors[factor])
    by_level = dict(zip(names, scores.tolist(), strict=True))
    drawn = for_factor(observations, factor)
    if drawn is None or not isinstance(drawn.layout, ShuffledWithin) or not outcomes.pooled:
        return Trend(by_level, NOTHING_RANDOMISED, NO_MODEL)
    layout = drawn.layout
    values, strength = outcomes.unit_scores(drawn), scores[layout.arm]
    test = trend_test(values, strength, layout.stratum, rng, draws)
    fitted: Quadratic | None = None
    if has_curve(scores):
        if outcomes.kind.yes_no:
            fitted = OfRates(observations, factor, scores)
        elif np.bincount(layout.arm).min() > 1:
            fitted = OfMeans(values, strength, layout.stratum)
    curve = dose_curve(fitted, scores, alpha, rng) if fitted is not None and fitted.told else None
    return Trend(by_level, test, _slope(outcomes, factor, scores), curve)


def trend_test(
    values: np.ndarray, scores: np.ndarray, stratum: np.ndarray, rng: np.random.Generator, draws: int
) -> RandomisationTest:
    """Two-sided test of T = sum of score x value, scores permuted within strata.

    Parameters
    ----------
    values, scores : ndarray of float, shape (units,)
    stratum : ndarray of int, shape (units,)
    """
    if not any(np.ptp(scores[stratum == s]) > 0 for s in np.unique(stratum)):
        return NOTHING_RANDOMISED
    if np.isin(values, (0.0, 1.0)).all() and values.any() and not values.all():
        # The sum of the scores of those that did, drawn from all: exact where it can be listed or convolved.
        found = permutation.test(scores, ShuffledWithin((values == 0).astype(int), stratum), rng, draws)
        if found.p is not None:
            return found
    observed, expected, totals = float(scores @ values), 0.0, np.zeros(draws)
    for s in np.unique(stratum):
        own, here = scores[stratum == s], values[stratum == s]
        expected += float(own.mean() * here.sum())
        step = max(1, CHUNK // own.size)
        for start in range(0, draws, step):
            size = min(step, draws - start)
            totals[start : start + size] += rng.permuted(np.tile(own, (size, 1)), axis=1) @ here
    limit = abs(observed - expected)
    hits = int((np.abs(totals - expected) >= limit - TIE * max(1.0, limit)).sum())
    return monte_carlo_p(hits, draws, observed)


def _slope(outcomes: Outcomes, factor: int, scores: np.ndarray) -> ModelTest:
    """One slope beside everything that does not hold the factor."""
    levels = outcomes.o.level_index
    others = [t for t in factorial.all_terms(levels.shape[1]) if factor not in t]
    smaller = factorial.design(levels, others, intercept=True)
    slope = scores[levels[:, factor]] / np.abs(scores).max()
    return model_test(outcomes, smaller, np.column_stack([smaller, slope]))
