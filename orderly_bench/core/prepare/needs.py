"""What a plan needs: containers to fill by medium. A vessel that several units share is filled once."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from orderly_bench.core.layouts.kinds import planned
from orderly_bench.core.messages.words import tell
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.plausible import is_water
from orderly_bench.core.plan.recipe import read_recipe
from orderly_bench.core.plan.treatments import ArmPlan
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.prepare.medium import Filling, MediumNeed, medium_need

ALL = "all"


@dataclass(frozen=True)
class MediumOfPlan:
    """A medium: the id its recipe stands under, what it is called, its recipe and what it needs."""

    id: str
    recipe: str
    need: MediumNeed


def media_of(plan: Plan) -> list[MediumOfPlan]:
    """The media of a plan with the containers each fills, over all waves.

    An arm that does not say its medium, or says the same as all, falls under *all*. Water neither settles nor is wasted.
    """
    aspect = plan.treatments.of_kind(AspectKind.MEDIUM)
    varied = aspect is not None and len({arm.says.get(aspect.id) for arm in plan.treatments.arms}) > 1
    filled: dict[str, Counter[tuple[float, float, float]]] = {}
    names: dict[str, str] = {}
    for arm in plan.treatments.arms:
        level = plan.treatments.value(arm, aspect) if aspect else None
        key = level.id if varied and level else ALL
        names[key] = level.name if level else tell("the medium of all arms")
        units = plan.units_of(arm) * len(plan.waves_of(arm))
        stands, water = plan.container_of(arm), level is not None and is_water(level.name)
        allowed = (0.0, 0.0) if water else (stands.settling_percent, stands.waste_percent)
        filled.setdefault(key, Counter())[(stands.volume_ml, *allowed)] += vessels_of(plan, arm, units)
    recipes = plan.preparation.recipes
    return [
        MediumOfPlan(
            key,
            recipes.get(key, ""),
            medium_need(
                names[key], [Filling(n, *of) for of, n in sorted(kinds.items()) if n], read_recipe(recipes.get(key, ""))
            ),
        )
        for key, kinds in filled.items()
    ]


def vessels_of(plan: Plan, arm: ArmPlan, units: int) -> int:
    """Vessels that are filled for an arm: its units, or where arms share them, those of the first arm inside each."""
    design = plan.design
    if not design.one_vessel:
        return units
    if not _first_inside(plan, arm.id):
        return 0
    layout = planned(design.layout)
    return units if layout.whole_plots else layout.strata(design.blocks) * len(plan.waves_of(arm))


def _inside(plan: Plan, arm: str) -> tuple[str, ...]:
    says = plan.treatments.arm(arm).says
    return tuple(says.get(a.id, "") for a in plan.treatments.asked if a.id != plan.design.whole_aspect)


def _first_inside(plan: Plan, arm: str) -> bool:
    """Whether an arm stands for its vessel: the first of the combinations inside."""
    return _inside(plan, arm) == min(_inside(plan, other.id) for other in plan.treatments.arms)
