"""What the strata of a test do to its sentence: reversals, likeness that does not hold everywhere, hurdles, arms never joined."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.comparisons import Comparison
from orderly_bench.core.judgement.lenses import look_through
from orderly_bench.core.judgement.more_units import Grown, with_more_units
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.judgement.strength import grade
from orderly_bench.core.judgement.verdict import Verdict
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.layouts.separate_parts.read import joined_parts
from orderly_bench.core.methods.difference import Difference
from orderly_bench.core.methods.rates import Interval
from orderly_bench.core.observations.table import Row
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.telling.headline import read
from orderly_bench.core.vocabulary import Strength


def counted(levels: tuple[str, ...], k: int, n: int, **groups: str) -> list[Row]:
    return [Row(levels, float(i < k), **groups) for i in range(n)]


def codes(found: Analysis) -> set[str]:
    return {c.code for c in found.cautions}


def analysed(rows: list[Row], factors: tuple[str, ...] = ("medium",), **settings: object) -> Analysis:
    return analyse(arrange(factors, rows), Settings(**{"draws": 999, "margin": 0.15, **settings}))


def in_blocks(cells: dict[str, tuple[int, int]], n: int) -> list[Row]:
    return [
        r
        for block, both in cells.items()
        for arm, k in zip("ab", both, strict=True)
        for r in counted((arm,), k, n, block=block)
    ]


class TestOneReplicate:
    """Of a side with one unit no model knows how far another would lie; the sides with more keep theirs."""

    @staticmethod
    def trays(**held: list[int]) -> list[Row]:
        return [
            r
            for arm, counts in held.items()
            for i, k in enumerate(counts)
            for r in counted(tuple(arm.split("_")), k, 10, unit=f"{arm}{i}")
        ]

    def test_an_arm_of_one_tray_has_no_second_opinion(self) -> None:
        held = {"bark": [3, 4, 2, 3], "sand": [8, 9, 7, 9]}
        alone, beside = (analysed(self.trays(**held, peat=peat)) for peat in ([6], [6, 5]))
        assert alone.model.p is None and alone.model.name == "no model"
        assert beside.model.p is not None and beside.model.p < 0.05

    def test_nor_has_a_factor_with_a_level_in_one_tray(self) -> None:
        held = {"bark_dip": [3, 4, 2], "bark_none": [3, 5, 4], "sand_dip": [8, 7, 9], "sand_none": [9, 7, 8]}
        found = analysed(self.trays(**held, peat_dip=[6]), ("medium", "dip"))
        models = {term.name: term.model.p for term in found.terms}
        assert models["medium"] is None and models["dip"] is not None


class TestReversal:
    def test_sides_that_change_places_between_blocks_can_not_be_told(self) -> None:
        found = analysed(in_blocks({"x": (19, 2), "y": (18, 3), "z": (5, 16), "w": (19, 1)}, 20))
        reading = read(found)
        assert found.comparisons[0].verdict.clear and reading.strength is Strength.CANNOT_TELL
        assert "reverses" in reading.codes and "ahead in w, x and y, b in z" in reading.headline

    def test_with_few_units_in_a_block_it_is_a_caution_only(self) -> None:
        found = analysed(in_blocks({"x": (4, 0), "y": (4, 0), "z": (0, 4), "w": (4, 0), "v": (4, 0)}, 4))
        doubt = next(c for c in found.cautions if c.code == "reverses")
        assert not doubt.serious and read(found).strength is not Strength.CANNOT_TELL

    def test_over_another_factor_there_is_no_such_floor(self) -> None:
        rows = [
            r for medium, hormone, k in (("bark", "IBA", 4), ("sand", "IBA", 0), ("bark", "none", 0), ("sand", "none", 4))
            for r in counted((medium, hormone), k, 4)
        ]  # fmt: skip
        found = analysed(
            [*rows, *counted(("bark", "NAA"), 4, 4), *counted(("sand", "NAA"), 0, 4)], ("medium", "hormone")
        )
        medium = next(t for t in found.terms if t.name == "medium").contrasts[0]
        assert medium.varies is not None and medium.varies[0].over == "factor" and not medium.varies[0].fragile


class TestTheSame:
    ALIKE = {"x": (48, 48), "y": (50, 49), "z": (47, 49)}

    def test_it_is_said_where_it_holds_everywhere(self) -> None:
        found = analysed(in_blocks(self.ALIKE, 100))
        assert found.comparisons[0].verdict is Verdict.SAME and read(found).strength is Strength.SHOWN_ALIKE

    def test_it_is_not_said_where_it_is_a_mean_of_unlike_ones(self) -> None:
        found = analysed(in_blocks({"x": (60, 36), "y": (49, 50), "z": (36, 60)}, 100), not_worse=True)
        c = found.comparisons[0]
        assert c.verdict is Verdict.NOT_SETTLED and "varies_between_strata" in codes(found)
        assert c.not_worse is not None and not c.not_worse.holds
        assert "differ from block to block (x \u221224, y +1, z +24 points)" in read(found).headline
        assert with_more_units(found).comparisons[0].more_units is None

    def test_of_lengths_it_needs_rooting_to_be_the_same(self) -> None:
        def rows(rooted_b: int) -> list[Row]:
            return [
                Row((arm,), 20.0 + i % 5 if i < k else 0.0)
                for arm, k in (("a", 40), ("b", rooted_b))
                for i in range(40)
            ]

        settings = {"response": Response.LONGEST, "margin": 6.0}
        alike = analysed(rows(40), **settings)
        assert alike.comparisons[0].verdict is Verdict.SAME
        apart = analysed([r if r.response else replace(r, response=22.0, rooted=0.0) for r in rows(30)], **settings)
        c = apart.comparisons[0]
        assert c.verdict is Verdict.NOT_SETTLED and c.hurdle_held and c.hurdle is not None and c.hurdle.b == (30, 40)
        assert "Rooting is not shown to be the same" in read(apart).headline and "hurdle" in codes(apart)

    def test_grades_without_a_word_on_rooting_are_never_the_same(self) -> None:
        rows = [Row((arm,), float(i % 5)) for arm in "ab" for i in range(150)]
        settings = {"response": Response.QUALITY, "margin": 0.2}
        assert analysed(rows, **settings).comparisons[0].verdict is Verdict.NOT_SETTLED
        known = analysed([replace(r, rooted=1.0) for r in rows], **settings)
        assert known.comparisons[0].verdict is Verdict.SAME

    def test_fewer_than_five_rooted_on_a_side_are_too_few(self) -> None:
        rows = [Row((arm,), 3.0 if i < 4 else 0.0) for arm in "ab" for i in range(60)]
        c = analysed(rows, response=Response.LONGEST, margin=5.0).comparisons[0]
        assert c.hurdle is not None and not c.hurdle.holds(0.05) and c.verdict is not Verdict.SAME


def test_a_clear_p_whose_figures_point_two_ways_can_not_be_told() -> None:
    """Made by hand: the frame that gives all of them keeps them together, and the rule stands above that."""
    found = analysed([*counted(("a",), 18, 20), *counted(("b",), 4, 20)])
    c = found.comparisons[0]
    turned_round = replace(c, difference=Difference(-0.3, Interval(-0.4, -0.2, 0.95), ""))
    assert turned_round.direction_differs and not c.direction_differs
    graded = grade(turned_round, [], False)
    assert graded.strength is Strength.CANNOT_TELL and "direction_differs" in graded.codes
    assert not replace(turned_round, p_adjusted=0.2).direction_differs


class TestNeverJoined:
    ROWS = [
        *in_blocks({"x": (8, 2), "y": (9, 3)}, 10),
        *[replace(r, levels=({"a": "c", "b": "d"}[r.levels[0]],)) for r in in_blocks({"z": (9, 2), "w": (7, 1)}, 10)],
    ]

    def test_arms_of_different_parts_have_nothing_between_them(self) -> None:
        found = analysed(self.ROWS)
        by_pair = {(c.a.name, c.b.name): c for c in found.comparisons}
        apart, joined = by_pair["a", "c"], by_pair["a", "b"]
        assert apart.p is None and apart.difference.estimate is None and not apart.joined
        # Holm over the two pairs that can be compared, not over six.
        both = sorted((c.p, c.p_adjusted) for c in found.comparisons if c.p is not None)
        assert joined.p is not None and len(both) == 2 and both[0][1] == pytest.approx(2 * both[0][0])
        assert "not_joined" in codes(found) and found.letters == {} and found.test.p is not None

    def test_the_parts_are_found_by_chains_of_blocks(self) -> None:
        held = np.array([[1, 1, 0, 0], [0, 1, 1, 0], [0, 0, 0, 1]], dtype=bool)
        assert joined_parts(held).tolist() == [0, 0, 0, 1]


def test_a_cell_of_a_square_is_a_unit_whether_it_is_said_or_not() -> None:
    made = [
        Row((f"m{(r + c) % 3}",), float((r + c + i) % 2), row=str(r), column=str(c)) for r in range(3) for c in range(3) for i in range(2)
    ]  # fmt: skip
    assert layout_of(arrange(("medium",), made)).unit_count == 9


def test_arms_whose_names_would_be_one_are_told_apart() -> None:
    rows = [*counted(("a + b", "c"), 8, 10), *counted(("a", "b + c"), 2, 10)]
    found = analysed(rows, ("medium", "hormone"))
    assert len(set(found.observations.names)) == 2 and found.comparisons[0].a.name != found.comparisons[0].b.name


def test_what_can_not_convince_is_said_whatever_was_seen() -> None:
    clear_enough = analysed([*counted(("a",), 10, 10), *counted(("b",), 0, 10)])
    assert "cannot_convince" not in codes(clear_enough)
    four = [r for arm in "abcd" for r in counted((arm,), 2, 4)]
    doubt = next(c for c in analysed(four).cautions if c.code == "cannot_convince")
    assert doubt.serious and "0.17" in doubt.text  # 2 / C(8, 4) x 6 pairs


class TestOneUnit:
    ROWS = [*counted(("a",), 44, 48, unit="a0"), *[r for u in range(6) for r in counted(("b",), 2, 8, unit=f"b{u}")]]

    def test_it_has_neither_interval_nor_posterior(self) -> None:
        found = analysed(self.ROWS)
        c = found.comparisons[0]
        assert c.p is None and c.difference.interval is None and found.arms[0].interval is None
        assert look_through(found).bayes == {} and with_more_units(found).comparisons[0].more_units is None

    def test_fewer_than_four_units_have_no_posterior(self) -> None:
        def lens(units: int) -> bool:
            rows = [r for arm in "ab" for u in range(units) for r in counted((arm,), 2 + (u % 2), 6, unit=f"{arm}{u}")]
            return bool(look_through(analysed(rows)).bayes)

        assert not lens(3) and lens(4)


class TestMoreUnits:
    def pots(self, *arms: tuple[str, tuple[int, ...], int]) -> list[Row]:
        return [r for arm, ks, n in arms for u, k in enumerate(ks) for r in counted((arm,), k, n, unit=f"{arm}{u}")]

    def test_a_lone_large_vessel_says_nothing_of_what_pots_hold(self) -> None:
        two = (("a", (2, 1, 3, 2, 1, 2), 4), ("b", (3, 2, 3, 4, 2, 2), 4))
        grown = Grown(analysed(self.pots(*two, ("c", (30,), 48))))
        assert grown._sizes(0, 9).tolist() == [4] * 9 and set(grown._sizes(2, 5).tolist()) == {4}

    @pytest.mark.parametrize("blocks", [1, 4])
    def test_the_number_finds_it_and_one_fewer_does_not(self, blocks: int) -> None:
        rows = [
            replace(r, block=f"b{i % blocks}") if blocks > 1 else r
            for arm, k in (("a", 20), ("b", 28))
            for i, r in enumerate(counted((arm,), k, 40))
        ]
        found = with_more_units(analysed(rows))
        more = found.comparisons[0].more_units
        assert more is not None and more % blocks == 0
        again = Grown(replace(found, settings=replace(found.settings, seed=9)))
        step = again.step
        assert again.chance(0, more, 4_000) >= 0.77 and again.chance(0, more - step, 4_000) <= 0.83

    def test_a_search_that_takes_too_long_says_so(self, monkeypatch: pytest.MonkeyPatch) -> None:
        monkeypatch.setattr("orderly_bench.core.judgement.more_units.BUDGET", 1e4)
        found = with_more_units(analysed(self.pots(("a", (2, 1, 3, 2, 1, 2), 4), ("b", (3, 2, 3, 4, 2, 2), 4))))
        assert found.comparisons[0].more_units is None and found.comparisons[0].more_units_open == "stopped"
        assert "takes longer" in read(found).grade


def test_units_of_very_unequal_size_are_weighed_beside() -> None:
    """Ten pots of one against two large ones: by pots a is ahead, by cuttings hardly."""
    rows = [
        *[r for u in range(9) for r in counted(("a",), 1, 1, unit=f"a{u}")], *counted(("a",), 20, 90, unit="a9"),
        *[r for u in range(9) for r in counted(("b",), u % 3 == 0, 1, unit=f"b{u}")], *counted(("b",), 60, 90, unit="b9"),
    ]  # fmt: skip
    found = analysed(rows)
    c: Comparison = found.comparisons[0]
    assert c.verdict.clear and c.weighted_p is not None and c.weighted_p > 0.05
    assert "unit_sizes_differ" in grade(c, found.cautions, False).codes


def test_a_margin_beyond_a_third_of_the_days_is_asked_about() -> None:
    rows = [
        Row((arm,), None, outcome="rooted", last_without_day=14.0 + i % 2, first_with_day=21.0 + 7 * (i % 2))
        for arm in "ab"
        for i in range(12)
    ]
    assert "margin_wide" in codes(analysed(rows, response=Response.DAYS, margin=12.0))
    assert "margin_wide" not in codes(analysed(rows, response=Response.DAYS, margin=5.0))


def test_judges_that_part_over_a_factor_are_said() -> None:
    found = analysed(
        [r for m, k in (("a", 3), ("b", 0)) for h in "xy" for r in counted((m, h), k, 6)], ("medium", "hormone")
    )
    term = next(t for t in found.terms if t.name == "medium")
    parted = term.test is not None and term.model.p is not None and (term.test.p < 0.05) != (term.model.p < 0.05)
    assert parted == any(c.code == "judges_disagree" and "medium" in c.text for c in found.cautions)


def test_a_kind_of_plant_is_suggested_at_most_and_a_cutting_type_is_not() -> None:
    rows = [*counted(("a",), 19, 20), *counted(("b",), 3, 20)]
    assert read(analysed(rows, ("cultivar",))).strength is Strength.SUGGESTED
    assert read(analysed(rows, ("cutting type",))).strength is Strength.SHOWN


@pytest.mark.parametrize("each", [1, 4, 110])
@pytest.mark.parametrize("response", [Response.ROOTED, Response.ROOT_COUNT, Response.LONGEST])
def test_a_perfect_crossover_in_blocks_has_no_second_opinion_and_breaks_nothing(each: int, response: Response) -> None:
    rows = [
        Row((one, other), float((one == "x") == (other == "u")), block=f"b{b}")
        for b in range(4)
        for one in "xy"
        for other in "uv"
        for _ in range(each)
    ]
    found = analysed(rows, ("a", "b"), response=response, margin={"rooted": 0.15, "root_count": 1.5}.get(response, 5.0))
    assert found.model.p is None and read(found).strength is Strength.CANNOT_TELL
