"""Care that is offered unasked: water that is changed, a wounded stem that is left be."""

from __future__ import annotations

from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.plausible import is_water
from orderly_bench.core.plan.value import Plan

#: Says of a wound that there is none.
UNWOUNDED = ("", "none", "no", "not wounded", "unwounded")


def care_offered(plan: Plan) -> list[str]:
    """What the plan's arms ask for and the plan does not say, a sentence each."""
    water, wounded = _in_water(plan), _wounded(plan)
    found = []
    if water:
        told = N_(
            "{n:~Arm|Arms} {arms} {n:~stands|stand} in water. Say when it is changed, such as: Change the water: every 7 days, arm {first}"
        )
        found.append(_(told, n=len(water), arms=all_of(water), first=" and ".join(water)))
    if wounded and plan.question.left_alone_until is None:
        told = N_(
            "{n:~Arm|Arms} {arms} {n:~is|are} wounded, and a scraped stem wants to be left be. Say until which day nothing is lifted, pulled at or dug for"
        )
        found.append(_(told, n=len(wounded), arms=all_of(wounded)))
    return found


def _says(plan: Plan, kind: AspectKind) -> dict[str, str]:
    """What every arm says of an aspect, by letter."""
    aspect = plan.treatments.of_kind(kind)
    if aspect is None:
        return {}
    names = {level.id: level.name for level in aspect.levels}
    return {arm.id: names.get(arm.says.get(aspect.id, ""), "") for arm in plan.treatments.arms}


def _in_water(plan: Plan) -> list[str]:
    """Arms that stand in water without a line that says when it is changed."""
    if "water" in plan.schedule.care_task.lower():
        return []
    said = [rule for rule in plan.schedule.care_rules if "water" in rule.title.lower()]
    told = {letter for rule in said for letter in (rule.arms or [arm.id for arm in plan.treatments.arms])}
    return [
        letter for letter, medium in _says(plan, AspectKind.MEDIUM).items() if is_water(medium) and letter not in told
    ]


def _wounded(plan: Plan) -> list[str]:
    wounds = _says(plan, AspectKind.WOUNDING)
    return [letter for letter, wound in wounds.items() if wound.strip().casefold() not in UNWOUNDED]
