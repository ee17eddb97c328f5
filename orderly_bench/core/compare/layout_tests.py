"""The randomisation tests of a response: unit values permuted as they were drawn."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.compare import additive
from orderly_bench.core.compare.laid_out.drawn import Drawn
from orderly_bench.core.compare.measured.measured import Measured
from orderly_bench.core.compare.what_was_drawn import for_all_arms, for_factor, for_pair
from orderly_bench.core.randomise import redrawn
from orderly_bench.core.randomise.randomisation import NOTHING_RANDOMISED, RandomisationTest
from orderly_bench.core.randomise.redrawn import Pairs
from orderly_bench.core.randomise.shuffled import ShuffledWithin


def overall_tests(measured: Measured, rng: np.random.Generator, draws: int) -> tuple[RandomisationTest, Pairs]:
    """Test that all arms are alike, no p when no single draw gave all arms; and, on the same redraws, of all pairs.

    Pairs are tested here where the whole layout is redrawn, in Latin squares and incomplete blocks; else there are none.
    """
    drawn = for_all_arms(measured.o)
    if drawn is None or isinstance(drawn.layout, ShuffledWithin) or not measured.ready:
        return _test(measured, drawn, rng, draws), {}
    return redrawn.tests(drawn.means(measured.values), drawn.layout, rng, draws)


def pair_test(measured: Measured, a: int, b: int, rng: np.random.Generator, draws: int) -> RandomisationTest:
    """Test two arms on their own cuttings only; an arm with one unit gets no p."""
    return _test(measured.over(measured.o.only([a, b])), for_pair(measured.o, a, b), rng, draws)


def factor_test(measured: Measured, factor: int, rng: np.random.Generator, draws: int) -> RandomisationTest:
    """Main effect of one factor, its levels permuted as they were drawn; in a fraction of a factorial with all factors in."""
    if additive.needs_all_factors(measured.o, factor):
        return _with_all_factors(measured, factor, rng, draws)
    return _test(measured, for_factor(measured.o, factor), rng, draws)


def _test(measured: Measured, drawn: Drawn | None, rng: np.random.Generator, draws: int) -> RandomisationTest:
    layout = drawn.layout if drawn else None
    if drawn is None or not isinstance(layout, ShuffledWithin) or not measured.ready:
        return NOTHING_RANDOMISED
    return measured.redrawn(drawn, layout, rng, draws)


def _with_all_factors(measured: Measured, factor: int, rng: np.random.Generator, draws: int) -> RandomisationTest:
    drawn = for_all_arms(measured.o)
    if drawn is None or not measured.ready:
        return NOTHING_RANDOMISED
    levels = measured.o.level_index
    smaller, larger = additive.main_effects(levels, factor), additive.main_effects(levels)
    return additive.test(drawn.means(measured.values), drawn.layout, smaller, larger, rng, draws)
