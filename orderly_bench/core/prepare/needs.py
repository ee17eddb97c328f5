"""What a plan needs: containers to fill by medium. A vessel that several units share is filled once."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.layouts.kinds import planned
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.plausible import is_water
from orderly_bench.core.plan.recipe import Part, in_parts, is_blend, read_recipe, spelled_out
from orderly_bench.core.plan.treatments import ArmPlan
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.prepare.medium import Filling, MediumNeed, medium_need

ALL = "all"
NO_RECIPES: Mapping[str, str] = MappingProxyType({})


@dataclass(frozen=True)
class MediumOfPlan:
    """A medium: the id its recipe stands under, its recipe as typed for the trial, what it needs, and what it goes by where nothing is typed."""

    id: str
    recipe: str
    need: MediumNeed
    goes_by: str = ""


def media_of(plan: Plan, known: Mapping[str, str] = NO_RECIPES) -> list[MediumOfPlan]:
    """The media of a plan with the containers each fills, over all waves.

    An arm that does not say its medium, or says the same as all, falls under *all*. Water neither settles nor is wasted.
    A recipe is the one typed for the trial, else the medium's name where that is one, else the shelf's of that name.

    Parameters
    ----------
    known : mapping of str to str
        The shelf's recipes, by name in small letters; those inside others are spelled out.
    """
    aspect = plan.treatments.of_kind(AspectKind.MEDIUM)
    varied = aspect is not None and len({arm.says.get(aspect.id) for arm in plan.treatments.arms}) > 1
    filled: dict[str, Counter[tuple[float, float, float]]] = {}
    names: dict[str, str] = {}
    for arm in plan.treatments.arms:
        level = plan.treatments.value(arm, aspect) if aspect else None
        key = level.id if varied and level else ALL
        names[key] = level.name if level else _("the medium of all arms")
        units = plan.units_of(arm) * len(plan.waves_of(arm))
        stands, water = plan.container_of(arm), level is not None and is_water(level.name)
        allowed = (0.0, 0.0) if water else (stands.settling_percent, stands.waste_percent)
        filled.setdefault(key, Counter())[(stands.volume_ml, *allowed)] += vessels_of(plan, arm, units)
    found = []
    for key, kinds in filled.items():
        typed, name = plan.preparation.recipes.get(key, ""), names[key]
        goes_by = name if is_blend(name) else known.get(name.casefold(), "")
        fillings = [Filling(n, *of) for of, n in sorted(kinds.items()) if n]
        parts = _parts(typed or goes_by, name, known)
        found.append(MediumOfPlan(key, typed, medium_need(name, fillings, parts), goes_by))
    return found


def with_recipes(plan: Plan, known: Mapping[str, str]) -> Plan:
    """The plan with the shelf's recipes that its media go by written into it, so that a change of the shelf is none of the plan."""
    media = [one for one in media_of(plan, known) if one.goes_by and not one.recipe]
    named = {
        one.id: in_parts([Part(*of) for of in _shares(one.need)]) for one in media if not is_blend(one.need.medium)
    }
    recipes = {**plan.preparation.recipes, **named}
    return replace(plan, preparation=replace(plan.preparation, recipes=recipes)) if named else plan


def _shares(need: MediumNeed) -> list[tuple[str, float]]:
    least = min((litres for _, litres in need.components), default=1.0)
    return [(name, litres / least) for name, litres in need.components]


def _parts(recipe: str, name: str, known: Mapping[str, str]) -> list[Part]:
    """Its components; what can't be read, or is part of itself, stays whole: it is told where it is typed."""
    try:
        return spelled_out(read_recipe(recipe), known, (name.casefold(),))
    except InvalidInput:
        return []


def undrained(plan: Plan) -> list[str]:
    """Arms that stand in a medium, in a container said to have no drainage."""
    aspect = plan.treatments.of_kind(AspectKind.MEDIUM)
    found = []
    for arm in plan.treatments.arms:
        level = plan.treatments.value(arm, aspect) if aspect else None
        water = level is not None and is_water(level.name)
        if plan.container_of(arm).drained is False and not water:
            found.append(arm.id)
    return found


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
