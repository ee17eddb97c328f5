"""Intervals, models and curves against their definitions, worked out slowly on random small cases."""

from __future__ import annotations

from itertools import combinations, product
from math import comb, log, sqrt

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy import optimize, stats

from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.methods import (
    classical,
    conditional_logistic,
    firth,
    logistic,
    quasi_binomial,
    stick_for,
    terms,
    time_to_root,
    transform,
)
from orderly_bench.core.methods.clusters import arm_design_effect, cluster_of, design_effects, rate_interval
from orderly_bench.core.methods.difference import mantel_haenszel, newcombe, odds_ratio, stratified_newcombe
from orderly_bench.core.methods.hodges_lehmann import stratified_shift
from orderly_bench.core.methods.letters import compact_letters
from orderly_bench.core.methods.linear import fit_arms
from orderly_bench.core.methods.paired import newcombe_paired
from orderly_bench.core.methods.rates import clopper_pearson, normal_quantile, wilson
from orderly_bench.core.methods.smallest_p import smallest_overall_p
from orderly_bench.core.methods.superiority import block_scores, stratified_superiority, superiority
from orderly_bench.core.observations.table import Row
from orderly_bench.core.score.agreement import kappa
from tests.core.effects import of_pots

FEW = settings(max_examples=20, deadline=None)
Z = normal_quantile(0.95)
COUNTS = st.integers(1, 30).flatmap(lambda n: st.tuples(st.integers(0, n), st.just(n)))


@FEW
@given(COUNTS)
def test_wilson_holds_the_rates_a_score_test_does_not_reject(counts: tuple[int, int]) -> None:
    k, n = counts
    found = wilson(k, n)
    assert found is not None
    for rate in np.linspace(0.005, 0.995, 40):
        kept = abs(k / n - rate) <= Z * sqrt(rate * (1 - rate) / n) + 1e-12
        assert kept == (found.low - 1e-9 <= rate <= found.high + 1e-9)


@FEW
@given(COUNTS)
def test_clopper_pearson_by_adding_up_binomial_tails(counts: tuple[int, int]) -> None:
    k, n = counts
    found = clopper_pearson(k, n)
    assert found is not None

    def at_least(p: float, least: int) -> float:
        return sum(comb(n, x) * p**x * (1 - p) ** (n - x) for x in range(least, n + 1))

    assert found.low == 0.0 if k == 0 else at_least(found.low, k) == pytest.approx(0.025, abs=1e-7)
    assert found.high == 1.0 if k == n else 1 - at_least(found.high, k + 1) == pytest.approx(0.025, abs=1e-7)


@FEW
@given(COUNTS, COUNTS)
def test_newcombe_turns_round_with_its_arms(a: tuple[int, int], b: tuple[int, int]) -> None:
    one, other = newcombe(*a, *b), newcombe(*b, *a)
    assert one.estimate == pytest.approx(-other.estimate)
    assert one.interval.low == pytest.approx(-other.interval.high) and one.interval.low < one.interval.high


STRATA = st.lists(st.tuples(COUNTS, COUNTS), min_size=1, max_size=4)


@FEW
@given(STRATA)
def test_mantel_haenszel_and_klingenberg_stratum_by_stratum(strata: list) -> None:
    weights = [n1 * n2 / (n1 + n2) for (_, n1), (_, n2) in strata]
    d = sum(w * (k1 / n1 - k2 / n2) for w, ((k1, n1), (k2, n2)) in zip(weights, strata, strict=True)) / sum(weights)
    top = 0.0
    for (k1, n1), (k2, n2) in strata:
        total = n1 + n2
        top += d * (n1**2 * k2 - n2**2 * k1 + n1 * n2 * (n2 - n1) / 2) / total**2
        top += (k1 * (n2 - k2) + k2 * (n1 - k1)) / (2 * total)
    variance = top / sum(weights) ** 2
    rooted = np.array([[k1, k2] for (k1, _), (k2, _) in strata])
    stuck = np.array([[n1, n2] for (_, n1), (_, n2) in strata])
    found = mantel_haenszel(rooted, stuck)
    assert found.estimate == pytest.approx(d)
    assume(variance > 1e-9)
    # Each end is where the score statistic, its variance taken at that end, is Z.
    for end in {found.interval.low, found.interval.high} - {-1.0, 1.0}:
        at_end = 0.0
        for (k1, n1), (k2, n2) in strata:
            total = n1 + n2
            at_end += end * (n1**2 * k2 - n2**2 * k1 + n1 * n2 * (n2 - n1) / 2) / total**2
            at_end += (k1 * (n2 - k2) + k2 * (n1 - k1)) / (2 * total)
        assert (d - end) ** 2 == pytest.approx(Z**2 * at_end / sum(weights) ** 2, abs=1e-9)
    assert found.interval.low <= d <= found.interval.high


