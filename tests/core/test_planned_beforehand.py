"""What is fixed beforehand: planned looks, the joint adjustment, shares with the control, the ICC to expect; and two other readings."""

from __future__ import annotations

from dataclasses import replace
from math import sqrt

import numpy as np
import pytest

from orderly_bench.core.compare.number_over_time import over_time
from orderly_bench.core.design.control_share import share_with_control
from orderly_bench.core.errors import InvalidInput, NotFinite
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.family import adjusted_alike
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.judgement.starts import adjusted_for_start
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.messages.numbers import p_value
from orderly_bench.core.methods import classical, max_t
from orderly_bench.core.methods.clusters import icc_interval, pooled_icc
from orderly_bench.core.methods.difference import Difference
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.methods.looks import planned_looks, spent
from orderly_bench.core.methods.randomisation import RandomisationTest
from orderly_bench.core.methods.rates import Interval
from orderly_bench.core.observations.table import Row
from orderly_bench.core.randomise.shuffled import ShuffledWithin


def two(units: int) -> ShuffledWithin:
    return ShuffledWithin(np.repeat([0, 1], units), np.zeros(2 * units, dtype=int))


#: Of alpha 0.05, at four looks.
FOUR = [spent(0.05, j, 4) for j in range(1, 5)]


class TestLooks:
    def test_the_shares_rise_to_alpha(self) -> None:
        shares = [spent(0.05, j, 4) for j in range(1, 5)]
        assert shares == sorted(shares) and shares[-1] == pytest.approx(0.05) and shares[0] < 0.001
        with pytest.raises(InvalidInput):
            spent(0.05, 5, 4)

    def test_four_looks_make_no_more_false_alarms_than_one(self) -> None:
        """Cuttings root over time, arms alike: any look a result in at most 5 % and three errors."""
        rng, trials, alarms = np.random.default_rng(21), 300, 0
        for _ in range(trials):
            when = rng.integers(1, 7, size=48)
            values = (when[None, :] <= np.array([1, 2, 3, 4])[:, None]).astype(float)
            alarms += any(look.result for look in planned_looks(values, two(24), FOUR, rng, 600))
        assert alarms / trials <= 0.05 + 3 * sqrt(0.05 * 0.95 / trials)

    def test_every_look_at_full_alpha_would_make_more(self) -> None:
        rng, trials, alarms = np.random.default_rng(22), 200, 0
        for _ in range(trials):
            when = rng.integers(1, 7, size=96)
            values = (when[None, :] <= np.array([1, 2, 3, 4])[:, None]).astype(float)
            alarms += any(look.p < 0.05 for look in planned_looks(values, two(48), FOUR, rng, 300))
        assert alarms / trials > 0.06

    def test_a_strong_difference_is_found_and_the_last_level_is_what_is_left(self) -> None:
        values = np.stack([np.repeat([0.3, 0.0], 30) + np.tile([0.0, 0.1, 0.2], 20), np.repeat([1.0, 0.0], 30)])
        looks = planned_looks(values, two(30), [spent(0.05, j, 2) for j in (1, 2)], np.random.default_rng(3), 4_000)
        assert all(look.level < look.below for look in looks)
        assert looks[1].result and 0 < looks[0].level < 0.02 and looks[0].level < looks[1].level <= 0.05


