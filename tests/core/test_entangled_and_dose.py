"""Fractions of a factorial, factors that changed together, outcomes lost, and strength as a dose."""

from __future__ import annotations

from dataclasses import replace
from itertools import product

import numpy as np
import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.judgement.trend import scores_of, trend_test
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.methods import additive
from orderly_bench.core.methods.negative_binomial import fit, likelihood_ratio
from orderly_bench.core.observations.table import Row
from orderly_bench.core.responses.kind import Response

HALF = [("bark", "IBA", "lid"), ("bark", "none", "open"), ("sand", "IBA", "open"), ("sand", "none", "lid")]
FACTORS = ("medium", "hormone", "cover")


def pots(arms: list[tuple[str, ...]], rates: dict[tuple[str, ...], int], blocks: int, size: int = 6) -> list[Row]:
    """One pot of each arm in each block; ``rates`` are rooted of ``size``, one more or fewer from block to block."""
    return [
        Row(levels, float(i < rates[levels] + (block % 2)), f"b{block}", unit=f"{block}{levels}")
        for block in range(blocks)
        for levels in arms
        for i in range(size)
    ]


def codes(found: object) -> set[str]:
    return {c.code for c in found.cautions}


class TestAHalfFactorial:
    def test_each_factor_is_tested_with_all_in_and_what_that_assumes_is_said(self) -> None:
        rows = pots(HALF, dict(zip(HALF, (5, 4, 1, 1), strict=True)), 6)
        found = analyse(arrange(FACTORS, rows), Settings(margin=0.15, draws=2_000))
        assert [t.p is not None for t in found.terms[:3]] == [True] * 3
        medium = found.terms[0]
        assert medium.p < 0.01 and medium.contrasts[0].p == medium.p and medium.contrasts[0].verdict.clear
        assert medium.contrasts[0].difference.estimate == pytest.approx(3.5 / 6)
        assert "aliased_with_interaction" in codes(found) and "aliased" not in codes(found)

    def test_a_full_factorial_has_no_such_caution(self) -> None:
        full = list(product(("bark", "sand"), ("IBA", "none"), ("lid", "open")))
        found = analyse(arrange(FACTORS, pots(full, dict.fromkeys(full, 3), 3)), Settings(draws=200))
        assert not codes(found) & {"aliased", "aliased_with_interaction"}

    def test_two_levels_of_three_are_one_when_they_are_tested(self) -> None:
        levels = np.array([[0, 0], [1, 1], [2, 0]])
        assert additive.alike(levels, 0, 0, 2).shape[1] == additive.main_effects(levels).shape[1] - 1


class TestFactorsThatChangedTogether:
    BOTH = [("bark", "none"), ("sand", "IBA")]

    def test_no_factor_gets_a_p_and_the_cause_is_named(self) -> None:
        rows = pots(self.BOTH, dict(zip(self.BOTH, (1, 5), strict=True)), 6)
        found = analyse(arrange(("medium", "hormone"), rows), Settings(margin=0.15, draws=200))
        assert [t.p for t in found.terms] == [None, None, None]
        assert found.test.p < 0.05 and "aliased" in codes(found)
        text = next(c.text for c in found.cautions if c.code == "aliased")
        assert text.startswith("Medium and hormone changed together")


class TestOutcomesLost:
    ROWS = [
        Row((medium,), float(i < rooted), f"b{block}", "alive")
        for block in range(4)
        for medium, rooted in (("bark", 1), ("sand", 4))
        for i in range(5)
    ]

    def test_the_layout_is_what_was_stuck(self) -> None:
        lost = [
            replace(r, response=None, state="missing") if (r.levels, r.block) == (("sand",), "b0") else r
            for r in self.ROWS
        ]
        found = analyse(arrange(("medium",), lost), Settings(margin=0.15))
        assert found.design == "randomised complete blocks" and found.test.exact
        whole = [r for r in self.ROWS if r.block != "b0"]
        assert found.test.p == pytest.approx(analyse(arrange(("medium",), whole), Settings()).test.p)

    def test_a_block_drawn_without_an_arm_is_incomplete(self) -> None:
        third = [replace(r, levels=("grit",)) for r in self.ROWS if r.levels == ("bark",)]
        drawn = [r for r in [*self.ROWS, *third] if (r.levels, r.block) != (("sand",), "b0")]
        assert analyse(arrange(("medium",), drawn), Settings(draws=200)).design == "incomplete blocks"

    def test_a_block_left_with_one_arm_is_set_aside_and_moves_no_p(self) -> None:
        """Of two arms, a block without one of them holds the other alone."""
        drawn = [r for r in self.ROWS if (r.levels, r.block) != (("sand",), "b0")]
        found = analyse(arrange(("medium",), drawn), Settings(margin=0.15))
        whole = analyse(arrange(("medium",), [r for r in self.ROWS if r.block != "b0"]), Settings(margin=0.15))
        assert found.design == whole.design == "randomised complete blocks"
        assert found.test == whole.test and found.comparisons[0].p == whole.comparisons[0].p
        assert "one_arm_block" in codes(found) and "one_arm_block" not in codes(whole)