def test_no_blocked_interval_collapses_and_one_stratum_is_newcombe() -> None:
    for rooted in ([[4, 0], [6, 0]], [[0, 0], [0, 0]], [[4, 4], [6, 6]]):
        stuck = np.array([[4, 4], [6, 6]])
        found = mantel_haenszel(np.array(rooted), stuck)
        assert found.method.startswith("stratified") and found.interval.high - found.interval.low > 0.2
    alone, plain = stratified_newcombe(np.array([[3.0, 7.0]]), np.array([[10.0, 12.0]])), newcombe(3, 10, 7, 12)
    assert alone.interval.low == pytest.approx(plain.interval.low, abs=0.02)
    assert alone.interval.high == pytest.approx(plain.interval.high, abs=0.02)


@FEW
@given(st.tuples(*[st.integers(0, 8)] * 4))
def test_paired_intervals_turn_round_and_never_leave_their_estimate(counts: tuple[int, int, int, int]) -> None:
    both, first, second, neither = counts
    assume(sum(counts) > 0)
    one, other = newcombe_paired(both, first, second, neither), newcombe_paired(both, second, first, neither)
    assert one.estimate == pytest.approx((first - second) / sum(counts))
    assert one.interval.low == pytest.approx(-other.interval.high)
    assert one.interval.low - 1e-9 <= one.estimate <= one.interval.high + 1e-9


def test_odds_ratio_is_of_odds_and_none_at_the_ends() -> None:
    assert odds_ratio(3, 10, 6, 10) == pytest.approx((3 / 7) / (6 / 4))
    assert odds_ratio(0, 10, 6, 10) is None and odds_ratio(10, 10, 6, 10) is None


@FEW
@given(st.lists(st.integers(0, 2), min_size=3, max_size=3), st.lists(st.integers(0, 2), min_size=2, max_size=2))
def test_the_range_of_those_left_out_is_that_of_every_assignment(known: list[int], out: list[int]) -> None:
    rows = [Row((arm,), float(i < k)) for arm, k in zip("ab", known[:2], strict=True) for i in range(4)]
    rows += [Row((arm,), None) for arm, n in zip("ab", out, strict=True) for _ in range(n)]
    found = analyse(arrange(("medium",), rows), Settings(margin=0.15)).comparisons[0].range
    if sum(out) == 0:
        assert found is None
        return
    ways = [
        (known[0] + x) / (4 + out[0]) - (known[1] + y) / (4 + out[1])
        for x, y in product(range(out[0] + 1), range(out[1] + 1))
    ]
    assert (found.low, found.high) == (pytest.approx(min(ways)), pytest.approx(max(ways)))


def clustered(rng: np.random.Generator) -> list[Row]:
    return [
        Row((arm,), float(rng.random() < rate), unit=f"{arm}{u}")
        for arm in ("a", "b")
        for u in range(5)
        for rate in [rng.beta(2, 2)]
        for _ in range(int(rng.integers(2, 6)))
    ]


