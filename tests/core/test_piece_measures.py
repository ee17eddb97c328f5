"""What is measured of cuttings as they go in, read and held over the arms."""

from __future__ import annotations

import numpy as np
import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.methods.starting_alike import apart
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.stick.piece_measures import (
    BY_NAME,
    MEASURES,
    Noted,
    measures_noted,
    over_arms,
    read_in_order,
    read_measures,
)


def test_measures_are_read_by_their_own_limits_and_blank_ones_left_out() -> None:
    typed = {"length_mm": " 82,5 ", "nodes_in": "2", "way_up": "upside down", "depth_mm": "", "no_such": "x"}
    assert read_measures(typed) == {"length_mm": "82.5", "nodes_in": "2", "way_up": "upside down"}


@pytest.mark.parametrize(
    ("name", "typed"),
    [("length_mm", "-3"), ("length_mm", "9999"), ("nodes_in", "1.5"), ("way_up", "sideways"), ("length_mm", "nan"), ("grade", "x" * 41)],
)  # fmt: skip
def test_what_can_not_be_is_refused_by_the_words_of_its_field(name: str, typed: str) -> None:
    with pytest.raises(InvalidInput) as refused:
        read_measures({name: typed})
    assert refused.value.argument == BY_NAME[name].words


def test_a_tray_is_read_in_bench_order_and_an_error_names_its_place() -> None:
    assert read_in_order(BY_NAME["length_mm"], "82 79,5\n- 90", 4) == ["82", "79.5", "", "90"]
    assert read_in_order(BY_NAME["way_up"], "buds up\nupside down\n-", 3) == ["buds up", "upside down", ""]
    with pytest.raises(InvalidInput, match=r"4 places stand here, so type 4 values.*3 values"):
        read_in_order(BY_NAME["length_mm"], "82 79 90", 4)
    with pytest.raises(InvalidInput, match="length, mm, value 2"):
        read_in_order(BY_NAME["length_mm"], "82 long 90", 3)


def test_the_most_uneven_comes_first_with_what_it_could_mean() -> None:
    long, short = [str(n) for n in range(90, 100)], [str(n) for n in range(60, 70)]
    cuttings = [Noted("A", {"length_mm": n, "depth_mm": "30"}) for n in long]
    cuttings += [
        Noted("B", {"length_mm": n, "depth_mm": "30", **({"way_up": "upside down"} if n < "63" else {})}) for n in short
    ]
    found = over_arms(cuttings, ["A", "B"])
    assert [one.measure.name for one in found] == ["length_mm", "way_up", "depth_mm"]
    assert found[0].uneven == "length, mm on average 94.5 in A and 64.5 in B" and "lose more water" in found[0].means
    assert found[0].of_arm == {"A": "94.5 (90 to 99)", "B": "64.5 (60 to 69)"}
    assert found[1].of_arm == {"A": "10 buds up", "B": "7 buds up, 3 upside down"} and "3 of 10 in B" in found[1].uneven
    assert found[2].uneven == "" and found[2].of_arm == {"A": "30", "B": "30"}


def test_what_the_arms_differ_in_by_plan_is_no_unevenness() -> None:
    cuttings = [Noted("A", {"wound": "one side"})] * 10 + [Noted("B", {"wound": "none"})] * 10
    assert over_arms(cuttings, ["A", "B"])[0].uneven
    assert not over_arms(cuttings, ["A", "B"], {AspectKind.WOUNDING})[0].uneven


def test_how_many_were_measured_is_said_and_none_is_not_made_one() -> None:
    found = over_arms([Noted("A", {"length_mm": "80"}), Noted("A", {}), Noted("B", {})], ["A", "B"])
    assert found[0].of_arm == {"A": "80; 1 of 2", "B": "not measured"} and not found[0].uneven
    assert over_arms([Noted("A", {}), Noted("B", {})], ["A", "B"]) == []


def test_where_it_came_from_is_told_with_its_origin() -> None:
    assert measures_noted([{"grade": "B", "donor": "T2"}]) == [] and len(BY_NAME) == len(MEASURES)


def test_what_one_cutting_makes_is_no_unevenness() -> None:
    arm = np.repeat([0, 1], 12)
    usual = ["30"] * 24
    assert apart("depth", [*usual[:11], "20", *usual[:12]], arm, ["A", "B"]) is None
    told = apart("depth", [*usual[:9], "20", "20", "20", *usual[:12]], arm, ["A", "B"])
    assert told is not None and told.words == "depth on average 27.5 in A and 30 in B"


def test_one_arm_is_never_apart_from_itself() -> None:
    assert apart("grade", list("AAAABBBB"), np.zeros(8, dtype=int), ["A"]) is None
