"""What a plan may say, what a design can reach, and how the number of cuttings is found."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import numpy as np
import pytest

from orderly_bench.core.design.feasibility import feasibility
from orderly_bench.core.design.power import exact_power
from orderly_bench.core.design.simulated_power import check_units, needed_per_arm, power_of
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.layouts.kinds import draw_layout, reach_of
from orderly_bench.core.methods import redrawn
from orderly_bench.core.methods.stick_for import beta_binomial_tail, for_batches, for_rate
from orderly_bench.core.plan import rules as plan
from orderly_bench.core.question.days import read_looks, write_looks
from orderly_bench.core.randomise.drawn_layout import Request
from orderly_bench.core.vocabulary import LayoutKind


class TestQuestion:
    def test_levels_are_trimmed_and_blanks_dropped(self) -> None:
        assert plan.check_levels("medium", [" pumice ", "", "sand"]) == ["pumice", "sand"]

    @pytest.mark.parametrize(
        ("levels", "message"),
        [
            (["pumice"], "2 to 8 levels"),
            ([str(i) for i in range(9)], "2 to 8 levels"),
            (["IBA  3000", "iba 3000"], "stands twice"),
            (["a", "x" * 61], "within 60 characters"),
        ],
    )
    def test_levels_that_break_a_rule_are_named(self, levels: list[str], message: str) -> None:
        with pytest.raises(InvalidInput, match=message):
            plan.check_levels("medium", levels)

    def test_a_factor_without_a_name_is_called_by_its_kind(self) -> None:
        assert plan.check_factors([("hormone", " ", ["IBA", "none"])])[0][1] == "hormone"

    @pytest.mark.parametrize(
        ("factors", "message"),
        [
            ([], "1 to 4 things"),
            ([("medium", "m", ["a", "b"])] * 5, "1 to 4 things"),
            ([("lightness", "l", ["a", "b"])], "kind of factor"),
            ([("medium", "M", ["a", "b"]), ("other", "m", ["c", "d"])], "same name"),
        ],
    )
    def test_factors_that_break_a_rule_are_named(self, factors: list, message: str) -> None:
        with pytest.raises(InvalidInput, match=message):
            plan.check_factors(factors)

    def test_the_first_factor_is_the_slowest_and_arms_are_limited(self) -> None:
        assert plan.combinations_of([["a", "b"], ["x", "y"]]) == [("a", "x"), ("a", "y"), ("b", "x"), ("b", "y")]
        with pytest.raises(InvalidInput, match="24 is the most"):
            plan.combinations_of([[str(i) for i in range(5)], [str(i) for i in range(5)]])

    def test_a_ranking_holds_every_arm_once(self) -> None:
        assert plan.check_ranking(["b", "a"], ["a", "b"]) == ["b", "a"]
        for wrong in (["a"], ["a", "a"], ["a", "c"]):
            with pytest.raises(InvalidInput, match="rank every arm once"):
                plan.check_ranking(wrong, ["a", "b"])

    def test_days_are_sorted_once_each_and_before_the_endpoint(self) -> None:
        assert [look.day for look in read_looks("28; 14, 14", 42)] == [14, 28]
        assert read_looks("", 42) == []
        assert [look.day for look in read_looks("about day 7, around 14, ~21, ca. day 28", 42)] == [7, 14, 21, 28]
        for wrong in ("0", "42", "-3", "3.5", "soon", "weeks 7 to 6", "30-20"):
            with pytest.raises(InvalidInput, match="check days"):
                read_looks(wrong, 42)

    def test_windows_are_typed_as_days_either_side_or_as_ranges(self) -> None:
        found = read_looks("day 28 ± 3, weeks 6 to 7, 70-80, week 2", 120)
        assert [(look.day, look.either_side) for look in found] == [(17, 3), (28, 3), (45, 4), (75, 5)]
        assert write_looks((14, 28), {28: 3}) == "14, 28 ± 3"
        assert [look.day for look in read_looks(write_looks((14, 28), {28: 3}), 42)] == [14, 28]

    def test_months_are_read_from_the_day_of_sticking(self) -> None:
        (found,) = read_looks("May to June", 300, date(2026, 10, 1))
        assert (found.day, found.either_side) == (242, 30)  # 1 May is day 212, 30 June day 272
        with pytest.raises(InvalidInput, match="months need the day"):
            read_looks("May", 300)


def plain(arms: int, per_arm: int, blocks: int = 1) -> Request:
    kind = LayoutKind.COMPLETE_BLOCKS if blocks > 1 else LayoutKind.COMPLETELY_RANDOMISED
    return Request(kind, arms, per_arm, blocks)


SPLIT = Request(LayoutKind.SPLIT_PLOT, 4, 6, blocks=6, whole=((0, 1), (2, 3)))


class TestFeasibility:
    def test_a_design_that_cannot_convince_says_so_and_one_that_can_does_not(self) -> None:
        assert [c.code for c in feasibility(plain(2, 3), 1, 0.05).cautions] == ["cannot_convince"]
        assert [c.code for c in feasibility(plain(4, 4), 1, 0.05).cautions] == ["pair_cannot_convince"]
        assert feasibility(plain(2, 20), 1, 0.05).cautions == []

    def test_arms_of_different_numbers_are_summed_as_they_are(self) -> None:
        request = replace(plain(2, 8), unequal=(11, 8))
        assert feasibility(request, 1, 0.05).working[:2] == ["11 + 8 units = 19 units", "19 cuttings"]
        assert feasibility(request, 4, 0.05, cuttings=44 + 8).working[:2] == ["11 + 8 units = 19 units", "52 cuttings"]

    def test_the_working_shows_the_sum(self) -> None:
        assert feasibility(plain(3, 8, 2), 1, 0.05).working == [
            "3 arms x 8 units = 24 units",
            "24 cuttings",
            "pair, all v none: 2 / C(8, 4)^2",
            "Holm over 3 pairs: x 3",
        ]
        over_waves = feasibility(plain(2, 48), 1, 0.05, waves=4).working
        assert over_waves[:2] == ["4 waves x 2 arms x 12 units = 96 units", "96 cuttings"]

    def test_pots_count_as_pots(self) -> None:
        alone, shared = feasibility(plain(2, 20), 1, 0.05), feasibility(plain(2, 4), 5, 0.05)
        assert shared.reach.overall == pytest.approx(2 / 70) and alone.reach.overall < 1e-9
        doubt = next(c for c in shared.cautions if c.code == "cuttings_share_units")
        assert "4 replicates, not 20" in doubt.text and not doubt.serious
        one_jar = feasibility(plain(2, 1), 20, 0.05)
        assert one_jar.reach.overall == 1 and {c.code for c in one_jar.cautions if c.serious} == {
            "cannot_convince",
            "cuttings_share_units",
        }

    @pytest.mark.parametrize(("plots", "few"), [(6, True), (8, False)])
    def test_few_whole_plots_are_named(self, plots: int, few: bool) -> None:
        request = Request(LayoutKind.SPLIT_PLOT, 4, plots, blocks=plots, whole=((0, 1), (2, 3)))
        assert ("few_whole_plots" in {c.code for c in feasibility(request, 1, 0.05).cautions}) is few


class TestReach:
    def test_a_small_square_reaches_little(self) -> None:
        found = reach_of(Request(LayoutKind.LATIN_SQUARE, 4, 4))
        assert found.overall >= 1 / 24 - 1e-9 and found.overall < 0.1
        assert found.pair in (pytest.approx(1 / 144), pytest.approx(2 / 144)), (
            "24 squares without names, six pairs in each"
        )
        assert reach_of(Request(LayoutKind.LATIN_SQUARE, 3, 3)).overall >= 1 / 3
        five = reach_of(Request(LayoutKind.LATIN_SQUARE, 5, 5))
        assert five.overall == pytest.approx(1 / 1344) and five.adjusted < 0.01, (
            "any single square of the 1,344 without names"
        )

    @pytest.mark.parametrize("seed", range(3))
    def test_no_outcome_of_a_square_has_a_smaller_p_than_is_said(self, seed: int) -> None:
        rng = np.random.default_rng(seed)
        layout = draw_layout(Request(LayoutKind.LATIN_SQUARE, 4, 4), rng)
        least = reach_of(Request(LayoutKind.LATIN_SQUARE, 4, 4))
        for _ in range(60):
            overall, pairs = redrawn.tests(
                rng.random(16) + rng.random(4)[layout.arm] * rng.choice([0, 3]), layout, rng, 1
            )
            assert overall.p >= least.overall - 1e-9 and min(p.p for p in pairs.values()) >= 1 / 144 - 1e-9

    def test_whole_plots_limit_the_factor_on_them_not_the_one_inside(self) -> None:
        found = reach_of(SPLIT)
        assert found.overall == pytest.approx(2 / 20)
        assert found.pair == pytest.approx(2 / 6**6)

    def test_incomplete_blocks_by_their_own_redraw(self) -> None:
        found = reach_of(Request(LayoutKind.INCOMPLETE_BLOCKS, 4, 6, blocks=12, block_size=2))
        assert found.overall < 0.01 < 0.05 and found.adjusted == pytest.approx(min(1.0, 6 * found.pair))

    def test_what_cannot_be_laid_out_has_no_reach(self) -> None:
        with pytest.raises(InvalidInput, match="multiple of the 2 blocks"):
            reach_of(plain(2, 3, 2))

    def test_what_is_needed_reaches_the_power_and_one_fewer_does_not(self) -> None:
        n = needed_per_arm(0.3, 0.7, 0.8)
        assert n is not None
        assert min(exact_power(0.3, 0.7, m).power for m in (n, n + 1)) >= 0.8
        assert min(exact_power(0.3, 0.7, m).power for m in (n - 1, n)) < 0.8
        assert needed_per_arm(0.5, 0.5, 0.8) is None


class TestSimulatedPower:
    def test_units_must_divide_and_an_icc_needs_units(self) -> None:
        assert check_units(24, 4, 0.2, 3) == 2
        for per_arm, per_unit, icc, blocks in ((25, 4, 0.2, 1), (24, None, 0.2, 1), (24, 4, 1.0, 1), (24, 0, None, 1)):
            with pytest.raises(InvalidInput):
                check_units(per_arm, per_unit, icc, blocks)

    def test_without_units_or_blocks_it_is_exact(self) -> None:
        found = power_of([0.4, 0.8], 12, rng=np.random.default_rng(1))
        assert found.method == "exact enumeration" and found.monte_carlo_error is None

    def test_one_cutting_per_unit_agrees_with_enumeration(self) -> None:
        exact = exact_power(0.3, 0.8, 12).power
        found = power_of([0.3, 0.8], 12, blocks=2, trials=1_500, rng=np.random.default_rng(2))
        assert found.monte_carlo_error is not None and abs(found.power - exact) < 0.12

    def test_arms_without_a_difference_are_told_apart_no_more_than_alpha(self) -> None:
        found = power_of([0.5, 0.5], 24, per_unit=4, icc=0.3, trials=1_000, rng=np.random.default_rng(3))
        assert found.power <= 0.05 + 3 * (0.05 * 0.95 / 1_000) ** 0.5

    def test_likeness_within_pots_costs_power(self) -> None:
        alone, alike = (
            power_of([0.3, 0.8], 24, per_unit=4, icc=icc, trials=600, rng=np.random.default_rng(4)).power
            for icc in (0.0, 0.5)
        )
        assert alone > alike + 0.1


class TestStickFor:
    def test_the_number_reaches_the_assurance_and_one_fewer_does_not(self) -> None:
        from scipy.stats import binom

        m = for_rate(50, 0.7, 0.95).stick
        assert binom.sf(49, m, 0.7) >= 0.95 > binom.sf(49, m - 1, 0.7)

    def test_one_batch_and_few_batches_are_cautioned_and_eight_are_not(self) -> None:
        assert [c.code for c in for_batches(20, [(31, 50)], 0.9).cautions] == ["one_batch"]
        assert [c.code for c in for_batches(20, [(31, 50), (18, 40)], 0.9).cautions] == ["few_batches"]
        assert for_batches(20, [(30 + i, 50) for i in range(8)], 0.9).cautions == []

    def test_batches_that_vary_more_ask_for_more(self) -> None:
        steady = for_batches(40, [(25, 50), (26, 50), (24, 50)], 0.9).stick
        wild = for_batches(40, [(5, 50), (45, 50), (25, 50)], 0.9).stick
        assert wild > steady

    def test_the_tail_by_integration(self) -> None:
        from scipy.integrate import quad
        from scipy.stats import beta, binom

        brute = quad(lambda p: binom.sf(5, 10, p) * beta.pdf(p, 4, 3), 0, 1)[0]
        assert beta_binomial_tail(6, 10, 4, 3) == pytest.approx(brute, abs=1e-8)
        assert beta_binomial_tail(11, 10, 4, 3) == 0.0

    @pytest.mark.parametrize("bad", [(0, 0.5, 0.9), (10, 0.0, 0.9), (10, 0.5, 1.0)])
    def test_what_cannot_be_asked_is_refused(self, bad: tuple) -> None:
        with pytest.raises(InvalidInput):
            for_rate(*bad)
