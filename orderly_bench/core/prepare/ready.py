"""What has to be seen to before a cutting is taken, for this plan: one list, ticked with a name; and what is to be bought or mixed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import ceil

from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.prepare.hormones import USUAL, Bottle, sheet_of, waves_with
from orderly_bench.core.prepare.needs import NO_RECIPES, MediumOfPlan, media_of
from orderly_bench.core.prepare.on_trays import goes_on_trays
from orderly_bench.core.prepare.short import Short, Taken, short_of, taken_of
from orderly_bench.core.sums.solutions import Active


@dataclass(frozen=True)
class ToDo:
    """One thing to see to: its name in storage, and its words."""

    key: str
    words: str


@dataclass(frozen=True)
class Needed:
    """A line of the shopping list: what, how much of it, for what; ``note`` says what is known of the shelf."""

    what: str
    amount: float
    unit: str
    use: str
    note: str = ""


def with_shelf(lines: Sequence[Needed], shelf: Mapping[tuple[str, str], float]) -> list[Needed]:
    """The same list, each line with what of it lies on the shelf, by name in small letters and unit."""
    found = []
    for line in lines:
        there = shelf.get((line.what.casefold(), line.unit))
        if there is None:
            found.append(line)
            continue
        told = _("{there} on the shelf", there=f"{there:g} {line.unit}".strip())
        if there < line.amount:
            told = _("{told}, {short:.3g} to get", told=told, short=line.amount - there)
        note = ", ".join(part for part in (line.note, told) if part)
        found.append(replace(line, note=note))
    return found


def to_do(plan: Plan) -> list[ToDo]:
    """What this plan needs seen to, in the order of the work."""
    media = media_of(plan)
    containers = sum(one.need.cells for one in media)
    found = [
        ToDo("rights", _("Rights and quarantine looked up: may it be propagated, moved and kept here?")),
        ToDo("media", _("Mixed and damp: {media}", media=all_of([one.need.medium for one in media]))),
        ToDo("containers", _("{n:container|containers} clean, their holes free, filled and settled", n=containers)),
        ToDo("labels", _("Labels printed, and held beside the trays in bench order")),
    ]
    if whole := goes_on_trays(plan):
        named = all_of([_(aspect.name) for aspect in whole])
        found.append(ToDo("on trays", _("On its trays, as drawn: {named}", named=named)))
    if sheet_of(plan) is not None:
        found.append(ToDo("hormone", _("Hormone in its dishes, each with name, strength and day; gloves at hand")))
    found.append(ToDo("pieces", _("Plants looked over, none diseased; {n:cutting|cuttings} to take", n=plan.cuttings)))
    hours = plan.design.hours
    if hours is not None:
        found.append(ToDo("hands", _("Hands for {hours:g} h, each knowing what is theirs", hours=hours)))
    found.append(ToDo("blades", _("Blades sharp and wiped between plants, one bag and label a plant")))
    return found


def shopping(
    plan: Plan,
    ready: Mapping[str, float],
    reserved: Mapping[str, float],
    labels: int,
    bottle: Bottle = USUAL,
    known: Mapping[str, str] = NO_RECIPES,
) -> list[Needed]:
    """What is to be had for the trial, of media what the shelf lacks.

    Parameters
    ----------
    ready, reserved : mapping
        Litres by medium in small letters: on the shelf, and for other trials.
    labels : int
    known : mapping of str to str
        The shelf's recipes, by name in small letters.
    """
    media = media_of(plan, known)
    short = {one.medium: one for one in short_of(media, ready, reserved)}
    mixed = {one.need.medium: one.need.components for one in media}
    found = [
        line
        for one in taken_of(media, ready)
        if one.name in short
        for line in _lacking(short[one.name], one, mixed.get(one.name, [(one.name, one.litres)]))
    ]
    found += [line for one in media for line in _uncounted(one, ready)]
    containers = sum(one.need.cells for one in media)
    found.append(Needed(_("containers"), containers, "", _("the units")))
    if labels:
        found.append(Needed(_("labels"), labels, "", _("the units")))
    sheet = sheet_of(plan, bottle)
    for active in Active:
        dishes = [dish for dish in sheet.dishes if dish.wanted.active is active and dish.stock_ml] if sheet else []
        if dishes:
            ml = sum((dish.stock_ml or 0.0) * len(waves_with(plan, dish.arms)) for dish in dishes)
            waves = len(waves_with(plan, [arm for dish in dishes for arm in dish.arms]))
            what = _("{active} of {ppm:g} ppm", active=active.upper(), ppm=bottle.ppm)
            found.append(Needed(what, ml, "mL", _("the dishes of {n:wave|waves}", n=waves)))
    return found


def _lacking(short: Short, taken: Taken, components: Sequence[tuple[str, float]]) -> list[Needed]:
    """What the shelf lacks of what it counts; of a medium, its components."""
    note = _("{free:.3g} L of it free on the shelf", free=short.free)
    share = (short.needed - short.free) / short.needed
    use = ", ".join(taken.media)
    return [Needed(part, ceil(litres * share * 10) / 10, "L", use, note) for part, litres in components if litres > 0]


def _uncounted(medium: MediumOfPlan, ready: Mapping[str, float]) -> list[Needed]:
    """The parts of a medium of which nobody said what stands ready."""
    need = medium.need
    if need.medium.casefold() in ready:
        return []
    note = _("nobody said what stands ready")
    return [
        Needed(part, ceil(litres * 10) / 10, "L", need.medium, note)
        for part, litres in need.components
        if litres > 0 and part.casefold() not in ready
    ]


def left(items: Sequence[ToDo], ticked: Sequence[str]) -> list[ToDo]:
    """What nobody has ticked yet."""
    return [item for item in items if item.key not in ticked]