@pytest.mark.parametrize("seed", range(6))
def test_design_effect_and_icc_by_their_sums(seed: int) -> None:
    made = arrange(("medium",), clustered(np.random.default_rng(seed)))
    units = made.units
    for a in range(2):
        k, n = units.total[units.arm == a], units.cuttings[units.arm == a]
        p = k.sum() / n.sum()
        if 0 < p < 1:
            m = len(k)
            ratio_variance = m / (m - 1) * sum((x - p * y) ** 2 for x, y in zip(k, n, strict=True)) / n.sum() ** 2
            assert arm_design_effect(k, n) == pytest.approx(max(1, ratio_variance / (p * (1 - p) / n.sum())))
            effect = design_effects(units, 2)[a]
            t = stats.t.ppf(0.975, m - 1)
            slow = wilson(k.sum() / effect, n.sum() / effect, quantile=t)
            assert rate_interval(units, a, design_effects(units, 2), 0.95) == slow
    between = within = 0.0
    for member, arm in zip(units.members, units.arm, strict=True):
        values, mean = made.responses[member], made.responses[made.arm_of_known == arm].mean()
        between += len(member) * (values.mean() - mean) ** 2 / (len(units.arm) - 2)
        within += ((values - values.mean()) ** 2).sum() / (len(made.known) - len(units.arm))
    squares = sum((units.cuttings[units.arm == a] ** 2).sum() / units.cuttings[units.arm == a].sum() for a in range(2))
    n0 = (len(made.known) - squares) / (len(units.arm) - 2)
    assert cluster_of(units, made.responses, 2).icc == pytest.approx((between - within) / (between + (n0 - 1) * within))


@pytest.mark.parametrize("seed", range(4))
def test_the_linear_model_is_least_squares_with_its_f_test(seed: int) -> None:
    rng = np.random.default_rng(seed)
    arm, block = np.tile(np.arange(3), 4), np.repeat(np.arange(4), 3)
    values = rng.normal(size=12) + 0.5 * arm
    found = fit_arms(values, arm, [block])
    table = values.reshape(4, 3)
    grand, arms, blocks = table.mean(), table.mean(axis=0), table.mean(axis=1)
    residual = ((table - arms[None, :] - blocks[:, None] + grand) ** 2).sum() / 6
    f = 4 * ((arms - grand) ** 2).sum() / 2 / residual
    assert found.test.f == pytest.approx(f) and found.test.p == pytest.approx(stats.f.sf(f, 2, 6))
    assert found.difference(2, 0) == (pytest.approx(arms[2] - arms[0]), pytest.approx(sqrt(2 * residual / 4)))
    assert found.t_half_width(2, 0, 0.9) == pytest.approx(stats.t.ppf(0.95, 6) * sqrt(residual / 2))


@pytest.mark.parametrize("seed", range(3))
def test_an_arm_has_its_mean_over_the_groups_that_its_comparisons_reach(seed: int) -> None:
    """Two parts that share no group, as levels of whole plots: balanced means are those that were seen, whatever the other part has."""
    rng = np.random.default_rng(seed)
    group, arm = np.repeat(np.arange(8), 3), np.tile(np.arange(3), 8) + np.repeat([0, 3], 12)
    values = rng.normal(size=24) + 5 * (arm > 2) + np.repeat(rng.normal(size=8), 3)
    found = fit_arms(values, arm, [group])
    assert [found.mean(a) for a in range(6)] == pytest.approx([values[arm == a].mean() for a in range(6)])
    assert found.estimable[0, 2] and not found.estimable[2, 3]
    joined = fit_arms(values, arm % 3, [group])
    assert [joined.mean(a) for a in range(3)] == pytest.approx([values[arm % 3 == a].mean() for a in range(3)])


def binomial_log_likelihood(eta: np.ndarray, k: np.ndarray, n: np.ndarray) -> float:
    return float((k * eta - n * np.log1p(np.exp(eta))).sum())


@pytest.mark.parametrize("seed", range(4))
def test_logistic_and_firth_by_maximising_directly(seed: int) -> None:
    rng = np.random.default_rng(seed)
    levels = np.array(list(product(range(2), range(2))))
    larger, smaller = terms.design(levels, [(0,), (1,)], True), terms.design(levels, [(0,)], True)
    n = np.full(4, 12.0)
    k = rng.integers(2, 11, 4).astype(float)

    def best(design: np.ndarray, penalised: bool = False) -> float:
        def minus(beta: np.ndarray) -> float:
            eta = design @ beta
            value = binomial_log_likelihood(eta, k, n)
            if penalised:
                p = 1 / (1 + np.exp(-eta))
                value += 0.5 * np.linalg.slogdet(design.T @ (design * (n * p * (1 - p))[:, None]))[1]
            return -value

        return -optimize.minimize(minus, np.zeros(design.shape[1]), method="Nelder-Mead", options={"xatol": 1e-9, "fatol": 1e-11, "maxiter": 9000, "maxfev": 9000}).fun  # fmt: skip

    found = logistic.likelihood_ratio("logistic", smaller, larger, k, n)
    assert found.chi2 == pytest.approx(2 * (best(larger) - best(smaller)), abs=1e-5) and found.df == 1
    assert firth.fit(larger, k, n).log_likelihood == pytest.approx(best(larger, True), abs=1e-5)


