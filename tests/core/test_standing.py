"""Room on a bench, and lids over several places."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from itertools import combinations

import numpy as np
import pytest

from orderly_bench.core.design.convincing import why_not
from orderly_bench.core.design.from_plan import draw_plan
from orderly_bench.core.design.lids import Lid, lid_of, lids_of, lids_over, said_of, travelling
from orderly_bench.core.design.standing import (
    Footprint,
    Standing,
    across,
    check_standing,
    find_room,
    footprint,
)
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan import edit
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.treatments import Treatments
from orderly_bench.core.plan.value import Plan

BENCH = Footprint(100, 60)


def test_a_place_nobody_measured_is_as_wide_as_a_cube_of_its_volume() -> None:
    assert across(7.5, 60) == 7.5
    assert across(None, 1000) == pytest.approx(10)
    assert across(None, None) == 5
    assert footprint(4, 8, 5) == Footprint(40, 20)


def test_trays_stand_side_by_side_along_the_bench_then_behind() -> None:
    tray = Footprint(40, 25)
    found = find_room(BENCH, [], [tray] * 4)
    assert [(one.x_cm, one.y_cm) for one in found] == [(0, 0), (40, 0), (0, 25), (40, 25)]
    with pytest.raises(InvalidInput, match="number 5 of 5"):
        find_room(BENCH, [], [tray] * 5)


def test_what_stands_there_already_keeps_its_place_and_gaps_are_used() -> None:
    there = [Standing(0, 0, Footprint(20, 60)), Standing(60, 0, Footprint(40, 60))]
    (found,) = find_room(BENCH, there, [Footprint(40, 30)])
    assert (found.x_cm, found.y_cm) == (20, 0)


@pytest.mark.parametrize("seed", range(20))
def test_nothing_that_found_room_overlaps_or_hangs_over(seed: int) -> None:
    rng = np.random.default_rng(seed)
    sizes = [Footprint(*rng.uniform(2, 22, 2).tolist()) for _ in range(12)]
    try:
        found = find_room(BENCH, [], sizes)
    except InvalidInput:
        assert sum(s.length_cm * s.width_cm for s in sizes) > 1500, "a bench less than a quarter full has room"
        return
    assert [one.size for one in found] == sizes
    assert not any(a.overlaps(b) for a, b in combinations(found, 2))
    assert all(0 <= one.x_cm and one.right <= 100.001 and 0 <= one.y_cm and one.far <= 60.001 for one in found)


@pytest.mark.parametrize(
    ("x", "y", "says"),
    [
        (-1, 0, "must lie on the bench"),
        (81, 0, "must lie on the bench"),
        (0, 45, "must lie"),
        (30, 5, "taken by tray 2"),
    ],
)
def test_a_move_over_the_edge_or_onto_another_is_refused(x: float, y: float, says: str) -> None:
    there = [("tray 2 of TH-1", Standing(20, 0, Footprint(20, 20)))]
    with pytest.raises(InvalidInput, match=says):
        check_standing(BENCH, there, Standing(x, y, Footprint(20, 20)))
    assert check_standing(BENCH, there, Standing(40, 0, Footprint(20, 20))).right == 60, "edges may touch"


def test_lids_cover_neighbours_in_walking_order() -> None:
    assert [lid_of(2, place, 4) for place in (1, 4, 5, 9)] == ["lid 2.1", "lid 2.1", "lid 2.2", "lid 2.3"]
    assert lids_of([("lid 1.1", "A"), ("lid 1.1", "B"), ("lid 1.2", "A")]) == [
        Lid("lid 1.1", 2, ("A", "B")),
        Lid("lid 1.2", 1, ("A",)),
    ]


def test_a_shared_lid_makes_no_difference_and_an_own_one_travels() -> None:
    assert said_of([]) == []
    shared = lids_of([("1", "A"), ("1", "B"), ("2", "A"), ("2", "B")])
    assert said_of(shared) == [
        "Every lid holds several arms: they share its air, so it makes no difference between them."
    ]
    own = said_of(lids_of([("1", "A"), ("1", "A"), ("2", "B"), ("3", "B")]))
    assert own == [
        "Arm A stands under lids of its own: the lid travels with it. It has one lid, so one replicate.",
        "Arm B stands under lids of its own: the lid travels with it. It has 2 lids: they are its replicates, not the places.",
    ]
    mixed = said_of(lids_of([("1", "A"), ("1", "B"), ("2", "A"), ("3", "C")]))
    assert mixed[0].startswith("1 of 3 lids holds several arms") and len(mixed) == 2, "A shares a lid somewhere"


class TestLidsOfSomeArms:
    """A lid may stand over some arms alone: its lids are that arm's units, and it goes with the arm."""

    def test_lids_of_one_arm_are_counted_along_each_tray(self) -> None:
        stood = [("A", 1, 1), ("B", 1, 2), ("B", 1, 3), ("A", 1, 4), ("B", 1, 5), ("B", 2, 1)]
        assert lids_over(stood, 0, {"A": None, "B": 2}) == [
            None,
            "lid B 1.1",
            "lid B 1.1",
            None,
            "lid B 1.2",
            "lid B 2.1",
        ]
        assert lids_over(stood, 3, {"A": None, "B": 0}) == ["lid 1.1", None, None, "lid 1.2", None, None]
        assert travelling(lids_of([("lid B 1.1", "B"), ("lid B 1.2", "B")])) == {"B": 2}

    def test_the_plan_draws_them_and_the_lock_asks_why(self) -> None:
        treatments = edit.with_factors(Treatments(), [(AspectKind.MEDIUM, "medium", ["bark", "grit"])])
        plan = replace(Plan("x"), treatments=edit.with_arms(treatments, [("medium-1",), ("medium-2",)], None))
        plan = replace(plan, design=replace(plan.design, cuttings_per_arm=12))
        assert why_not(plan) == []
        first, second = plan.treatments.arms
        lidded = replace(plan, treatments=replace(plan.treatments, arms=(first, replace(second, under_lid=4))))
        assert [why for why in why_not(lidded) if "arm B stands under lids of its own" in why]
        (wave,) = draw_plan(lidded, np.random.default_rng(1))
        under = Counter(unit.groups.get("lid") for unit in wave.units if unit.arm == "B")
        assert sorted(under.values()) == [4, 4, 4]
        assert not any("lid" in unit.groups for unit in wave.units if unit.arm == "A")
        both = replace(
            plan, treatments=replace(plan.treatments, arms=(replace(first, under_lid=4), replace(second, under_lid=4)))
        )
        assert why_not(both) == [], "all alike"