class TestJointAdjustment:
    @pytest.mark.parametrize("sizes", [[20] * 5, [40, 20, 20, 20, 20]], ids=["even", "control doubled"])
    def test_one_null_among_strong_arms_keeps_five_percent(self, sizes: list[int]) -> None:
        rng, trials, alarms = np.random.default_rng(31), 150, 0
        arm = np.repeat(np.arange(5), sizes)
        layout = ShuffledWithin(arm, np.zeros(arm.size, dtype=int))
        for _ in range(trials):
            values = (rng.random(arm.size) < np.array([0.4, 0.4, 0.9, 0.9, 0.9])[arm]).astype(float)
            alarms += max_t.adjusted(values, layout, 0, rng, 300)[1] < 0.05
        assert alarms / trials <= 0.05 + 3 * sqrt(0.05 * 0.95 / trials)

    def test_it_is_asked_for_by_name_and_stays_near_holm(self) -> None:
        rows = [Row((a,), float(i < k)) for a, k in zip("abcd", (4, 13, 9, 6), strict=True) for i in range(20)]
        common = {"margin": 0.15, "control": ("a",), "against_control": True}
        joint = analyse(arrange(("medium",), rows), Settings(max_t=True, **common))
        holm = analyse(arrange(("medium",), rows), Settings(**common))
        assert [c.p for c in joint.comparisons] == [c.p for c in holm.comparisons]
        assert joint.comparisons[0].p_adjusted == pytest.approx(holm.comparisons[0].p_adjusted, abs=0.03)
        assert joint.comparisons[0].p_adjusted != holm.comparisons[0].p_adjusted
        with pytest.raises(InvalidInput, match="control"):
            Settings(max_t=True)

    def test_four_pots_an_arm_can_convince_by_it_and_one_unknown_cutting_does_not_turn_that(self) -> None:
        """Holm over three comparisons of four pots a side reaches 0.086 at the least; the joint redraw goes down to the pair's own p."""
        counts = {"none": (0, 0, 0, 0), "mist": (3, 4, 8, 5), "fog": (12, 9, 10, 11), "film": (6, 9, 7, 7)}
        rows = [
            Row((arm,), float(i < k), unit=f"{arm}{u}")
            for arm, pots in counts.items() for u, k in enumerate(pots) for i in range(20)
        ]  # fmt: skip
        planned = {"control": ("none",), "against_control": True}
        holm = analyse(arrange(("air",), rows), Settings(**planned))
        assert "cannot_convince" in {c.code for c in holm.cautions} and not any(
            c.verdict.clear for c in holm.comparisons
        )
        lost = [replace(rows[0], response=None, state="missing"), *rows[1:]]
        for some in (rows, lost):
            joint = analyse(arrange(("air",), some), Settings(max_t=True, **planned))
            fog = next(c for c in joint.comparisons if c.a.name == "fog")
            assert fog.verdict.clear and fog.p_adjusted < 0.05
            assert "cannot_convince" not in {c.code for c in joint.cautions}
            assert fog.range is None or fog.range.holds
        unknown = next(c.range for c in joint.comparisons if c.a.name == "fog")
        assert unknown.unknown == 1 and max(unknown.p_low, unknown.p_high) < 0.05

    def test_another_reading_is_adjusted_as_the_first_was(self) -> None:
        """A start that differs by nothing that matters must not turn a pair that the joint redraw made clear."""
        rows = [
            Row((arm,), float(i < k), unit=f"{arm}{u}", start=(("length_mm", f"{60 + (u + i) % 3}"),))
            for arm, k in {"none": 0, "mist": 6, "fog": 11}.items() for u in range(4) for i in range(20)
        ]  # fmt: skip
        found = analyse(
            arrange(("air",), rows), Settings(max_t=True, control=("none",), against_control=True, margin=0.15)
        )
        for c in found.comparisons:
            assert c.verdict.clear and c.p_adjusted is not None
            assert c.same_start is None or (c.same_start.verdict.clear and not c.same_start.changes)
        assert adjusted_alike(found.comparisons, [c.p for c in found.comparisons]) == pytest.approx(
            [c.p_adjusted for c in found.comparisons]
        )


class TestShareWithControl:
    def test_the_square_root_rule(self) -> None:
        share = share_with_control(100, 4)
        assert (share.control, share.each) == (32, 17)
        assert share.variance < share_with_control(100, 4, 20).variance
        best = min(1 / (120 - 5 * n) + 1 / n for n in range(1, 24))
        assert share_with_control(120, 5).variance == pytest.approx(best)

    def test_blocks_divide_and_too_few_are_refused(self) -> None:
        share = share_with_control(96, 4, 4)
        assert share.control % 4 == share.each % 4 == 0 and share.left >= 0
        with pytest.raises(InvalidInput, match="at least 5"):
            share_with_control(4, 4)


class TestIcc:
    def test_the_pool_is_weighted_and_never_negative(self) -> None:
        assert pooled_icc([(0.2, 30), (0.4, 10)]) == pytest.approx(0.25)
        assert pooled_icc([(-0.1, 20)]) == 0 and pooled_icc([]) is None

    def test_the_interval_covers(self) -> None:
        rng, covered = np.random.default_rng(41), 0
        for _ in range(300):
            units = rng.normal(0, 1, size=20)[:, None] + rng.normal(0, 2, size=(20, 6))
            between = 6 * units.mean(axis=1).var(ddof=1)
            within = units.var(axis=1, ddof=1).mean()
            interval = icc_interval(between, within, 19, 100, 6.0)
            covered += interval.low <= 0.2 <= interval.high
        assert covered / 300 >= 0.95 - 3 * sqrt(0.05 * 0.95 / 300)
        assert icc_interval(1.0, 0.0, 5, 5, 4.0) is None


