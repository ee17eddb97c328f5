"""What a sentence may rest on: each rule with a table that raises it and one that does not."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.more_units import with_more_units
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.judgement.strength import grade
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.methods.two_arms import pair_power
from orderly_bench.core.observations.table import NOT_STUCK, Row
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.telling.headline import more_units_words, read
from orderly_bench.core.telling.one_rate import one_rate
from orderly_bench.core.vocabulary import Strength


def cuttings(arm: str, rooted: int, failed: int, unknown: int = 0, **more: object) -> list[Row]:
    outcomes = [1.0] * rooted + [0.0] * failed + [None] * unknown
    return [Row((arm,), outcome, **more) for outcome in outcomes]  # type: ignore[arg-type]


def judged(*rows: list[Row], factors: tuple[str, ...] = ("medium",), **settings: object) -> Analysis:
    chosen = Settings(**{"margin": 0.15, "draws": 2_000, **settings})  # type: ignore[arg-type]
    return analyse(arrange(factors, [row for part in rows for row in part]), chosen)


def codes(found: Analysis) -> set[str]:
    return {c.code for c in found.cautions}


class TestUnknownOutcomes:
    def test_the_range_goes_from_end_to_end_with_its_own_p(self) -> None:
        found = judged(cuttings("a", 14, 4, 2), cuttings("b", 6, 13, 1)).comparisons[0]
        span = found.range
        assert (span.low, span.high) == (pytest.approx(14 / 20 - 7 / 20), pytest.approx(16 / 20 - 6 / 20))
        whole = judged(cuttings("a", 14, 6), cuttings("b", 7, 13)).comparisons[0]
        assert span.p_low == pytest.approx(whole.p_adjusted) and span.unknown == 3

    def test_a_verdict_that_hangs_on_them_cannot_be_told(self) -> None:
        found = judged(cuttings("a", 15, 3, 2), cuttings("b", 8, 11, 1))
        reading = read(found)
        assert found.comparisons[0].verdict.clear and not found.comparisons[0].range.holds
        assert reading.strength == "cannot tell" and reading.codes == ("range_changes_verdict",)
        assert "range_changes_verdict" in codes(found)
        assert reading.headline == (
            "Cannot tell a from b: 15 of 18 (83 %; 2 unknown) against 8 of 19 (42 %; 1 unknown). "
            "The unknown could turn the answer."
        )

    def test_one_that_does_not_hang_on_them_stays_shown(self) -> None:
        found = judged(cuttings("a", 19, 0, 1), cuttings("b", 2, 17, 1))
        assert read(found).strength == "shown" and "range_changes_verdict" not in codes(found)
        assert "19 of 19 (100 %; 1 unknown)" in read(found).headline

    def test_without_unknown_there_is_no_range(self) -> None:
        assert judged(cuttings("a", 14, 6), cuttings("b", 6, 14)).comparisons[0].range is None

    def test_by_pots_too(self) -> None:
        def pots(arm: str, rooted: int, lost: int) -> list[Row]:
            return [
                Row((arm,), None if i < lost else float(i < rooted + lost), unit=f"{arm}{p}")
                for p in range(6)
                for i in range(5)
            ]

        found = judged(pots("a", 4, 0), pots("b", 2, 1))
        span = found.comparisons[0].range
        assert (span.low, span.high) == (pytest.approx(0.8 - 3 / 5), pytest.approx(0.8 - 2 / 5))

    def test_of_three_arms_the_others_stay_as_they_are(self) -> None:
        found = judged(cuttings("a", 18, 2), cuttings("b", 9, 9, 2), cuttings("c", 3, 17))
        spans = {(c.a.name, c.b.name): c.range for c in found.comparisons}
        assert spans["a", "c"] is None and spans["a", "b"].unknown == spans["b", "c"].unknown == 2

    def test_grades_range_from_nothing_to_five(self) -> None:
        rows = [Row((arm,), float(3 + (arm == "a"))) for arm in "ab" for _ in range(12)] + [Row(("a",), None)]
        found = judged(rows, response=Response.QUALITY, margin=0.1).comparisons[0]
        assert found.range.low == pytest.approx(12 / 13) and found.range.high == 1

    def test_a_lost_record_moves_no_other_figure(self) -> None:
        rng = np.random.default_rng(3)
        rows = [Row((arm,), float(rng.poisson(3)), unit=f"{arm}{i // 3}") for arm in "abc" for i in range(24)]
        settings = {"response": Response.ROOT_COUNT, "margin": 1.5}
        whole, lost = judged(rows, **settings), judged(rows, [Row(("c",), None, unit="c0")], **settings)
        assert lost.test == whole.test and lost.comparisons[0].p == whole.comparisons[0].p


class TestWhatWasAskedIsWhatIsShown:
    def counted(self, unknown: int) -> list[Row]:
        rng = np.random.default_rng(4)
        rows = [Row((arm,), float(rng.poisson(mean))) for arm, mean in (("a", 6), ("b", 2)) for _ in range(20)]
        return [*rows, *[Row(("a",), None) for _ in range(unknown)]]

    def test_over_a_fifth_uncounted_is_described_and_not_tested(self) -> None:
        found = judged(self.counted(6), response=Response.ROOT_COUNT, margin=1.5)
        pair = found.comparisons[0]
        assert found.test.p is pair.p is pair.difference.interval is None and pair.difference.estimate > 1
        assert "described_only" in codes(found) and read(found).strength == "cannot tell"
        assert "Too much is unknown" in read(found).headline and "6 unknown)" in read(found).headline
        assert found.arms[0].estimate > found.arms[1].estimate

    def test_a_few_uncounted_cap_it_and_fewer_do_not(self) -> None:
        capped, clear = (judged(self.counted(n), response=Response.ROOT_COUNT, margin=1.5) for n in (3, 1))
        assert (read(capped).strength, read(capped).codes) == ("suggested", ("left_out",))
        assert read(clear).strength == "shown" and capped.comparisons[0].range is None

    @pytest.mark.parametrize(
        ("response", "tested"), [("rooted", True), ("alive", True), ("fit_to_pot_on", False), ("quality", False)]
    )
    def test_rooted_and_alive_are_judged_by_their_range_instead(self, response: str, tested: bool) -> None:
        rows = [cuttings("a", 18, 2, 6), cuttings("b", 3, 17)]
        found = judged(*rows, response=Response(response), margin=0.15)
        assert (found.test.p is not None) is tested and ("described_only" in codes(found)) is not tested


class TestOneUnit:
    def test_blocks_of_one_arm_each_give_nothing(self) -> None:
        rows = [cuttings("a", 9, 1, block=b) for b in ("1", "2")] + [cuttings("b", 2, 8, block=b) for b in ("3", "4")]
        found = judged(*rows)
        pair = found.comparisons[0]
        assert found.test.p is pair.p is pair.difference.estimate is None and "block_is_arm" in codes(found)
        assert read(found).strength == "cannot tell" and "Every block holds one arm only" in read(found).headline
        assert [(arm.rooted, arm.stuck) for arm in found.arms] == [(18, 20), (4, 20)]

    def test_one_such_block_beside_whole_ones_changes_nothing_but_the_counts(self) -> None:
        whole = [cuttings(arm, k, 8 - k, block=b) for b in ("1", "2") for arm, k in (("a", 7), ("b", 2))]
        found, less = judged(*whole, cuttings("a", 0, 8, block="3")), judged(*whole)
        assert (
            found.test == less.test
            and found.design == less.design
            and found.comparisons[0].difference == less.comparisons[0].difference
        )
        assert "one_arm_block" in codes(found) and found.arms[0].stuck == less.arms[0].stuck + 8

    def test_a_single_cutting_has_no_p_and_no_verdict(self) -> None:
        found = judged(cuttings("a", 1, 0), cuttings("b", 0, 12))
        assert found.comparisons[0].p is None and read(found).codes == ("one_unit",)
        assert "One unit is one replicate" in read(found).headline


class TestSameTestSameP:
    @pytest.mark.parametrize("response", [Response.ROOT_COUNT, Response.LONGEST, Response.QUALITY])
    def test_two_arms_have_one_p(self, response: Response) -> None:
        rng = np.random.default_rng(8)
        rows = [Row((arm,), float(rng.integers(6))) for arm in "ab" for _ in range(40)]
        margin = {Response.ROOT_COUNT: 1.5, Response.LONGEST: 2.0, Response.QUALITY: 0.1}[response]
        found = judged(rows, response=response, margin=margin)
        assert found.test.exact and found.comparisons[0].test == found.test

    def test_ten_against_ten_is_exact_whatever_the_numbers(self) -> None:
        rng = np.random.default_rng(9)
        rows = [Row((arm,), float(rng.normal(20, 5))) for arm in "ab" for _ in range(10)]
        assert judged(rows, response=Response.LONGEST, margin=5).test.exact


class TestALook:
    ROWS = (cuttings("a", 2, 0), cuttings("b", 0, 2))

    def test_counts_and_nothing_else(self) -> None:
        found = judged(*self.ROWS, look=True)
        assert found.test.p is None and found.comparisons == found.terms == [] and found.letters == {}
        assert [arm.interval for arm in found.arms] == [None, None] and not found.trends
        reading = read(found)
        assert reading.headline.startswith("Counts only, to see what to test next: a 2 of 2 (100 %); b 0 of 2 (0 %)")
        assert (reading.strength, reading.codes) == ("cannot tell", ("look",))

    def test_a_test_of_the_same_has_them(self) -> None:
        assert judged(*self.ROWS).comparisons and judged(*self.ROWS).arms[0].interval is not None


class TestARate:
    def test_count_interval_and_bound(self) -> None:
        found = one_rate(arrange((), [Row((), 1.0)] * 3, 1), Settings())
        assert found.bound == {"side": "above", "value": pytest.approx(0.05 ** (1 / 3))}
        assert found.sentence == "3 of 3 (100 %) rooted; the true rate is above 37 % at 95 %, one-sided."
        some = one_rate(arrange((), [Row((), float(i < 31)) for i in range(50)], 1), Settings())
        assert some.bound is None and some.sentence.startswith("31 of 50 (62 %) rooted, 95 % interval 48 to 74 %")

    def test_by_units_and_of_one_unit_no_interval(self) -> None:
        pots = [Row(("a",), float(i % 3 > 0), unit=f"p{i // 5}") for i in range(30)]
        assert one_rate(arrange(("m",), pots, 1), Settings()).units == 6
        jar = one_rate(arrange(("m",), [replace(row, unit="jar") for row in pots], 1), Settings())
        assert jar.arm.interval is None and "all in one unit" in jar.sentence and jar.bound is None

    def test_two_arms_or_numbers_are_no_rate(self) -> None:
        with pytest.raises(UnusableData, match="a rate is of one"):
            one_rate(arrange(("m",), [*cuttings("a", 1, 1), *cuttings("b", 1, 1)], 1), Settings())
        with pytest.raises(InvalidInput, match="yes or no"):
            one_rate(arrange((), [Row((), 3.0)], 1), Settings(response=Response.ROOT_COUNT))


class TestNotWorse:
    def test_the_lower_limit_decides_with_five_units_or_more(self) -> None:
        settings = {"not_worse": True, "control": ("b",), "against_control": True}
        holds = judged(cuttings("a", 90, 10), cuttings("b", 90, 10), **settings).comparisons[0].not_worse
        assert holds.holds and -0.15 < holds.limit < 0
        few = judged(cuttings("a", 4, 0), cuttings("b", 4, 0), margin=0.9, not_worse=True).comparisons[0].not_worse
        assert few.limit > -0.9 and not few.holds
        worse = judged(cuttings("a", 70, 30), cuttings("b", 90, 10), not_worse=True).comparisons[0].not_worse
        assert not worse.holds

    def test_needs_a_margin_and_is_not_there_unasked(self) -> None:
        with pytest.raises(InvalidInput, match="margin"):
            Settings(not_worse=True)
        assert judged(cuttings("a", 9, 1), cuttings("b", 9, 1)).comparisons[0].not_worse is None


class TestMoreUnits:
    def test_two_arms_by_enumeration_and_the_least(self) -> None:
        found = with_more_units(judged(cuttings("a", 13, 7), cuttings("b", 8, 12))).comparisons[0].more_units
        powers = {m: pair_power(13 / 20, 20 + m, 8 / 20, 20 + m, 0.05) for m in (found - 1, found)}
        assert powers[found] >= 0.8 > powers[found - 1]

    def test_nothing_beyond_tenfold_nor_where_the_rates_are_one_nor_when_settled(self) -> None:
        near, same = (
            judged(cuttings("a", 10, 10), cuttings("b", 9, 11)),
            judged(cuttings("a", 9, 11), cuttings("b", 9, 11)),
        )
        for made, why, words in ((near, "beyond", "not even ten times"), (same, "even", "no number of units")):
            found = with_more_units(made)
            assert (found.comparisons[0].more_units, found.comparisons[0].more_units_open) == (None, why)
            assert words in more_units_words(found.comparisons[0], found)
        clear = judged(cuttings("a", 19, 1), cuttings("b", 1, 19))
        assert (
            with_more_units(clear).comparisons[0].more_units_open,
            more_units_words(clear.comparisons[0], clear),
        ) == ("", "")

    def test_with_a_family_it_takes_more(self) -> None:
        two = [cuttings("a", 14, 6), cuttings("b", 9, 11)]
        alone = with_more_units(judged(*two)).comparisons[0].more_units
        third = with_more_units(judged(*two, cuttings("c", 11, 9))).comparisons[0].more_units
        assert third > alone

    def test_blocks_pots_and_pairs_have_one_and_squares_none(self) -> None:
        blocks = [cuttings(arm, k, 6 - k, block=b) for b in "1234" for arm, k in (("a", 4), ("b", 3))]
        found = with_more_units(judged(*blocks)).comparisons[0].more_units
        assert found is not None and found % 4 == 0
        pots = [
            Row((arm,), float(i < k), unit=f"{arm}{p}")
            for arm, ks in (("a", (5, 3, 4, 1)), ("b", (2, 3, 1, 2)))
            for p, k in enumerate(ks)
            for i in range(5)
        ]
        assert with_more_units(judged(pots)).comparisons[0].more_units is not None
        pairs = [
            Row((arm,), outcome, pair=f"s{i}")
            for i in range(12)
            for arm, outcome in (("a", float(i < 8)), ("b", float(2 <= i < 6)))
        ]
        assert with_more_units(judged(pairs)).comparisons[0].more_units is not None
        square = [
            Row(("abc"[(r + c) % 3],), float((r + c) % 3 == 0 and r > 0), row=str(r), column=str(c))
            for r in range(3)
            for c in range(3)
        ]
        found = with_more_units(judged(square)).comparisons[0]
        assert (found.more_units, found.more_units_open) == (None, "layout")


class TestWhereTheyDisagree:
    def test_overall_without_a_pair_and_the_reverse(self) -> None:
        spread = judged(*(cuttings(arm, k, 20 - k) for arm, k in zip("abcdef", (4, 7, 9, 11, 12, 13), strict=True)))
        if spread.test.p < 0.05:
            assert not any(c.p_adjusted < 0.05 for c in spread.comparisons) and "overall_without_pair" in codes(spread)
        one = judged(cuttings("a", 18, 2), cuttings("b", 3, 17), cuttings("c", 4, 16))
        assert "overall_without_pair" not in codes(one)

    def test_the_interval_and_the_p_are_reconciled_once(self) -> None:
        found = judged(cuttings("a", 13, 7), cuttings("b", 6, 14))
        pair = found.comparisons[0]
        assert pair.p > 0.05 and pair.difference.interval.low > 0
        doubts = [c for c in found.cautions if c.code == "interval_against_p"]
        assert len(doubts) == 1 and "p moves in steps" in doubts[0].text
        assert "interval_against_p" not in codes(judged(cuttings("a", 18, 2), cuttings("b", 2, 18)))

    def test_two_ps_are_told_apart_by_their_figures(self) -> None:
        found = judged(cuttings("a", 13, 7), cuttings("b", 7, 13), alpha=0.1)
        doubt = next(c for c in found.cautions if c.code == "judges_disagree")
        first, second = doubt.text.split("(p ")[1:]
        assert first.split(")")[0] != second.split(")")[0]


class TestAdjustedRates:
    CELLS = (("bark", "b1", 9, 10), ("bark", "b2", 18, 60), ("sand", "b1", 45, 60), ("sand", "b2", 0, 10))

    def test_in_blocks_by_the_weights_of_the_pair(self) -> None:
        rows = [Row((m,), float(i < k), block) for m, block, k, n in self.CELLS for i in range(n)]
        pair = judged(rows).comparisons[0]
        weight = 60 * 10 / 70
        assert pair.adjusted[0] == pytest.approx((weight * 0.9 + weight * 0.3) / (2 * weight))
        assert pair.adjusted[0] - pair.adjusted[1] == pytest.approx(pair.difference.estimate)
        assert (
            "22.5 points, 60.0 % against 37.5 % adjusted for where they stood; as counted 27 of 70"
            in read(judged(rows)).headline
        )

    def test_with_pots_the_mean_of_the_pots_and_in_squares_least_squares(self) -> None:
        pots = [
            Row((arm,), float(i < k), unit=f"{arm}{p}")
            for arm, sizes in (("a", ((4, 4), (1, 6), (2, 4))), ("b", ((0, 4), (3, 6), (1, 4))))
            for p, (k, n) in enumerate(sizes)
            for i in range(n)
        ]
        pair = judged(pots).comparisons[0]
        assert pair.adjusted[0] == pytest.approx((1 + 1 / 6 + 1 / 2) / 3)
        square = [
            Row(("abc"[(r + c) % 3],), float(i < (r + c) % 3 + 1), row=str(r), column=str(c), unit=f"{r}{c}")
            for r in range(3)
            for c in range(3)
            for i in range(4)
        ]
        found = judged(square).comparisons[0]
        assert found.adjusted == (pytest.approx(0.25), pytest.approx(0.5))


class TestNotStuck:
    def test_uneven_gaps_are_named_and_leave_every_denominator(self) -> None:
        empty = [Row(("a",), None, state=NOT_STUCK)] * 5
        found = judged(cuttings("a", 10, 5), cuttings("b", 5, 15), empty)
        assert "not_stuck_uneven" in codes(found) and found.arms[0].stuck == 15 and found.arms[0].left_out == 0
        even = judged(cuttings("a", 10, 9), cuttings("b", 5, 14), empty[:1], [replace(empty[0], levels=("b",))])
        assert "not_stuck_uneven" not in codes(even)


class TestDaysOfLooking:
    def lives(self, first: tuple[float, float], second: tuple[float, float]) -> list[Row]:
        rows = []
        for arm, days in (("a", first), ("b", second)):
            for i in range(12):
                last, found = (0.0, days[0]) if i < 6 else (days[0], days[1])
                rows.append(Row((arm,), None, last_without_day=last, first_with_day=found, outcome="rooted"))
        return rows

    def test_arms_seen_on_different_days_are_not_called_sooner(self) -> None:
        apart = judged(self.lives((14, 28), (21, 28)), response=Response.DAYS, margin=2)
        assert "looked_on_different_days" in codes(apart) and read(apart).strength == "cannot tell"
        assert "sooner" not in read(apart).headline and "looked at on different days" in read(apart).headline
        same = judged(self.lives((14, 28), (14, 28)), response=Response.DAYS, margin=2)
        assert "looked_on_different_days" not in codes(same)
        assert same.comparisons[0].days.possible is None

    def test_the_gap_is_given_by_the_first_and_last_days_on_which_each_could_have_rooted(self) -> None:
        """By hand, horizon 28: a has 7 to 20 mean rooted-days, b 3.5 to 16.5."""
        apart = judged(self.lives((14, 28), (21, 28)), response=Response.DAYS, margin=2)
        found = apart.comparisons[0].days
        assert found.possible == (pytest.approx(7 - 16.5), pytest.approx(20 - 3.5))
        doubt = next(c for c in apart.cautions if c.code == "looked_on_different_days")
        assert "a minus b lies between -10 and 16 mean rooted-days" in doubt.text


class TestStrengthOfEach:
    def test_factors_that_changed_together_cannot_be_told_and_arms_are_named_whole(self) -> None:
        rows = [
            Row((m, h), float(i < k)) for m, h, k in (("pumice", "IBA", 18), ("bark", "none", 5)) for i in range(20)
        ]
        found = judged(rows, factors=("medium", "hormone"))
        reading = read(found)
        assert [t.contrasts for t in found.terms[:2]] == [[], []]
        assert reading.headline.startswith("Pumice + IBA rooted more than bark + none: 18 of 20")
        assert reading.headline.endswith("Medium and hormone changed together.")
        assert reading.codes == ("aliased",) and reading.strength == "suggested"

    def test_a_crossed_factor_keeps_its_verdict_beside_a_season_without_waves(self) -> None:
        rows = [
            Row((season, medium), float(i < k))
            for season, medium, k in (
                ("spring", "bark", 22), ("spring", "sand", 4), ("summer", "bark", 20), ("summer", "sand", 3),
            )
            for i in range(24)
        ]  # fmt: skip
        found = judged(rows, factors=("season", "medium"))
        assert read(found).headline.startswith("Bark rooted more than sand") and read(found).strength == "shown"
        apart = next(c for c in found.comparisons if "spring" in c.a.name and "summer" in c.b.name)
        assert grade(apart, found.cautions, False).codes == ("season_not_waves",)

    def test_the_headline_is_of_the_strongest(self) -> None:
        found = judged(cuttings("a", 19, 1), cuttings("b", 10, 4, 6), cuttings("c", 3, 17))
        assert read(found).findings[0].graded.strength is Strength.SHOWN
        assert read(found).headline.startswith("A rooted more than c")
        assert {f.graded.strength for f in read(found).findings} >= {Strength.CANNOT_TELL}


def test_a_property_of_the_pieces_is_said_to_be_one() -> None:
    rows = [Row((kind,), float(i < k)) for kind, k in (("tip", 18), ("heel", 4)) for i in range(20)]
    named = read(analyse(arrange(("cutting_type",), rows), Settings(margin=0.15))).headline
    assert named.endswith("This speaks of these pieces: cutting_type is a property of them and was not assigned.")
    told = Settings(margin=0.15, properties=("position",))
    assert "these pieces" in read(analyse(arrange(("position",), rows), told)).headline
    assert "these pieces" not in read(analyse(arrange(("medium",), rows), told)).headline


def test_a_bare_number_is_said_with_its_factor() -> None:
    rows = [Row((dose,), float(i < k)) for dose, k in (("0", 3), ("1000", 18)) for i in range(20)]
    found = analyse(arrange(("hormone",), rows), Settings(margin=0.15))
    assert read(found).headline.startswith("Hormone 1000 rooted more than hormone 0:")
    assert [c.a.name for c in found.comparisons] == ["0"]


def test_classes_have_a_middle_one_and_days_their_area() -> None:
    classes = [Row((arm,), floor) for arm, floor in (("a", 5.0), ("b", 0.0)) for _ in range(9)]
    said = read(judged(classes, response=Response.ROOT_CLASS, margin=0.1)).headline
    assert "middle class from 5 (n 9) against middle class from 0 (n 9)" in said
    days = [
        Row((arm,), None, last_without_day=d - 7, first_with_day=d, outcome="rooted")
        for arm, d in (("a", 14.0), ("b", 28.0))
        for _ in range(9)
    ]
    looked = [replace(row, last_without_day=14.0) if row.first_with_day == 28 else row for row in days]
    assert (
        "mean rooted-days 14 (n 9, 9 rooted) against mean rooted-days 0 (n 9, 9 rooted)"
        in read(judged(looked, response=Response.DAYS, margin=2)).headline
    )


def test_a_joint_redraw_never_makes_a_pair_clearer_than_its_own_test() -> None:
    """Five of five against none of five in four blocks: the pair's own p is 1/24, whatever strong arms stand beside it."""
    rates = {"none": 0, "weak": 5, "strong": 5, "stronger": 3}
    rows = [Row((arm,), float(i < k), f"b{i % 4}") for arm, k in rates.items() for i in range(5)]
    found = judged(rows, control=("none",), against_control=True, max_t=True)
    assert all(c.p is not None and c.p_adjusted is not None and c.p_adjusted >= c.p for c in found.comparisons)
    assert found.comparisons[0].p == pytest.approx(1 / 24)