def test_firth_stays_finite_where_an_arm_roots_fully() -> None:
    fitted = firth.fit(np.eye(2), np.array([12.0, 5.0]), np.array([12.0, 12.0]))
    # In a saturated table the penalty adds half a success and half a failure.
    assert fitted.coefficients == pytest.approx([log(12.5 / 0.5), log(5.5 / 7.5)], abs=1e-6)


def test_quasi_binomial_is_the_deviance_over_the_pearson_dispersion() -> None:
    rng = np.random.default_rng(2)
    arm, n = np.repeat([0, 1, 2], 5), np.full(15, 6.0)
    k = rng.binomial(6, np.clip(0.3 + 0.2 * arm + rng.normal(0, 0.1, 15), 0.05, 0.95)).astype(float)

    def deviance(p: np.ndarray) -> float:
        with np.errstate(divide="ignore", invalid="ignore"):
            parts = np.where(k > 0, k * np.log(k / (n * p)), 0) + np.where(
                k < n, (n - k) * np.log((n - k) / (n * (1 - p))), 0
            )
        return 2 * float(parts.sum())

    per_arm = np.array([k[arm == a].sum() / n[arm == a].sum() for a in range(3)])[arm]
    dispersion = ((k - n * per_arm) ** 2 / (n * per_arm * (1 - per_arm))).sum() / 12
    f = (deviance(np.full(15, k.sum() / n.sum())) - deviance(per_arm)) / 2 / dispersion
    found = quasi_binomial.f_test(k, n, np.ones((15, 1)), np.eye(3)[arm])
    assert found.f == pytest.approx(f, rel=1e-6) and found.p == pytest.approx(stats.f.sf(f, 2, 12), rel=1e-6)


def test_large_blocks_make_no_odds_between_conditioning_and_intercepts() -> None:
    rng = np.random.default_rng(3)
    stuck = np.full((3, 2), 190)
    rooted = rng.binomial(stuck, [[0.4, 0.45], [0.5, 0.52], [0.6, 0.68]])
    smaller, larger = np.zeros((2, 0)), np.array([[0.0], [1.0]])
    conditional = conditional_logistic.likelihood_ratio(smaller, larger, rooted, stuck)
    intercepts = conditional_logistic._with_intercepts(smaller, larger, rooted, stuck)
    assert conditional.name == "conditional logistic" and intercepts.name == "logistic, an intercept per block"
    assert intercepts.chi2 == pytest.approx(conditional.chi2, rel=0.02) and intercepts.df == conditional.df == 1


@FEW
@given(st.lists(st.integers(0, 5), min_size=4, max_size=9), st.lists(st.integers(0, 5), min_size=4, max_size=9))
def test_brunner_munzel_is_the_librarys(a: list[int], b: list[int]) -> None:
    x, y = np.array(a, dtype=float), np.array(b, dtype=float)
    found = superiority(x, y)
    assume(found.method.endswith("(Brunner-Munzel)"))
    half = (found.interval.high - found.interval.low) / 2
    assume(0.001 < found.interval.low and found.interval.high < 0.999)
    library = stats.brunnermunzel(x, y, distribution="t")
    assume(np.isfinite(library.statistic) and abs(library.statistic) > 1e-9)
    error = (0.5 - found.estimate) / library.statistic
    assert abs(half / error) > 1.95 and stats.brunnermunzel(y, x).pvalue == pytest.approx(library.pvalue)


