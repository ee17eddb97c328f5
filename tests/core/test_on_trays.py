"""Which trays get what goes on whole trays; what an arm does not say, or a tray holds twice, is left out."""

from __future__ import annotations

from dataclasses import replace

from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.prepare.on_trays import on_trays
from tests.core.test_design_ways import of_levels

HEAT = of_levels("18 °C", "24 °C", kind=AspectKind.BOTTOM_HEAT, cuttings_per_arm=20)


def test_each_level_has_its_trays_and_a_tray_of_two_has_none() -> None:
    found = on_trays(HEAT, {1: {"A"}, 2: {"B"}, 3: {"A"}})
    assert [(one.level, one.trays) for one in found] == [("18 °C", (1, 3)), ("24 °C", (2,))]
    assert [one.where for one in found] == ["trays 1 and 3", "tray 2"]
    assert on_trays(HEAT, {1: {"A", "B"}, 2: {"B"}}) == on_trays(HEAT, {}) == []


def test_what_goes_on_no_tray_and_what_an_arm_does_not_say_are_left_out() -> None:
    medium = of_levels("sand", "bark", cuttings_per_arm=20)
    assert on_trays(medium, {1: {"A"}, 2: {"B"}}) == []
    first, second = HEAT.treatments.arms
    silent = replace(HEAT, treatments=replace(HEAT.treatments, arms=(first, replace(second, says={}))))
    assert on_trays(silent, {1: {"A"}, 2: {"B"}}) == []
