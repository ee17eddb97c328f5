"""Which randomisation test belongs to which layout: nothing is permuted that was not randomised."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.compare import permutation, time_to_root
from orderly_bench.core.compare.hypergeometric import TIE
from orderly_bench.core.compare.observations import Observations
from orderly_bench.core.compare.randomisation import RandomisationTest, monte_carlo_p
from orderly_bench.core.compare.responses import Response
from orderly_bench.core.compare.restricted import incomplete_tests, latin_tests
from orderly_bench.core.compare.superiority import block_scores, mid_ranks

NOTHING_RANDOMISED = RandomisationTest(None, True, None, None)
Pairs = dict[tuple[int, int], RandomisationTest]


def design_name(observations: Observations) -> str:
    """The layout in words."""
    if observations.latin:
        name = "Latin square"
    elif observations.split:
        name = "split-plot"
    elif observations.waved:
        name = "waves"
    elif observations.paired:
        name = "pairs"
    elif observations.incomplete:
        name = "incomplete blocks"
    elif observations.blocks:
        name = "randomised complete blocks"
    else:
        name = "completely randomised"
    return name + (", several cuttings per unit" if observations.clustered else "")


def unit_values(observations: Observations, response: Response) -> np.ndarray:
    """The value of each unit that is permuted: its mean, or for quality the (block) mid-ranks."""
    units = observations.units
    if response is not Response.QUALITY:
        return units.mean
    strata = observations.stratum_of_known
    scores = block_scores(observations.responses, strata) if observations.blocks else mid_ranks(observations.responses)
    return np.array([scores[m].mean() for m in units.members])


def overall_test(
    observations: Observations, response: Response, rng: np.random.Generator, draws: int
) -> RandomisationTest:
    """Test that all arms are alike."""
    if observations.latin or (observations.incomplete and response is not Response.DAYS):
        return restricted_tests(observations, response, rng, draws)[0]
    if observations.waved or observations.split:
        single = len(observations.factors) == 1
        return factor_test(observations, 0, response, rng, draws) if single else NOTHING_RANDOMISED
    if response is Response.DAYS:
        return _days_test(observations, rng, draws)
    units = observations.units
    return permutation.test(unit_values(observations, response), units.arm, units.stratum, rng, draws)


def restricted_tests(
    observations: Observations, response: Response, rng: np.random.Generator, draws: int
) -> tuple[RandomisationTest, Pairs]:
    """Overall and pairwise tests on one set of redraws, for Latin squares and incomplete blocks."""
    units, values = observations.units, unit_values(observations, response)
    if not observations.latin:
        return incomplete_tests(values, units.arm, units.stratum, rng, draws)
    firsts = [m[0] for m in units.members]
    row = observations.group_index(lambda r: r.row)[firsts]
    column = observations.group_index(lambda r: r.column)[firsts]
    cells: dict[tuple[int, int], list[int]] = {}
    for i, place in enumerate(zip(row.tolist(), column.tolist(), strict=True)):
        cells.setdefault(place, []).append(i)
    keys = list(cells)
    means = np.array(
        [
            units.total[cells[k]].sum() / units.cuttings[cells[k]].sum()
            if response is not Response.QUALITY
            else values[cells[k]].mean()
            for k in keys
        ]
    )
    arm = np.array([units.arm[cells[k][0]] for k in keys])
    return latin_tests(means, arm, np.array([k[0] for k in keys]), np.array([k[1] for k in keys]), rng, draws)


def pair_test(
    observations: Observations, a: int, b: int, response: Response, rng: np.random.Generator, draws: int
) -> RandomisationTest:
    """Test two arms on their own cuttings only; an arm with one unit gets no p."""
    if observations.waved and not _vary_within(observations.only([a, b]), lambda r: r.wave):
        two = observations.only([a, b])
        return _group_test(two, two.arm_of_known, two.group_index(lambda r: r.wave), response, rng, draws)
    if observations.split:
        return _split_pair(observations.only([a, b]), response, rng, draws)
    two = observations.only([a, b])
    if np.bincount(two.units.arm, minlength=2).min() < 2 and observations.clustered:
        return NOTHING_RANDOMISED
    if response is Response.DAYS:
        return _days_test(two, rng, draws)
    strata = two.group_index(lambda r: r.wave)[[m[0] for m in two.units.members]] if two.waved else two.units.stratum
    return permutation.test(unit_values(two, response), two.units.arm, strata, rng, draws)


def _split_pair(two: Observations, response: Response, rng: np.random.Generator, draws: int) -> RandomisationTest:
    plots = two.group_index(lambda r: r.whole_plot)
    if _vary_within(two, lambda r: r.whole_plot):
        units = two.units
        return permutation.test(unit_values(two, response), units.arm, plots[[m[0] for m in units.members]], rng, draws)
    return _group_test(two, two.arm_of_known, plots, response, rng, draws)


def _vary_within(observations: Observations, of: object) -> bool:
    """Whether some group holds more than one arm."""
    groups = observations.group_index(of)  # type: ignore[arg-type]
    return any(np.unique(observations.arm_of_known[groups == g]).size > 1 for g in np.unique(groups))


def _group_test(
    observations: Observations,
    label: np.ndarray,
    group: np.ndarray,
    response: Response,
    rng: np.random.Generator,
    draws: int,
) -> RandomisationTest:
    """Permute whole groups (whole plots, waves) over the labels; no p when a label has one group."""
    values = mid_ranks(observations.responses) if response is Response.QUALITY else observations.responses
    groups = np.unique(group)
    means = np.array([values[group == g].mean() for g in groups])
    labels = np.array([label[group == g][0] for g in groups])
    used = np.unique(labels)
    labels = np.searchsorted(used, labels)
    if used.size < 2 or np.bincount(labels).min() < 2:
        return NOTHING_RANDOMISED
    return permutation.test(means, labels, np.zeros(groups.size, dtype=int), rng, draws)


def factor_test(
    observations: Observations, factor: int, response: Response, rng: np.random.Generator, draws: int
) -> RandomisationTest:
    """Main effect of one factor: its levels permuted inside strata of the other factors x block.

    In split plots the whole-plot factor permutes whole plots and the other stays inside them; a factor that is constant
    within waves permutes waves.
    """
    index = observations.level_index
    level = index[observations.arm_of_known, factor]
    holder = (
        observations.group_index(lambda r: r.whole_plot)
        if observations.split
        else observations.group_index(lambda r: r.wave)
    )
    grouped = observations.split or observations.waved
    if grouped and all(np.unique(level[holder == g]).size == 1 for g in np.unique(holder)):
        return _group_test(observations, level, holder, response, rng, draws)
    units = observations.units
    firsts = [m[0] for m in units.members]
    others = np.delete(index, factor, axis=1)[units.arm]
    keys = np.column_stack([others, units.stratum, holder[firsts] if grouped else np.zeros(units.arm.size, dtype=int)])
    _, strata = np.unique(keys, axis=0, return_inverse=True)
    if grouped:
        _, strata = np.unique(holder[firsts], return_inverse=True)
        if observations.waved and others.shape[1] > 1:
            _, strata = np.unique(keys, axis=0, return_inverse=True)
    if response is Response.DAYS:
        return NOTHING_RANDOMISED
    return permutation.test(unit_values(observations, response), index[units.arm, factor], strata.ravel(), rng, draws)


def _days_test(observations: Observations, rng: np.random.Generator, draws: int) -> RandomisationTest:
    """Permute whole cuttings (or units) within strata, the Aalen-Johansen areas recomputed each time."""
    lives = time_to_root.lives_of(observations)
    if lives.checks.size < 2:
        return NOTHING_RANDOMISED
    if observations.clustered:
        units = observations.units
        pseudo = np.empty(lives.kind.size)
        for a in range(len(observations.arms)):
            here = observations.arm_of_known == a
            pseudo[here] = time_to_root.pseudo_values(lives.categories()[here], lives.checks)
        return permutation.test(
            np.array([pseudo[m].mean() for m in units.members]), units.arm, units.stratum, rng, draws
        )
    categories, arm, stratum = lives.categories(), observations.arm_of_known, observations.stratum_of_known
    order = np.argsort(stratum, kind="stable")
    sizes = [int((stratum == s).sum()) for s in np.unique(stratum)]
    strata = [arm[stratum == s] for s in np.unique(stratum)]
    arms = len(observations.arms)
    observed = time_to_root.areas(np.stack([categories[arm == a].sum(axis=0) for a in range(arms)]), lives.checks)
    drawn = time_to_root.drawn_areas(categories[order], sizes, rng, draws, lives.checks, strata)
    if arms == 2:
        statistic = abs(float(observed[0] - observed[1]))
        return monte_carlo_p(int((np.abs(drawn[:, 0] - drawn[:, 1]) >= statistic - TIE).sum()), draws, statistic)
    share = np.bincount(arm) / arm.size
    spread = float((share * (observed - share @ observed) ** 2).sum())
    all_spread = (share * (drawn - (drawn @ share)[:, None]) ** 2).sum(axis=1)
    return monte_carlo_p(int((all_spread >= spread - TIE).sum()), draws, spread)
