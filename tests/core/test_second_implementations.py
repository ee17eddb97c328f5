"""Each estimator against a slow, obvious second implementation on random small cases."""

from __future__ import annotations

from itertools import combinations, permutations, product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from orderly_bench.core.design.power import exact_power
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.layouts.latin_square.squares import all_squares, draw_square
from orderly_bench.core.methods import bayes, logistic, negative_binomial, permutation, studentized_range, time_to_root
from orderly_bench.core.methods.conditional_logistic import log_likelihood
from orderly_bench.core.methods.hodges_lehmann import rank_sum_counts, shift
from orderly_bench.core.methods.holm import holm
from orderly_bench.core.methods.hypergeometric import two_sided_p
from orderly_bench.core.methods.quadratic_form import expected_and_covariance, permutation_test
from orderly_bench.core.methods.superiority import mid_ranks, superiority
from orderly_bench.core.observations.table import Observations, Row
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.score.agreement import kappa

FEW = settings(max_examples=25, deadline=None)


def labelled(arms: int, blocks: int, per: int) -> tuple[np.ndarray, np.ndarray]:
    return np.tile(np.repeat(np.arange(arms), per), blocks), np.repeat(np.arange(blocks), arms * per)


def every_assignment(labels: np.ndarray, strata: np.ndarray) -> list[np.ndarray]:
    """All label arrays the draw could have given, by brute force."""
    per = [sorted(set(permutations(labels[strata == s].tolist()))) for s in np.unique(strata)]
    return [np.concatenate([np.array(part) for part in parts]) for parts in product(*per)]