def test_within_blocks_ranks_and_superiority_are_those_of_each_block() -> None:
    values, blocks = np.array([3.0, 1, 2, 2, 9, 5, 7, 7]), np.repeat([0, 1], 4)
    slow = np.concatenate([stats.rankdata(values[blocks == b]) / 5 for b in (0, 1)])
    assert block_scores(values, blocks) == pytest.approx(slow)
    a, b = values[[0, 1, 4, 5]], values[[2, 3, 6, 7]]
    strata = np.array([0, 0, 1, 1])
    each = [np.mean([(x > y) + 0.5 * (x == y) for x in a[strata == s] for y in b[strata == s]]) for s in (0, 1)]
    graded = [of_pots([a[strata == s]], [b[strata == s]]) for s in (0, 1)]
    assert stratified_superiority(graded).estimate == pytest.approx(np.mean(each))
    shifts = [x - y for s in (0, 1) for x in a[strata == s] for y in b[strata == s]]
    assert min(shifts) <= stratified_shift(a, b, strata, strata).estimate <= max(shifts)


def lives(rng: np.random.Generator, count: int = 9) -> time_to_root.Lives:
    checks = np.array([14.0, 21, 28])
    kind = rng.integers(0, 3, count)
    at = np.where(kind == time_to_root.CENSORED, rng.integers(-1, 3, count), rng.integers(0, 3, count))
    return time_to_root.Lives(checks, kind, at)


@pytest.mark.parametrize("seed", range(8))
def test_the_curve_follows_each_cutting_from_check_to_check(seed: int) -> None:
    found = lives(np.random.default_rng(seed))
    curve, free = [], 1.0
    total = 0.0
    for t in range(3):
        at_risk = sum(1 for k, a in zip(found.kind, found.at, strict=True) if a >= t or (k == 2 and a >= t))
        rooted = sum(1 for k, a in zip(found.kind, found.at, strict=True) if k == 0 and a == t)
        dead = sum(1 for k, a in zip(found.kind, found.at, strict=True) if k == 1 and a == t)
        total += free * rooted / at_risk if at_risk else 0.0
        free *= 1 - (rooted + dead) / at_risk if at_risk else 1.0
        curve.append(total)
    counts = found.categories().sum(axis=0)
    assert time_to_root.incidence(counts, 3) == pytest.approx(curve)
    assert float(time_to_root.areas(counts, found.checks)) == pytest.approx(7 * curve[0] + 7 * curve[1])


def test_pseudo_values_leave_one_out_and_average_to_the_area() -> None:
    found = lives(np.random.default_rng(4), 7)
    categories = found.categories()
    whole = float(time_to_root.areas(categories.sum(axis=0), found.checks))
    slow = [
        7 * whole - 6 * float(time_to_root.areas(np.delete(categories, i, axis=0).sum(axis=0), found.checks))
        for i in range(7)
    ]
    assert time_to_root.pseudo_values(categories, found.checks) == pytest.approx(slow)


def test_the_hazard_ratio_of_one_check_is_the_complementary_log_log_of_the_rates() -> None:
    kind = np.array([0] * 12 + [2] * 8 + [0] * 6 + [2] * 14)
    one = time_to_root.Lives(np.array([21.0]), kind, np.zeros(40, dtype=int))
    ratio, low, high = time_to_root.hazard(one, np.repeat([0, 1], 20)).ratio(0, 1, Z)
    assert ratio == pytest.approx(log(1 - 12 / 20) / log(1 - 6 / 20), rel=1e-4) and low < ratio < high


@FEW
@given(st.sets(st.sampled_from(list(combinations("ABCDE", 2)))))
def test_letters_say_exactly_what_was_told_apart(pairs: set) -> None:
    different = {frozenset(pair) for pair in pairs}
    letters = compact_letters(list("ABCDE"), different)
    for a, b in combinations("ABCDE", 2):
        assert bool(set(letters[a]) & set(letters[b])) == (frozenset((a, b)) not in different)


