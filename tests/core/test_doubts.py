"""Every coded doubt: a case that raises it, and one that does not."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orderly_bench.core.compare.as_done import Treated, doubt_about_treatments, planned_and_done
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.methods.superiority import superiority
from orderly_bench.core.observations.table import Row
from orderly_bench.core.responses.classes import class_floor, class_of, read_classes
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.score.visibility import doubts_about_visibility
from orderly_bench.core.vocabulary import KnownBy
from tests.core.effects import superiority_of_pots


def codes(cautions: list) -> set[str]:
    return {caution.code for caution in cautions}


def analysed(rows: list[Row], factors: tuple[str, ...] = ("medium",), **options: object) -> Analysis:
    return analyse(arrange(factors, rows), Settings(**options))


def trial(a: str, b: str, **groups: list[str]) -> list[Row]:
    """Rows of arms bark and sand from strings of 1 and 0; groups give a name a cutting."""
    levels = [("bark",)] * len(a) + [("sand",)] * len(b)
    return [
        Row(level, float(x), **{name: values[i] for name, values in groups.items()})
        for i, (level, x) in enumerate(zip(levels, a + b, strict=True))
    ]


def test_arms_seen_through_different_walls() -> None:
    clear, dark = [KnownBy.WALL] * 9 + [KnownBy.LIFTED], [KnownBy.TUG] * 7 + [KnownBy.LIFTED] * 3
    found = doubts_about_visibility({"bark": clear, "sand": dark})
    assert codes(found) == {"unequal_visibility", "mixed_evidence"}
    assert "9 of 10 of bark, but in 0 of 10 of sand" in found[0].text and found[0].serious
    assert doubts_about_visibility({"bark": [KnownBy.LIFTED] * 10, "sand": [KnownBy.LIFTED] * 4}) == []


def test_a_few_known_otherwise_in_both_arms_are_only_named() -> None:
    mixed = [KnownBy.LIFTED] * 9 + [KnownBy.HOLE]
    found = doubts_about_visibility({"bark": mixed, "sand": mixed})
    assert codes(found) == {"mixed_evidence"} and "18 lifted and counted, 2 at the hole" in found[0].text


def test_arms_looked_at_unevenly() -> None:
    looked: list[KnownBy | None] = [KnownBy.LIFTED] * 10
    found = doubts_about_visibility({"bark": looked, "sand": [*looked[:6], None, None, None, None]})
    assert codes(found) == {"unequal_looking"} and "4 of 10 of sand, but in 0 of 10 of bark" in found[0].text
    assert doubts_about_visibility({"bark": looked, "sand": [*looked[:9], None]}) == []
    assert doubts_about_visibility({}) == []


def test_treatments_given_otherwise_than_planned() -> None:
    kept = [Treated("A", "A", True), Treated("B", "B", False)]
    assert doubt_about_treatments(kept) == [] and planned_and_done(kept) == []
    moved = [*kept, Treated("B", "A", True), Treated("B", "A", None)]
    found = doubt_about_treatments(moved)
    assert codes(found) == {"not_as_planned"} and "2 of B got A" in found[0].text
    a, b = planned_and_done(moved)
    assert (a.planned_rooted, a.planned_known, a.done_rooted, a.done_known) == (1, 1, 2, 2)
    assert (b.planned_rooted, b.planned_known, b.done_rooted, b.done_known) == (1, 2, 0, 1)


def test_a_treatment_nobody_planned_is_listed_too() -> None:
    rows = planned_and_done([Treated("A", "extra mist", True), Treated("B", "B", True)])
    assert [row.arm for row in rows] == ["A", "B", "extra mist"] and rows[2].done_known == 1


def test_blocks_in_which_nothing_differs_are_silent() -> None:
    blocks = [str(i // 2) for i in range(8)]
    silent = analysed(trial("11111100", "11111101", block=[*blocks, *blocks]))
    speaking = analysed(trial("10101010", "01010100", block=[*blocks, *blocks]))
    text = next(c.text for c in silent.cautions if c.code == "silent_block")
    assert "In 3 of 4 blocks all or none rooted" in text and "other 1" in text
    assert "silent_block" not in codes(speaking.cautions)


def test_pairs_that_agree_are_silent() -> None:
    stems = [f"s{i}" for i in range(8)]
    found = analysed(trial("11110001", "11110000", pair=[*stems, *stems]))
    assert any(c.code == "silent_block" and "7 of 8 pairs" in c.text for c in found.cautions)


def plots(per_level: int) -> list[Row]:
    rng = np.random.default_rng(3)
    return [
        Row((heat, medium), float(rng.random() < 0.5), whole_plot=f"{heat}{plot}")
        for heat in ("cold", "warm")
        for plot in range(per_level)
        for medium in ("bark", "sand")
        for _ in range(4)
    ]


def test_few_whole_plots_are_few_units() -> None:
    few, many = (analysed(plots(n), ("heat", "medium")) for n in (3, 8))
    assert any(c.code == "few_units" and "Only 3 whole plots" in c.text for c in few.cautions)
    assert "few_units" not in codes(many.cautions)


def test_the_bound_of_none_or_all_counts_pots_not_cuttings() -> None:
    pots = [f"{arm}{i // 3}" for arm in "ab" for i in range(24)]
    found = analysed(trial("1" * 24, "1" * 6 + "0" * 18, unit=pots))
    text = next(c.text for c in found.cautions if c.code == "none_or_all")
    assert "all of 24 rooted in 8 units" in text and "above 69 %" in text
    single = analysed(trial("1" * 24, "1" * 6 + "0" * 18))
    assert any("above 88 %" in c.text for c in single.cautions)


def test_a_term_without_a_finite_fit_says_so() -> None:
    rows = [
        Row((h, m), float(h == "warm"), whole_plot=f"{h}{p}")
        for h in ("cold", "warm")
        for p in range(4)
        for m in ("bark", "sand")
    ]
    assert "model_not_finite" in codes(analysed(rows, ("heat", "medium")).cautions)
    assert "model_not_finite" not in codes(analysed(plots(6), ("heat", "medium")).cautions)


def test_the_models_of_a_split_plot_stand_on_plots_and_inside_them() -> None:
    heat, medium, both = analysed(plots(6), ("heat", "medium")).terms
    assert (heat.model.name, heat.model.df1, heat.model.df2) == ("quasi-binomial", 1, 10)
    assert (medium.model.name, medium.model.df) == ("conditional logistic", 1)
    assert both.name == "heat:medium" and both.model.df == 1 and both.test is None


def test_what_differs_between_waves_has_an_interval_of_waves() -> None:
    rows = [
        Row((season,), float(i < k), wave=f"{season}{w}")
        for season, ks in (("autumn", (2, 4, 3)), ("spring", (7, 9, 8)))
        for w, k in enumerate(ks)
        for i in range(10)
    ]
    found = analysed(rows).comparisons[0].difference
    # Two samples of three means: difference 0.5, pooled standard deviation 0.1, t(4) = 2.776.
    assert found.estimate == pytest.approx(-0.5) and "means of waves" in found.method
    assert found.interval.high - found.interval.low == pytest.approx(2 * 2.7764 * 0.1 * np.sqrt(2 / 3), abs=1e-4)


def test_one_wave_a_season_has_no_interval() -> None:
    rows = [Row((season,), float(i < 3), wave=season) for season in ("autumn", "spring") for i in range(10)]
    found = analysed(rows)
    assert found.comparisons[0].difference.interval is None and found.arms[0].interval is None


@pytest.mark.parametrize(("label", "floor"), [("none", 0), ("0", 0), ("1-4", 1), (" 5 \u2013 9", 5), ("10+", 10)])
def test_classes_are_ordered_by_their_floor(label: str, floor: int) -> None:
    assert class_floor(label) == floor


@pytest.mark.parametrize("label", ["", "many", "4-1", "5", "-3", "1-99999999", "+"])
def test_what_is_no_class_is_refused(label: str) -> None:
    with pytest.raises(InvalidInput, match="such as 5-9"):
        class_floor(label)


def test_classes_of_one_s_own_begin_at_1_leave_no_gap_and_end_open() -> None:
    assert read_classes("1-3, 4\u201311,12+") == ("1-3", "4-11", "12+") and read_classes(" ") == ()
    assert [class_of(n, ("1-3", "4-11", "12+")) for n in (0, 1, 3, 4, 11, 12, 90)] == [
        "none",
        "1-3",
        "1-3",
        "4-11",
        "4-11",
        "12+",
        "12+",
    ]


@pytest.mark.parametrize(
    "typed", ["2-3, 4+", "1-3, 5+", "1-3, 3+", "1-3, 4-9", "1+, 2+", "1-3, many", "1-1,2-2,3-3,4-4,5-5,6-6,7-7,8-8,9+"]
)
def test_classes_with_a_gap_an_overlap_or_no_end_are_refused(typed: str) -> None:
    with pytest.raises(InvalidInput):
        read_classes(typed)


def test_classes_are_compared_by_rank_and_never_averaged() -> None:
    low, wide = [0.0, 1, 1, 5, 0, 1], [5.0, 10, 1, 10, 5, 10]
    rows = [Row((arm,), v) for arm, values in (("a", low), ("b", wide)) for v in values]
    found = analysed(rows, response=Response.ROOT_CLASS)
    stretched = [Row(r.levels, {0.0: 0, 1.0: 1, 5.0: 2, 10.0: 300}[r.response]) for r in rows]
    again = analysed([Row(r.levels, float(r.response)) for r in stretched], response=Response.ROOT_CLASS)
    assert found.test.p == pytest.approx(again.test.p)
    assert found.comparisons[0].difference.estimate == pytest.approx(again.comparisons[0].difference.estimate)
    assert found.arms[0].estimate is None and found.arms[0].added.median_floor == 1


@settings(max_examples=25, deadline=None)
@given(st.lists(st.integers(0, 5), min_size=4, max_size=8), st.lists(st.integers(0, 5), min_size=4, max_size=8))
def test_pots_of_one_cutting_are_single_cuttings(a: list[int], b: list[int]) -> None:
    x, y = np.array(a, dtype=float), np.array(b, dtype=float)
    single, shared = (
        superiority(x, y),
        superiority_of_pots([x[i : i + 1] for i in range(x.size)], [y[i : i + 1] for i in range(y.size)]),
    )
    assert shared.estimate == pytest.approx(single.estimate)
    if "Newcombe" not in single.method:
        assert shared.interval.low == pytest.approx(single.interval.low) and shared.interval.high == pytest.approx(
            single.interval.high
        )