class TestDifferentStarts:
    def test_what_the_start_explains_is_taken_out(self) -> None:
        rng = np.random.default_rng(51)
        start = np.concatenate([rng.normal(10, 1, 30), rng.normal(7, 1, 30)])
        values = 2 * start + rng.normal(0, 0.5, 60)
        found = adjusted_for_start(values, start, two(30), rng, 2_000)
        assert abs(found.estimate) < 0.6 and found.test.p > 0.05

    def test_what_it_does_not_explain_stays(self) -> None:
        rng = np.random.default_rng(52)
        start = rng.normal(10, 1, 60)
        values = start + np.repeat([3.0, 0.0], 30) + rng.normal(0, 0.5, 60)
        found = adjusted_for_start(values, start, two(30), rng, 2_000)
        assert found.estimate == pytest.approx(3, abs=0.4) and found.test.p < 0.01

    def test_one_start_or_three_arms_are_refused(self) -> None:
        rng = np.random.default_rng(1)
        with pytest.raises(InvalidInput, match="vary"):
            adjusted_for_start(np.arange(4.0), np.ones(4), two(2), rng, 10)
        three = ShuffledWithin(np.array([0, 1, 2, 0]), np.zeros(4, dtype=int))
        with pytest.raises(InvalidInput, match="two"):
            adjusted_for_start(np.arange(4.0), np.arange(4.0), three, rng, 10)


class TestNumberOverTime:
    DAYS = np.array([14.0, 28.0])
    COUNTS = np.array([[2.0, 6], [np.nan, 4], [0, 2], [1, np.nan]])

    def test_mean_and_area_by_arm_with_the_unknown_left_unknown(self) -> None:
        arm, alone = np.array([0, 0, 1, 1]), [[0], [1], [2], [3]]
        found = over_time(self.COUNTS, self.DAYS, arm, alone, np.zeros(4, dtype=int), np.random.default_rng(1), 100)
        assert found.counted.tolist() == [[1, 2], [2, 1]] and [
            np.isnan(found.mean[0, 0]),
            found.mean[0, 1],
            found.mean[1, 0],
            np.isnan(found.mean[1, 1]),
        ] == [True, 5, 0.5, True]
        assert found.area[:3].tolist() == [14 + 56, 56, 14] and np.isnan(found.area[3])
        assert found.mean_area == [63, 14] and found.test.p == pytest.approx(1 / 3)

    def test_an_arm_of_which_nothing_was_stuck_has_no_mean(self) -> None:
        """The first and the last of four arms have no cutting; none is taken for no root, and none is forgotten."""
        arm, alone = np.array([1, 1, 2, 2]), [[0], [1], [2], [3]]
        found = over_time(self.COUNTS, self.DAYS, arm, alone, np.zeros(4, dtype=int), np.random.default_rng(1), 100, 4)
        assert found.mean_area == [None, 63, 14, None] and found.counted[[0, 3]].sum() == 0
        assert np.isnan(found.mean[[0, 3]]).all()

    def test_pots_are_permuted_whole_and_days_must_rise(self) -> None:
        rng = np.random.default_rng(2)
        arm = np.repeat([0, 1], 12)
        counts = np.column_stack([np.zeros(24), np.where(arm == 0, 8, 1) + rng.integers(3, size=24)])
        pots = [list(range(i, i + 3)) for i in range(0, 24, 3)]
        found = over_time(counts.astype(float), self.DAYS, arm, pots, np.zeros(8, dtype=int), rng, 100)
        assert found.test.p == pytest.approx(2 / 70)
        with pytest.raises(InvalidInput, match="rise"):
            over_time(counts.astype(float), self.DAYS[::-1], arm, pots, np.zeros(8, dtype=int), rng, 100)


class TestNumbersThatAreSome:
    @pytest.mark.parametrize("value", [float("nan"), float("inf"), -float("inf")])
    def test_no_result_can_hold_another(self, value: float) -> None:
        for made in (
            lambda: Interval(value, 1, 0.95), lambda: Interval(0, value, 0.95), lambda: Difference(value, None, ""),
            lambda: RandomisationTest(value, True, None, None), lambda: RandomisationTest(0.5, True, None, value),
        ):  # fmt: skip
            with pytest.raises(NotFinite, match="no number"):
                made()
        assert ModelTest("m", chi2=value, df=1, p=value) == ModelTest("m", df=1)


def test_mcnemar_is_given_with_and_without_its_correction() -> None:
    rooted = np.array([[1, 0]] * 9 + [[0, 1]] * 3 + [[1, 1]] * 4)
    found = classical.mcnemar(rooted, np.ones_like(rooted))
    plain, corrected = found["mcnemar, chi-square"], found["mcnemar, chi-square with continuity correction"]
    assert plain.chi2 == pytest.approx(36 / 12) and corrected.chi2 == pytest.approx(25 / 12) and plain.p < corrected.p
    assert classical.mcnemar(np.ones((3, 2), dtype=int), np.ones((3, 2), dtype=int)) == {}


def test_a_p_beside_alpha_shows_its_side() -> None:
    assert [p_value(p) for p in (0.0496, 0.0504, 0.05, 0.049)] == ["p = 0.0496", "p = 0.0504", "p = 0.050", "p = 0.049"]