def test_classical_tests_are_the_librarys() -> None:
    rng = np.random.default_rng(6)
    k, n = np.array([4, 9, 12]), np.array([16, 16, 16])
    table = np.array([k, n - k])
    library = stats.chi2_contingency(table, correction=False)
    assert (classical.pearson(k, n).chi2, classical.pearson(k, n).p) == pytest.approx(
        (library.statistic, library.pvalue)
    )
    assert classical.fisher(k[:2], n[:2]).p == pytest.approx(stats.fisher_exact(table[:, :2]).pvalue)
    values, arm = rng.integers(0, 9, 18).astype(float), np.repeat([0, 1, 2], 6)
    kruskal = stats.kruskal(*(values[arm == a] for a in range(3)))
    assert classical.kruskal(values, arm).p == pytest.approx(kruskal.pvalue)
    proportions = rng.uniform(0.1, 0.9, 12)
    found = transform.arcsine(proportions, np.repeat([0, 1, 2], 4), None)
    turned = np.arcsin(np.sqrt(proportions))
    assert found.f == pytest.approx(stats.f_oneway(*turned.reshape(3, 4)).statistic)
    tukey = stats.tukey_hsd(*turned.reshape(3, 4))
    assert {pair: p.p for pair, p in found.pairs.items()} == pytest.approx(
        {(a, b): tukey.pvalue[a, b] for a, b in found.pairs}, abs=1e-5
    )


def test_boschloo_by_its_worst_nuisance_rate() -> None:
    k, n = np.array([7, 2]), np.array([10, 10])
    tables = [np.array([a, b]) for a in range(11) for b in range(11)]
    fisher = {tuple(t): classical.fisher(t, n).p if 0 < t.sum() < 20 else 1.0 for t in tables}
    extreme = [t for t in tables if fisher[tuple(t)] <= fisher[tuple(k)] * (1 + 1e-9)]
    rates = np.linspace(0.001, 0.999, 999)
    slow = max(sum(stats.binom.pmf(a, 10, r) * stats.binom.pmf(b, 10, r) for a, b in extreme) for r in rates)
    found = classical.boschloo(k, n)
    assert found is not None and found.p == pytest.approx(slow, rel=0.02) and found.p < classical.fisher(k, n).p
    assert classical.boschloo(np.array([0, 0]), n) is None
    assert classical.boschloo(np.array([50, 70]), np.array([101, 101])) is None


def test_how_many_to_stick_is_the_least_that_is_enough() -> None:
    found = stick_for.for_rate(20, 0.6, 0.9).stick
    chance = [stats.binom.sf(19, m, 0.6) for m in (found - 1, found)]
    assert chance[0] < 0.9 <= chance[1]
    batch = stick_for.for_batches(20, [(31, 50)], 0.9)
    tails = [stats.betabinom.sf(19, m, 31.5, 19.5) for m in (batch.stick - 1, batch.stick)]
    assert tails[0] < 0.9 <= tails[1] and batch.cautions


@pytest.mark.parametrize(("arms", "per_arm"), [(2, 3), (3, 2), (4, 2)])
def test_the_smallest_p_by_listing_every_table(arms: int, per_arm: int) -> None:
    places = arms * per_arm
    best = 1.0
    for together in range(1, arms):
        k = together * per_arm
        tables = [np.bincount(np.array(chosen) // per_arm, minlength=arms) for chosen in combinations(range(places), k)]
        spread = np.array([((t - k / arms) ** 2).sum() for t in tables])
        best = min(best, float((spread >= spread.max() - 1e-9).mean()))
    assert smallest_overall_p(arms, per_arm) == pytest.approx(best)


@pytest.mark.parametrize(
    ("weights", "penalty"), [("linear", lambda i, j: abs(i - j)), ("quadratic", lambda i, j: (i - j) ** 2)]
)
def test_weighted_kappa_by_its_disagreements(weights: str, penalty: object) -> None:
    table = np.array([[9, 3, 1], [2, 7, 4], [0, 2, 8]])
    n = table.sum()
    cells = list(product(range(3), range(3)))
    seen = sum(penalty(i, j) * table[i, j] for i, j in cells) / n  # type: ignore[operator]
    chance = sum(penalty(i, j) * table[i].sum() * table[:, j].sum() for i, j in cells) / n**2  # type: ignore[operator]
    assert kappa(table, weights) == pytest.approx(1 - seen / chance)
