"""What arms ask for unasked: water changed, a wounded stem left be."""

from __future__ import annotations

from dataclasses import replace

import pytest

from orderly_bench.core.plan import edit
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.care_lines import read_care
from orderly_bench.core.plan.treatments import Treatments
from orderly_bench.core.plan.value import Plan
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
