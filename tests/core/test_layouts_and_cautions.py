"""Cautions of layouts, raised and not raised; tables that make no sense are refused by name."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.result import Analysis
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.observations.table import Row
from orderly_bench.core.responses.kind import Response
from orderly_bench.formats.row_a_cutting import Columns
from orderly_bench.formats.tidy_csv import read_observations


def codes(analysis: Analysis) -> set[str]:
    return {caution.code for caution in analysis.cautions}


def pots(per_arm: int, sizes: tuple[int, ...] = (4,)) -> list[Row]:
    rng = np.random.default_rng(5)
    return [
        Row((arm,), float(rng.random() < rate), unit=f"{arm}{u}")
        for arm, rate in (("a", 0.3), ("b", 0.7))
        for u in range(per_arm)
        for _ in range(sizes[u % len(sizes)])
    ]


def analysed(rows: list[Row], **settings: object) -> Analysis:
    return analyse(arrange(("medium",), rows), Settings(**settings))


def test_one_vessel_per_arm_has_counts_but_no_p_and_no_interval() -> None:
    found = analysed(pots(1))
    assert "one_unit" in codes(found)
    assert found.comparisons[0].p is None and found.comparisons[0].difference.interval is None
    assert found.arms[0].interval is None and found.arms[0].stuck == 4


def test_few_units_are_cautioned_and_many_are_not() -> None:
    assert "few_units" in codes(analysed(pots(3)))
    assert not {"few_units", "one_unit"} & codes(analysed(pots(8)))


def test_units_of_different_size_are_cautioned_only_when_it_matters() -> None:
    assert "unit_sizes_differ" in codes(analysed(pots(6, (2, 12))))
    assert "unit_sizes_differ" not in codes(analysed(pots(6)))


def test_a_layout_too_small_to_convince_says_so() -> None:
    tiny = [Row((arm,), float(arm == "a")) for arm in ("a", "b") for _ in range(3)]
    assert "cannot_convince" in codes(analysed(tiny))
    assert "cannot_convince" not in codes(analysed([*tiny, *tiny]))


def test_one_wave_per_season_and_two() -> None:
    def seasons(waves: int) -> list[Row]:
        return [
            Row((s,), float((i + w) % 3 == 0), wave=f"{s}{w}")
            for s in ("autumn", "spring")
            for w in range(waves)
            for i in range(6)
        ]

    one, two = analysed(seasons(1)), analysed(seasons(2))
    assert "waves_not_replicated" in codes(one) and one.test.p is None
    assert "waves_not_replicated" not in codes(two) and two.test.p is not None
    assert "season_not_assigned" in codes(two)


def test_waves_that_hold_every_level_are_blocks_and_say_nothing_of_seasons() -> None:
    rows = [
        Row((m,), float((i + k) % 3 > k), wave=f"w{w}") for w in range(3) for k, m in enumerate("ab") for i in range(6)
    ]
    found = analysed(rows)
    blocked = analysed([replace(row, wave=None, block=row.wave) for row in rows])
    assert found.design == "randomised complete blocks"
    assert not {"season_not_assigned", "waves_not_replicated"} & codes(found)
    assert (found.test.p, found.arms) == (blocked.test.p, blocked.arms)


def test_an_arm_that_a_wave_lacks_is_compared_inside_the_others() -> None:
    """Nobody drew which arms a wave holds, so labels stay inside waves: 4 against 4 has 70 splits."""
    rows = [
        Row((m,), float(m == "c"), wave=w)
        for m, w in (("a", "1"), ("a", "2"), ("b", "1"), ("b", "2"), ("c", "2"))
        for _ in range(4)
    ]
    found = analysed(rows)
    pair = next(c for c in found.comparisons if (c.a.name, c.b.name) == ("b", "c"))
    assert found.design == "randomised complete blocks" and pair.p == pytest.approx(2 / 70)
    drawn = analysed([replace(row, wave=None, block=row.wave) for row in rows])
    assert drawn.design == "incomplete blocks"


def test_what_whole_waves_carried_is_named() -> None:
    rows = [Row((m,), float(i % 3 > 0), wave=f"{m}{w}") for m in "ab" for w in range(2) for i in range(6)]
    (said,) = [c.text for c in analysed(rows).cautions if c.code == "season_not_assigned"]
    assert said.startswith("Whole waves carried medium")


def test_root_counts_without_overdispersion_are_poisson_and_say_so() -> None:
    even = [Row((arm,), float(mean + i % 2)) for arm, mean in (("a", 3), ("b", 6)) for i in range(10)]
    wild = [Row((arm,), float(x)) for arm in ("a", "b") for x in (0, 0, 1, 2, 9, 14, 22, 0, 1, 30)]
    assert "no_overdispersion" in codes(analysed(even, response=Response.ROOT_COUNT))
    assert "no_overdispersion" not in codes(analysed(wild, response=Response.ROOT_COUNT))


def test_an_arm_without_roots_has_no_ratio_but_a_p() -> None:
    rows = [Row((arm,), float(x)) for arm, values in (("a", (0, 0, 0, 0, 0)), ("b", (3, 4, 6, 2, 9))) for x in values]
    found = analysed(rows, response=Response.ROOT_COUNT)
    assert found.comparisons[0].difference.estimate is None and found.comparisons[0].p is not None
    assert "no_ratio" in codes(found)


@pytest.mark.parametrize(
    ("rows", "message"),
    [
        ([Row(("a",), 1.0, unit="p1"), Row(("b",), 0.0, unit="p1")], "unit p1 stands in two arms"),
        (
            [Row(("a",), 1.0, "b1", unit="p1"), Row(("a",), 0.0, "b2", unit="p1"), Row(("b",), 0.0, "b1", unit="p2")],
            "in two blocks",
        ),
        ([Row((x,), 1.0, pair="s1") for x in "aab"], "pair s1 has 3 cuttings"),
        (
            [Row((x,), 1.0, pair="s1") for x in "aa"] + [Row(("b",), 1.0, pair="s2"), Row(("a",), 1.0, pair="s2")],
            "pair s1 has 2 cuttings in 1 arms",
        ),
        ([Row((x,), 1.0, row="1", column=str(i)) for i, x in enumerate("ab")], "do not make a Latin square"),
        ([Row(("a",), 1.0, "b1"), Row(("b",), 1.0)], "no block is given"),
    ],
)
def test_groups_that_make_no_sense_are_refused(rows: list[Row], message: str) -> None:
    with pytest.raises(UnusableData, match=message):
        arrange(("medium",), rows)


@pytest.mark.parametrize(
    ("response", "cell", "message"),
    [
        (Response.ROOT_COUNT, "-1", "not a number between 0"),
        (Response.ROOT_COUNT, "2.5", "not a whole number"),
        (Response.ROOT_COUNT, "inf", "not a number between 0"),
        (Response.LONGEST, "12 mm", "not a number between 0"),
        (Response.QUALITY, "6", "between 0 and 5"),
        (Response.FIT, "maybe", "not a yes or no"),
    ],
)
def test_impossible_responses_name_row_and_column(response: Response, cell: str, message: str) -> None:
    data = f"medium;{response.value}\na;1\nb;{cell}\n".encode()
    with pytest.raises(UnusableData, match=message) as refused:
        read_observations(data, ["medium"], response)
    assert refused.value.row == 3 and refused.value.column == response.value


def test_decimal_commas_are_read() -> None:
    found = read_observations(b"medium;longest_root_mm\na;12,5\na;0\nb;3,25\n", ["medium"], Response.LONGEST)
    assert found.responses.tolist() == [12.5, 0.0, 3.25]


@pytest.mark.parametrize(
    ("row", "message"),
    [
        ("14,,rooted", "no day"),
        ("14,21,censored", "censored, but with a day"),
        ("21,14,rooted", "lies not after"),
        ("14,21,eaten", "is no outcome"),
    ],
)
def test_days_that_contradict_their_outcome_are_refused(row: str, message: str) -> None:
    data = f"medium,last_without_day,first_with_day,outcome\na,7,14,rooted\nb,{row}\n".encode()
    with pytest.raises(UnusableData, match=message):
        read_observations(data, ["medium"], Response.DAYS)


@pytest.mark.parametrize(
    ("response", "margin"),
    [(Response.ROOTED, 1.5), (Response.ROOT_COUNT, 0.8), (Response.QUALITY, 0.6), (Response.LONGEST, -2)],
)
def test_a_margin_must_fit_its_scale(response: Response, margin: float) -> None:
    with pytest.raises(InvalidInput, match="margin"):
        Settings(response=response, margin=margin)


def test_a_missing_group_is_named_with_its_column() -> None:
    with pytest.raises(UnusableData, match="the unit is blank"):
        read_observations(b"medium,pot,rooted\na,p1,1\nb,,0\n", ["medium"], columns=Columns(unit="pot"))