@FEW
@given(st.lists(st.integers(0, 1), min_size=8, max_size=8), st.sampled_from([1, 2]))
def test_two_arm_exact_p_by_listing_every_assignment(values: list[int], blocks: int) -> None:
    labels, strata = labelled(2, blocks, 4 // blocks)
    y = np.array(values, dtype=float)
    totals = np.array([y[a == 0].sum() for a in every_assignment(labels, strata)])
    brute = (np.abs(totals - totals.mean()) >= abs(y[labels == 0].sum() - totals.mean()) - 1e-9).mean()
    rooted, stuck = np.zeros((blocks, 2), dtype=int), np.zeros((blocks, 2), dtype=int)
    np.add.at(rooted, (strata, labels), y.astype(int))
    np.add.at(stuck, (strata, labels), 1)
    assert two_sided_p(rooted, stuck) == pytest.approx(brute)


@FEW
@given(st.lists(st.integers(0, 1), min_size=6, max_size=6))
def test_three_arm_exact_p_by_listing_every_assignment(values: list[int]) -> None:
    labels, strata = labelled(3, 1, 2)
    y = np.array(values, dtype=float)

    def statistic(a: np.ndarray) -> float:
        return sum((y[a == arm].sum() - y.sum() / 3) ** 2 for arm in range(3))

    brute = np.mean([statistic(a) >= statistic(labels) - 1e-9 for a in every_assignment(labels, strata)])
    rooted = np.array([[int(y[labels == arm].sum()) for arm in range(3)]])
    assert permutation_test(rooted, np.full((1, 3), 2), np.random.default_rng(1)).p == pytest.approx(brute)


@FEW
@given(st.lists(st.floats(0, 10, allow_nan=False), min_size=8, max_size=8), st.sampled_from([1, 2]))
def test_unit_values_by_listing_every_assignment(values: list[float], blocks: int) -> None:
    labels, strata = labelled(2, blocks, 4 // blocks)
    y = np.round(np.array(values), 3)
    totals = np.array([y[a == 0].sum() for a in every_assignment(labels, strata)])
    brute = (np.abs(totals - totals.mean()) >= abs(y[labels == 0].sum() - totals.mean()) - 1e-9).mean()
    found = permutation.test(y, ShuffledWithin(labels, strata), np.random.default_rng(1), 100)
    assert found.exact and found.p == pytest.approx(brute)


def test_the_covariance_is_that_of_the_draw() -> None:
    labels, strata = labelled(3, 1, 2)
    y = np.array([1, 1, 0, 1, 0, 0])
    totals = np.array([[y[a == arm].sum() for arm in range(3)] for a in every_assignment(labels, strata)])
    expected, covariance = expected_and_covariance(np.array([[2, 1, 0]]), np.full((1, 3), 2))
    assert expected == pytest.approx(totals.mean(axis=0))
    assert covariance == pytest.approx(np.cov(totals.T, bias=True))


def test_monte_carlo_agrees_with_enumeration(monkeypatch: pytest.MonkeyPatch) -> None:
    rng = np.random.default_rng(7)
    y, labels, strata = rng.normal(size=12), np.repeat(np.arange(3), 4), np.zeros(12, dtype=int)
    listed = permutation.test(y, ShuffledWithin(labels, strata), rng, 20_000)
    monkeypatch.setattr(permutation, "MOST_ENUMERATED", 0)
    drawn = permutation.test(y, ShuffledWithin(labels, strata), rng, 20_000)
    exact = np.mean(_forms(y, labels) >= _form_of(y, labels) - 1e-9)
    assert listed.exact and listed.p == pytest.approx(exact)
    assert not drawn.exact and abs(drawn.p - exact) < 5 * drawn.monte_carlo_error + 1e-4


def _form_of(y: np.ndarray, labels: np.ndarray) -> float:
    return float(sum((labels == a).sum() * (y[labels == a].mean() - y.mean()) ** 2 for a in range(3)))


def _forms(y: np.ndarray, labels: np.ndarray) -> np.ndarray:
    found = []
    places = set(range(12))
    for first in combinations(range(12), 4):
        for second in combinations(sorted(places - set(first)), 4):
            chosen = np.full(12, 2)
            chosen[list(first)], chosen[list(second)] = 0, 1
            found.append(_form_of(y, chosen))
    return np.array(found)


@FEW
@given(st.lists(st.integers(0, 4), min_size=2, max_size=6), st.lists(st.integers(0, 4), min_size=2, max_size=6))
def test_superiority_and_shift_by_counting_pairs(a: list[int], b: list[int]) -> None:
    pairs = list(product(a, b))
    brute = sum(1.0 if x > y else 0.5 if x == y else 0.0 for x, y in pairs) / len(pairs)
    found = superiority(np.array(a, dtype=float), np.array(b, dtype=float))
    assert found.estimate == pytest.approx(brute) and found.interval is not None
    assert found.interval.low <= brute <= found.interval.high
    moved = shift(np.array(a, dtype=float), np.array(b, dtype=float))
    assert moved.estimate == pytest.approx(float(np.median([x - y for x, y in pairs])))


@pytest.mark.parametrize(("m", "n"), [(1, 1), (2, 3), (4, 4)])
def test_rank_sum_counts_by_listing(m: int, n: int) -> None:
    counts = np.zeros(m * n + 1)
    for chosen in combinations(range(m + n), m):
        counts[sum(1 for i in chosen for j in range(m + n) if j not in chosen and i > j)] += 1
    assert rank_sum_counts(m, n) == pytest.approx(counts.tolist())


@FEW
@given(st.lists(st.floats(0.0001, 1), min_size=1, max_size=6))
def test_holm_by_definition(p_values: list[float]) -> None:
    order = sorted(range(len(p_values)), key=lambda i: p_values[i])
    for rank, i in enumerate(order):
        brute = max(min(1.0, (len(order) - r) * p_values[order[r]]) for r in range(rank + 1))
        assert holm(list(p_values))[i] == pytest.approx(brute)


@FEW
@given(st.lists(st.integers(0, 3), min_size=1, max_size=12))
def test_mid_ranks_by_definition(values: list[int]) -> None:
    brute = [1 + sum(v < x for v in values) + (sum(v == x for v in values) - 1) / 2 for x in values]
    assert mid_ranks(np.array(values)) == pytest.approx(brute)


def test_conditional_likelihood_by_listing_tables() -> None:
    rooted, stuck = np.array([[2, 1], [3, 1]]), np.array([[3, 3], [4, 3]])

    def likelihood(beta: float) -> float:
        value = 0.0
        for (k_a, k_b), (n_a, n_b) in zip(rooted.tolist(), stuck.tolist(), strict=True):
            from math import comb, exp, log

            tables = {
                k: comb(n_a, k) * comb(n_b, k_a + k_b - k) * exp(beta * k)
                for k in range(max(0, k_a + k_b - n_b), min(n_a, k_a + k_b) + 1)
            }
            value += log(tables[k_a] / sum(tables.values()))
        return value

    best = max(likelihood(b) for b in np.linspace(-5, 5, 20_001))
    assert log_likelihood(np.array([[1.0], [0.0]]), rooted, stuck) == pytest.approx(best, abs=1e-6)


def test_negative_binomial_by_searching_a_grid() -> None:
    totals, arm = np.array([0, 2, 5, 1, 9, 3, 0, 12.0]), np.repeat([0, 1], 4)
    ones = np.ones(8)
    found = negative_binomial.fit(totals, ones, np.eye(2)[arm])
    mean = np.array([totals[arm == a].mean() for a in (0, 1)])[arm]
    grid = [
        stats.nbinom.logpmf(totals, theta, theta / (theta + mean)).sum() for theta in np.exp(np.linspace(-4, 8, 4001))
    ]
    assert np.exp(found.coefficients) == pytest.approx([2.0, 6.0], abs=1e-6)
    assert found.log_likelihood == pytest.approx(max(grid), abs=1e-5)


def test_root_counts_inside_whole_plots_have_the_ratio_of_another_package() -> None:
    """Arms of other whole plots never meet in a tray, so the trays part them: the pairs inside still have their ratio."""
    from statsmodels.discrete.discrete_model import NegativeBinomial

    rng = np.random.default_rng(7)
    arms = [(one, other) for one in ("fog", "mist") for other in ("IBA", "none")]
    rows = [
        Row(
            arm,
            float(rng.negative_binomial(2, 2 / (2 + 3 + 2 * (arm[1] == "IBA") + tray))),
            whole_plot=f"{arm[0]}{tray}",
        )
        for arm in arms
        for tray in range(4)
        for _ in range(6)
    ]
    found = analyse(arrange(("air", "hormone"), rows), Settings(draws=200, response=Response.ROOT_COUNT))
    trays = sorted({row.whole_plot for row in rows})
    design = np.array(
        [
            [float(row.whole_plot == tray) for tray in trays] + [float(row.levels == arm) for arm in (arms[0], arms[2])]
            for row in rows
        ]
    )
    model = NegativeBinomial([row.response for row in rows], design).fit(
        disp=False, method="bfgs", maxiter=500, gtol=1e-8
    )
    inside = {c.a.name: c for c in found.comparisons if c.a.name.split(" + ")[0] == c.b.name.split(" + ")[0]}
    assert len(inside) == 2
    for place, one in zip((-3, -2), (inside["fog + IBA"], inside["mist + IBA"]), strict=True):
        assert one.difference.estimate == pytest.approx(np.exp(model.params[place]), rel=1e-4)
        ends = one.difference.interval
        assert ends is not None and ends.low < one.difference.estimate < ends.high
    assert "no_ratio" not in {c.code for c in found.cautions}
    assert all(c.difference.estimate is not None for c in found.comparisons)


def test_bayes_by_simulation() -> None:
    rng = np.random.default_rng(4)
    a, b = rng.beta(14.5, 6.5, 400_000), rng.beta(6.5, 14.5, 400_000)
    found = bayes.compare((14, 20), (6, 20), 0.1)
    assert found.p_better == pytest.approx((a > b).mean(), abs=0.003)
    assert found.p_a_beyond == pytest.approx((a - b > 0.1).mean(), abs=0.003)
    assert found.loss_a == pytest.approx(np.maximum(b - a, 0).mean(), abs=0.001)


def test_incidence_without_losses_is_the_plain_proportion() -> None:
    lives = time_to_root.Lives(np.array([7.0, 14.0, 21.0]), np.array([0, 0, 1, 2]), np.array([0, 2, 1, 2]))
    counts = lives.categories().sum(axis=0)
    assert time_to_root.incidence(counts, 3) == pytest.approx([0.25, 0.25, 0.5])
    assert float(time_to_root.areas(counts, lives.checks)) == pytest.approx(0.25 * 14)
    assert time_to_root.median_day(time_to_root.incidence(counts, 3), lives.checks) == 21


def test_studentized_range_against_the_library() -> None:
    from scipy.stats import studentized_range as library

    q = np.array([0.5, 3.4, 6.0])
    assert studentized_range.upper_tail(q, 4, 11) == pytest.approx(library.sf(q, 4, 11), abs=1e-7)
    assert studentized_range.quantile(0.95, 3, 15) == pytest.approx(library.ppf(0.95, 3, 15), abs=1e-6)


def test_squares_are_latin_all_of_them_and_evenly_drawn() -> None:
    squares = all_squares(4)
    assert len(squares) == 576 and len({s.tobytes() for s in squares}) == 576
    rng = np.random.default_rng(3)
    drawn = [draw_square(3, rng).tobytes() for _ in range(2400)]
    counts = np.unique(drawn, return_counts=True)[1]
    assert len(counts) == 12 and abs(counts - 200).max() < 5 * np.sqrt(200)
    for order in (5, 7):
        square = draw_square(order, rng)
        assert all(sorted(line) == list(range(order)) for line in [*square.tolist(), *square.T.tolist()])


def test_power_by_listing_every_outcome() -> None:
    from math import comb

    n, p, q = 6, 0.2, 0.9
    brute = 0.0
    for a, b in product(range(n + 1), repeat=2):
        chance = comb(n, a) * p**a * (1 - p) ** (n - a) * comb(n, b) * q**b * (1 - q) ** (n - b)
        brute += chance * (two_sided_p(np.array([[a, b]]), np.array([[n, n]])) < 0.05)
    assert exact_power(p, q, n).power == pytest.approx(brute)


def test_kappa_by_definition() -> None:
    table = np.array([[20, 5], [10, 15]])
    observed, expected = 35 / 50, (25 * 30 + 25 * 20) / 2500
    assert kappa(table) == pytest.approx((observed - expected) / (1 - expected))
    assert kappa(np.array([[5, 0], [0, 0]])) is None


def test_the_slight_ends_of_a_long_distribution_change_no_p() -> None:
    """Three strata of 6,000 cuttings: against the whole distributions, convolved as they are."""
    rooted, stuck = np.array([[1530, 1466], [1490, 1512], [1561, 1489]]), np.full((3, 2), 3000)
    totals, expected = np.ones(1), 0.0
    for (a, b), _ in zip(rooted.tolist(), stuck.tolist(), strict=True):
        totals = np.convolve(totals, stats.hypergeom(6000, a + b, 3000).pmf(np.arange(a + b + 1)))
        expected += (a + b) / 2
    away = np.abs(np.arange(totals.size) - expected) >= abs(rooted[:, 0].sum() - expected) - 1e-9
    assert two_sided_p(rooted, stuck) == pytest.approx(totals[away].sum(), rel=1e-9)
    assert two_sided_p(np.array([[3000, 0]]), np.array([[3000, 3000]])) == 1e-40


def test_the_binomial_deviance_is_the_package_s() -> None:
    from statsmodels.genmod.families import Binomial
    from statsmodels.genmod.generalized_linear_model import GLM

    rng = np.random.default_rng(3)
    for _ in range(30):
        n = rng.integers(1, 40, size=6)
        k = rng.binomial(n, rng.uniform(0.05, 0.95, size=6))
        design = np.column_stack([np.ones(6), rng.normal(size=6), np.arange(6) % 2])
        fitted = GLM(np.column_stack([k, n - k]), design, family=Binomial()).fit(tol=1e-12, maxiter=200)
        assert logistic.deviance(design, k, n) == pytest.approx(fitted.deviance, abs=1e-7)


def test_a_table_read_by_columns_is_the_table_read_by_rows() -> None:
    rows = [
        Row(
            ("ab"[i % 2],),
            None if i % 7 == 0 else float(i % 3 == 0),
            f"b{i % 3}",
            state="not stuck" if i % 14 == 0 else "",
        )
        for i in range(60)
    ]
    o = arrange(("medium",), rows)
    for arm, name in enumerate(o.arms):
        for block, label in enumerate(o.blocks):
            here = [r for r in rows if r.levels == name and r.block == label]
            assert o.stuck[block, arm] == sum(r.known for r in here) and o.rooted[block, arm] == sum(
                r.response or 0 for r in here
            )
            assert o.left_out[block, arm] == sum(not r.known and r.state != "not stuck" for r in here)
    swapped = o.only([1, 0])
    assert swapped.arms == (("b",), ("a",)) and (swapped.stuck == o.stuck[:, ::-1]).all()
    assert (swapped.arm_of_known == Observations(o.factors, swapped.arms, o.blocks, swapped.rows).arm_of_known).all()