class TestWholePlotsInBlocks:
    def test_they_change_places_inside_their_block(self) -> None:
        rows = [
            Row((heat, medium), float(i < k), f"b{b}", unit=f"{b}{heat}{medium}", whole_plot=f"{b}{heat}")
            for b in range(4)
            for heat, k in (("heated", 4), ("unheated", 1))
            for medium in ("bark", "sand")
            for i in range(5)
        ]
        assert analyse(arrange(("heat", "medium"), rows), Settings()).terms[0].p == pytest.approx(2 / 2**4)
        unblocked = [replace(r, block=None) for r in rows]
        assert analyse(arrange(("heat", "medium"), unblocked), Settings()).terms[0].p == pytest.approx(2 / 70)


class TestStrengthAsADose:
    def rows(self, rooted: tuple[int, ...]) -> list[Row]:
        doses = ("0", "1000", "4000")
        return [Row((d,), float(i < k)) for d, k in zip(doses, rooted, strict=True) for i in range(16)]

    def test_a_rise_is_found_and_its_scores_are_the_strengths(self) -> None:
        found = analyse(arrange(("hormone",), self.rows((3, 6, 13))), Settings(dose="hormone"))
        trend = found.trends["hormone"]
        assert trend.scores == {"0": 0, "1000": 1000, "4000": 4000}
        assert trend.test.p < 0.01 and trend.model.df == 1 and trend.model.p < 0.01
        assert trend.test.exact and trend.test.monte_carlo_error is None

    def test_a_hump_escapes_it_and_without_being_asked_there_is_none(self) -> None:
        hump = analyse(arrange(("hormone",), self.rows((4, 14, 3))), Settings(dose="hormone"))
        assert hump.trends["hormone"].test.p > 0.05 and hump.test.p < 0.05
        assert analyse(arrange(("hormone",), self.rows((3, 6, 13))), Settings()).trends == {}

    def test_it_stays_inside_blocks(self) -> None:
        scores, values = np.array([0.0, 1, 0, 1]), np.array([0.0, 0, 1, 1])
        rng = np.random.default_rng(1)
        assert trend_test(values, scores, np.array([0, 0, 1, 1]), rng, 400).p == 1
        assert trend_test(values, scores, np.array([0, 1, 0, 1]), rng, 4).p is None

    @pytest.mark.parametrize("levels", [["none", "1000"], ["0", "0.0"], ["nan", "1"]])
    def test_levels_that_are_no_strengths_are_refused(self, levels: list[str]) -> None:
        with pytest.raises(InvalidInput, match="hormone"):
            scores_of(levels, "hormone")

    def test_a_factor_that_is_not_there_is_refused(self) -> None:
        with pytest.raises(InvalidInput, match="must be one of the factors: hormone"):
            analyse(arrange(("hormone",), self.rows((3, 6, 13))), Settings(dose="heat"))


def test_units_counted_once_and_each_by_itself_have_the_same_model() -> None:
    rng = np.random.default_rng(5)
    arm = np.repeat([0, 1, 2], 12)
    cuttings = rng.integers(1, 4, arm.size).astype(float)
    totals = rng.negative_binomial(2, 0.3, arm.size).astype(float)
    design = np.eye(3)[arm]
    plain = likelihood_ratio(totals, cuttings, np.ones((arm.size, 1)), design)
    assert plain.df == 2
    many = [np.tile(of, 80) for of in (totals, cuttings)]
    together = fit(*many, np.tile(design, (80, 1)))
    alone = fit(totals, cuttings, design)
    assert together.coefficients == pytest.approx(alone.coefficients, abs=1e-6)
    assert together.theta == pytest.approx(alone.theta, rel=1e-4)
    assert together.log_likelihood == pytest.approx(80 * alone.log_likelihood, abs=1e-5)


def test_root_counts_of_a_factorial_have_a_model_for_every_term() -> None:
    rng = np.random.default_rng(6)
    rows = [
        Row((medium, hormone), float(rng.poisson(rate)))
        for medium, hormone, rate in (("bark", "none", 2), ("bark", "IBA", 6), ("sand", "none", 3), ("sand", "IBA", 8))
        for _ in range(15)
    ]
    found = analyse(arrange(("medium", "hormone"), rows), Settings(response=Response.ROOT_COUNT, draws=200))
    assert [t.model.df for t in found.terms] == [1, 1, 1] and found.terms[1].model.p < 1e-6
    silent = [replace(r, response=0.0) if r.levels == ("sand", "none") else r for r in rows]
    arms = analyse(arrange(("medium", "hormone"), silent), Settings(response=Response.ROOT_COUNT, draws=200))
    assert all(term.model.p is None for term in arms.terms) and arms.model.p is None
