"""The randomisation tests of a response: unit values permuted as they were drawn."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.layouts.drawn import Drawn
from orderly_bench.core.layouts.draws import for_all_arms, for_factor, for_pair, needs_all_factors
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.layouts.layout import ArmsApart
from orderly_bench.core.methods import additive, redrawn
from orderly_bench.core.methods.randomisation import NOTHING_RANDOMISED, RandomisationTest
from orderly_bench.core.methods.redrawn import Pairs
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.outcomes import Outcomes


def overall_tests(outcomes: Outcomes, rng: np.random.Generator, draws: int) -> tuple[RandomisationTest, Pairs]:
    """Test that all arms are alike, no p when no single draw gave all arms; and, on the same redraws, of all pairs.

    Pairs are tested here where the whole layout is redrawn, in Latin squares and incomplete blocks; else there are none.
    """
    parts = layout_of(outcomes.o).parts
    if parts:
        return _of_parts(outcomes, parts, rng, draws)
    drawn = for_all_arms(outcomes.o)
    if drawn is None or isinstance(drawn.layout, ShuffledWithin) or not outcomes.ready:
        return _test(outcomes, drawn, rng, draws), {}
    return redrawn.tests(outcomes.unit_scores(drawn), drawn.layout, rng, draws)


def _of_parts(
    outcomes: Outcomes, parts: list[ArmsApart], rng: np.random.Generator, draws: int
) -> tuple[RandomisationTest, Pairs]:
    """Each part redrawn by itself, their statistics added; pairs of the parts that are redrawn whole."""
    scored, pairs = [], {}
    for part in parts:
        own = outcomes.over(part.observations)
        drawn = for_all_arms(own.o)
        if drawn is None or not own.ready:
            continue
        scored.append((own.unit_scores(drawn), drawn.layout))
        if not isinstance(drawn.layout, ShuffledWithin):
            for (a, b), test in redrawn.tests(*scored[-1], rng, draws)[1].items():
                pairs[part.arms[a], part.arms[b]] = test
    return redrawn.summed(scored, rng, draws), pairs


def pair_test(outcomes: Outcomes, a: int, b: int, rng: np.random.Generator, draws: int) -> RandomisationTest:
    """Test two arms on their own cuttings only; an arm with one unit gets no p."""
    return _test(outcomes.over(outcomes.o.only([a, b])), for_pair(outcomes.o, a, b), rng, draws)


def factor_test(outcomes: Outcomes, factor: int, rng: np.random.Generator, draws: int) -> RandomisationTest:
    """Main effect of one factor, its levels permuted as they were drawn; in a fraction of a factorial with all factors in."""
    if needs_all_factors(outcomes.o, factor):
        return _with_all_factors(outcomes, factor, rng, draws)
    return _test(outcomes, for_factor(outcomes.o, factor), rng, draws)


def _test(outcomes: Outcomes, drawn: Drawn | None, rng: np.random.Generator, draws: int) -> RandomisationTest:
    layout = drawn.layout if drawn else None
    if drawn is None or not isinstance(layout, ShuffledWithin) or not outcomes.ready:
        return NOTHING_RANDOMISED
    return outcomes.redrawn(drawn, layout, rng, draws)


def _with_all_factors(outcomes: Outcomes, factor: int, rng: np.random.Generator, draws: int) -> RandomisationTest:
    drawn = for_all_arms(outcomes.o)
    if drawn is None or not outcomes.ready:
        return NOTHING_RANDOMISED
    levels = outcomes.o.level_index
    smaller, larger = additive.main_effects(levels, factor), additive.main_effects(levels)
    return additive.test(outcomes.unit_scores(drawn), drawn.layout, smaller, larger, rng, draws)
