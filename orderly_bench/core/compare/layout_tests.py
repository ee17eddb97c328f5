"""The randomisation tests of a response: unit values permuted as they were drawn."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.compare import additive, time_to_root
from orderly_bench.core.compare.laid_out.drawn import Drawn
from orderly_bench.core.compare.observations import Observations
from orderly_bench.core.compare.superiority import block_scores, mid_ranks
from orderly_bench.core.compare.what_was_drawn import for_all_arms, for_factor, for_pair
from orderly_bench.core.randomise import permutation, redrawn
from orderly_bench.core.randomise.hypergeometric import TIE
from orderly_bench.core.randomise.randomisation import RandomisationTest, monte_carlo_p
from orderly_bench.core.randomise.redrawn import Pairs
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of

NOTHING_RANDOMISED = RandomisationTest(None, True, None, None)


def values_of(observations: Observations, response: Response) -> np.ndarray:
    """What is averaged over each thing that was drawn: responses, (within-block) mid-ranks of grades, or rooted-days."""
    values = observations.responses
    if kind_of(response).graded and observations.blocks:
        values = block_scores(values, observations.stratum_of_known)
    elif kind_of(response).graded:
        values = mid_ranks(values)
    elif response is Response.DAYS:
        lives = time_to_root.lives_of(observations)
        values = time_to_root.pseudo_values(lives.categories(), lives.checks)
    return values


def overall_tests(
    observations: Observations, response: Response, rng: np.random.Generator, draws: int
) -> tuple[RandomisationTest, Pairs]:
    """Test that all arms are alike, no p when no single draw gave all arms; and, on the same redraws, of all pairs.

    Pairs are tested here where the whole layout is redrawn, in Latin squares and incomplete blocks; else there are none.
    """
    drawn = for_all_arms(observations)
    if drawn is None or isinstance(drawn.layout, ShuffledWithin) or _too_early(observations, response):
        return _test(observations, drawn, response, rng, draws), {}
    return redrawn.tests(drawn.means(values_of(observations, response)), drawn.layout, rng, draws)


def pair_test(
    observations: Observations, a: int, b: int, response: Response, rng: np.random.Generator, draws: int
) -> RandomisationTest:
    """Test two arms on their own cuttings only; an arm with one unit gets no p."""
    return _test(observations.only([a, b]), for_pair(observations, a, b), response, rng, draws)


def factor_test(
    observations: Observations, factor: int, response: Response, rng: np.random.Generator, draws: int
) -> RandomisationTest:
    """Main effect of one factor, its levels permuted as they were drawn; in a fraction of a factorial with all factors in."""
    if additive.needs_all_factors(observations, factor):
        return _with_all_factors(observations, factor, response, rng, draws)
    return _test(observations, for_factor(observations, factor), response, rng, draws)


def _test(
    observations: Observations, drawn: Drawn | None, response: Response, rng: np.random.Generator, draws: int
) -> RandomisationTest:
    layout = drawn.layout if drawn else None
    if drawn is None or not isinstance(layout, ShuffledWithin) or _too_early(observations, response):
        return NOTHING_RANDOMISED
    if response is Response.DAYS and drawn.single:
        return _areas_test(observations, layout, rng, draws)
    return permutation.test(drawn.means(values_of(observations, response)), layout, rng, draws)


def _with_all_factors(
    observations: Observations, factor: int, response: Response, rng: np.random.Generator, draws: int
) -> RandomisationTest:
    drawn = for_all_arms(observations)
    if drawn is None or _too_early(observations, response):
        return NOTHING_RANDOMISED
    means = drawn.means(values_of(observations, response))
    levels = observations.level_index
    smaller, larger = additive.main_effects(levels, factor), additive.main_effects(levels)
    return additive.test(means, drawn.layout, smaller, larger, rng, draws)


def _too_early(observations: Observations, response: Response) -> bool:
    """Whether there are not two checks, so that there is no curve."""
    return response is Response.DAYS and time_to_root.lives_of(observations).checks.size < 2


def _areas_test(
    observations: Observations, layout: ShuffledWithin, rng: np.random.Generator, draws: int
) -> RandomisationTest:
    """Permute whole cuttings within strata, the Aalen-Johansen areas recomputed each time."""
    lives = time_to_root.lives_of(observations)
    categories, arm, stratum = lives.categories(), layout.arm, layout.stratum
    if not any(np.unique(arm[stratum == s]).size > 1 for s in np.unique(stratum)):
        return NOTHING_RANDOMISED
    order = np.argsort(stratum, kind="stable")
    sizes = [int((stratum == s).sum()) for s in np.unique(stratum)]
    strata = [arm[stratum == s] for s in np.unique(stratum)]
    arms = int(arm.max()) + 1
    observed = time_to_root.areas(np.stack([categories[arm == a].sum(axis=0) for a in range(arms)]), lives.checks)
    drawn = time_to_root.drawn_areas(categories[order], sizes, rng, draws, lives.checks, strata)
    if arms == 2:
        statistic = abs(float(observed[0] - observed[1]))
        return monte_carlo_p(int((np.abs(drawn[:, 0] - drawn[:, 1]) >= statistic - TIE).sum()), draws, statistic)
    share = np.bincount(arm) / arm.size
    spread = float((share * (observed - share @ observed) ** 2).sum())
    all_spread = (share * (drawn - (drawn @ share)[:, None]) ** 2).sum(axis=1)
    return monte_carlo_p(int((all_spread >= spread - TIE).sum()), draws, spread)
