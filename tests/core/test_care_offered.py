"""What arms ask for unasked: water changed, a wounded stem left be."""

from __future__ import annotations

from dataclasses import replace

import pytest

from orderly_bench.core.plan import edit
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.care_lines import read_care
from orderly_bench.core.plan.treatments import Treatments
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.question.care_for_some import care_for_some
from orderly_bench.core.question.care_offered import care_offered


def plan_of(kind: AspectKind, *levels: str) -> Plan:
    treatments = edit.with_factors(Treatments(), [(kind, kind.value, list(levels))])
    aspect = treatments.of_kind(kind)
    assert aspect is not None
    return Plan("x", treatments=edit.with_arms(treatments, [(level.id,) for level in aspect.levels], None))


def test_an_arm_in_water_is_offered_its_changes_until_they_are_said() -> None:
    plan = plan_of(AspectKind.MEDIUM, "water", "pumice")
    (told,) = care_offered(plan)
    assert told == "Arm A stands in water. Say when it is changed, such as: Change the water: every 7 days, arm A"
    said = replace(plan, schedule=replace(plan.schedule, care_rules=read_care("Change the water: every 7 days, arm A")))
    other = replace(
        plan, schedule=replace(plan.schedule, care_rules=read_care("Change the water: every 7 days, arm B"))
    )
    assert care_offered(said) == [] and care_offered(other) == [told]
    assert care_offered(replace(plan, schedule=replace(plan.schedule, care_task="new water", care_every_days=7))) == []


@pytest.mark.parametrize(
    ("levels", "arms"),
    [(("one side, 2 cm", "none"), "Arm A is"), (("scraped", "cut"), "Arms A and B are"), (("none", "no"), "")],
)
def test_a_wounded_stem_is_left_be_until_a_day_that_is_said(levels: tuple[str, str], arms: str) -> None:
    plan = plan_of(AspectKind.WOUNDING, *levels)
    found = care_offered(plan)
    assert bool(found) is bool(arms) and all(told.startswith(f"{arms} wounded") for told in found)
    assert care_offered(replace(plan, question=replace(plan.question, left_alone_until=28))) == []


@pytest.mark.parametrize(
    ("kind", "levels", "line", "doubted"),
    [
        (AspectKind.MEDIUM, ("bark", "pumice"), "Feed: every 7 days, arm B", True),
        (AspectKind.MEDIUM, ("bark", "pumice"), "Feed: every 7 days, arms A and B", False),
        (AspectKind.MEDIUM, ("bark", "pumice"), "Feed: every 7 days", False),
        (AspectKind.MEDIUM_STATE, ("fed, half strength", "no feed"), "Feed: every 7 days, arm A", False),
        (AspectKind.MEDIUM, ("rain water", "pumice"), "Change the water: every 7 days, arm A", False),
        (AspectKind.MEDIUM, ("bark", "pumice"), "Water: every 2 days, arm A", True),
        (AspectKind.OTHER, ("wet", "nearly dry"), "Water: every 2 days, arm A", False),
        (AspectKind.COVER, ("clear lid", "open"), "Vent: daily, arm A", False),
        (AspectKind.HORMONE, ("IBA 1000 ppm", "none"), "Vent: daily, arm A", True),
    ],
)
def test_care_of_one_arm_that_is_not_asked_is_a_doubt(
    kind: AspectKind, levels: tuple[str, ...], line: str, doubted: bool
) -> None:
    plan = plan_of(kind, *levels)
    plan = replace(plan, schedule=replace(plan.schedule, care_rules=read_care(line)))
    found = care_for_some(plan)
    assert [one.code for one in found] == ["care_for_some"] * doubted
    if doubted:
        assert found[0].serious and line.split(":")[0] in found[0].text and kind.value in found[0].text
    alone = edit.with_arms(plan.treatments, [(plan.treatments.asked[0].levels[0].id,)], None)
    assert care_for_some(replace(plan, treatments=alone)) == []
