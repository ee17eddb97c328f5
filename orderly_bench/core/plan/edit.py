"""Edit the treatments of a draft plan: factors, arms, what they are described by. Identities are kept where names are."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import count
from string import ascii_uppercase

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.treatments import ArmPlan, Aspect, Container, Level, Shape, SideGroup, Treatments
from orderly_bench.core.plan.value import Plan

LONGEST_VALUE = 120
MOST_ASPECTS = 40
MOST_SIDE_GROUPS = 12
ALL = "all"


@dataclass(frozen=True)
class Row:
    """What arms say of one aspect: values by arm letter or name of a side group; absent or blank is *not said*."""

    kind: AspectKind
    name: str
    values: Mapping[str, str]


def _key(text: str) -> str:
    return " ".join(text.casefold().split())


def _slug(text: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", text.casefold()).strip("-") or "aspect"


def _free(wanted: str, taken: set[str]) -> str:
    number, found = 1, wanted
    while found in taken:
        number += 1
        found = f"{wanted}-{number}"
    taken.add(found)
    return found


def _levels(aspect_id: str, names: Sequence[str], before: Sequence[Level]) -> tuple[Level, ...]:
    """Levels by name: those there were keep their identity and what they hold."""
    known = {_key(level.name): level for level in before}
    taken = {level.id for level in before}
    fresh = (f"{aspect_id}-{number}" for number in count(1) if f"{aspect_id}-{number}" not in taken)
    return tuple(
        replace(known[_key(name)], name=name) if _key(name) in known else Level(next(fresh), name) for name in names
    )


def with_factors(treatments: Treatments, factors: Sequence[tuple[AspectKind, str, Sequence[str]]]) -> Treatments:
    """The same treatments with these factors; an aspect that was described and is now asked becomes the factor.

    Arms that name a level no longer there are dropped.
    """
    before = {_key(aspect.name): aspect for aspect in treatments.aspects}
    taken = {aspect.id for aspect in treatments.aspects}
    asked = []
    for kind, name, names in factors:
        old = before.pop(_key(name), None)
        aspect_id = old.id if old else _free(_slug(name), taken)
        levels = _levels(aspect_id, names, old.levels if old else ())
        asked.append(Aspect(aspect_id, kind, name, True, levels))
    kinds = {aspect.kind for aspect in asked} - {AspectKind.OTHER}
    described = [a for a in treatments.aspects if _key(a.name) in before and not a.asked and a.kind not in kinds]
    aspects = (*asked, *described)
    there = {aspect.id: {level.id for level in aspect.levels} for aspect in aspects}
    arms = []
    for arm in treatments.arms:
        says = {a: level for a, level in arm.says.items() if level in there.get(a, ())}
        if all(aspect.id in says for aspect in asked):
            arms.append(replace(arm, says=says))
    return replace(treatments, aspects=aspects, arms=tuple(arms))


def with_arms(treatments: Treatments, chosen: Sequence[Sequence[str]], control: Sequence[str] | None) -> Treatments:
    """Arms as combinations of level ids of the factors, lettered in order; what is alike in all arms stays said.

    Parameters
    ----------
    chosen : sequence of sequence of str
        Level ids in factor order.
    control : sequence of str or None
        The combination of the control.
    """
    asked = treatments.asked
    known = {tuple(arm.says.get(a.id, "") for a in asked): arm for arm in treatments.arms}
    described = [a for a in treatments.aspects if not a.asked]
    common = {
        a.id: next(iter(told))
        for a in described
        if len(told := {arm.says.get(a.id, "") for arm in treatments.arms}) == 1 and "" not in told
    }
    arms = []
    for letter, combination in zip(ascii_uppercase, chosen, strict=False):
        old = known.get(tuple(combination))
        says = {a.id: old.says[a.id] for a in described if old and a.id in old.says} if old else dict(common)
        made = {**dict(zip([a.id for a in asked], combination, strict=True)), **says}
        base = old or ArmPlan(letter)
        arms.append(
            replace(base, id=letter, says=made, control=control is not None and tuple(combination) == tuple(control))
        )
    return replace(treatments, arms=tuple(arms))


def earlier_arms(before: Treatments, after: Treatments) -> dict[str, ArmPlan]:
    """Which arm each was before, by letter: the one of the same levels asked, else that of its letter where nothing else took its place."""
    asked = [aspect.id for aspect in after.asked]

    def levels(arm: ArmPlan) -> tuple[str, ...]:
        return tuple(arm.says.get(aspect, "") for aspect in asked)

    there = {levels(arm) for arm in after.arms}
    same = {levels(arm): arm for arm in reversed(before.arms)}
    gone = {arm.id: arm for arm in before.arms if levels(arm) not in there}
    return {arm.id: old for arm in after.arms if (old := same.get(levels(arm)) or gone.get(arm.id))}


def with_numbers_of(treatments: Treatments, earlier: Mapping[str, ArmPlan]) -> Treatments:
    """The arms with the units, cuttings in a unit, sites and guess that each had before."""
    arms = (
        replace(arm, units=old.units, per_unit=old.per_unit, sites=old.sites, guess=old.guess) if old else arm
        for arm in treatments.arms
        for old in [earlier.get(arm.id)]
    )
    return replace(treatments, arms=tuple(arms))


def with_description(treatments: Treatments, rows: Sequence[Row]) -> Treatments:
    """The same factors and arms, described by these rows; aspects without a row, or with blank rows only, go.

    Raises
    ------
    InvalidInput
        Two aspects of one name, values that differ by case only, something too long.
    """
    if len(rows) > MOST_ASPECTS:
        raise InvalidInput(
            "aspects", _("describe arms by at most {most_aspects}", most_aspects=MOST_ASPECTS), len(rows)
        )
    asked = treatments.asked
    before = {_key(a.name): a for a in treatments.aspects if not a.asked}
    taken, seen = {a.id for a in treatments.aspects}, {_key(a.name) for a in asked}
    aspects: list[Aspect] = []
    says: dict[str, dict[str, str]] = {}
    for row in rows:
        name = " ".join(row.name.split()) or row.kind.value
        values = {who: " ".join(value.split()) for who, value in row.values.items() if value.strip()}
        _check_row(name, values, seen)
        if not values:
            continue
        old = before.get(_key(name))
        aspect_id = old.id if old else _free(_slug(name), taken)
        levels = _levels(aspect_id, list(dict.fromkeys(values.values())), old.levels if old else ())
        kept = tuple(level for level in levels if level.name in values.values())
        aspects.append(Aspect(aspect_id, row.kind, name, False, kept))
        says[aspect_id] = {
            who: next(level.id for level in kept if level.name == value) for who, value in values.items()
        }
    factors = {a.id for a in asked}

    def said_by(who: str, old: Mapping[str, str]) -> dict[str, str]:
        own = {a: level for a, level in old.items() if a in factors}
        return own | {a: by[who] for a, by in says.items() if who in by}

    return replace(
        treatments,
        aspects=(*asked, *aspects),
        arms=tuple(replace(arm, says=said_by(arm.id, arm.says)) for arm in treatments.arms),
        side_groups=tuple(replace(group, says=said_by(group.name, group.says)) for group in treatments.side_groups),
    )


def _check_row(name: str, values: Mapping[str, str], seen: set[str]) -> None:
    if len(name) > 60:
        raise InvalidInput("aspect", _("keep its name within 60 characters"), name)
    if _key(name) in seen:
        raise InvalidInput(
            "aspect", _("{name!r} stands twice; give each its own name, or ask it once", name=name), name
        )
    seen.add(_key(name))
    spelled: dict[str, str] = {}
    for value in values.values():
        if len(value) > LONGEST_VALUE:
            raise InvalidInput(
                name, _("keep a value within {longest_value} characters", longest_value=LONGEST_VALUE), value
            )
        twin = spelled.setdefault(_key(value), value)
        if twin != value:
            raise InvalidInput(
                name,
                _("{twin!r} and {value!r} differ by case only; are they one? Write them alike", twin=twin, value=value),
            )


def with_side_groups(treatments: Treatments, groups: Sequence[tuple[str, str]]) -> Treatments:
    """Side groups by name and note; those there were keep what they say."""
    known = {_key(group.name): group for group in treatments.side_groups}
    made: list[SideGroup] = []
    for name, note in groups:
        clean = " ".join(name.split())
        if not clean or len(clean) > 60 or len(note) > 300 or len(groups) > MOST_SIDE_GROUPS:
            raise InvalidInput(
                "side group", _("name each within 60 characters, a note within 300, twelve at most"), name[:40]
            )
        if clean.casefold() in [g.name.casefold() for g in made] or clean in [arm.id for arm in treatments.arms]:
            raise InvalidInput("side group", _("needs a name of its own, other than an arm's letter"), clean)
        made.append(replace(known.get(_key(clean), SideGroup(clean)), name=clean, note=note.strip()))
    return replace(treatments, side_groups=tuple(made))


def container_in_words(container: Container) -> str:
    """``60 mL cells, dark, drained``; ``1 L jar``."""
    volume = f"{container.volume_ml / 1000:g} L" if container.volume_ml >= 1000 else f"{container.volume_ml:g} mL"
    what = {Shape.CELLS: "cells", Shape.BED: "places in a bed"}.get(container.shape, container.shape.value)
    drained = {True: ["drained"], False: ["not drained"], None: []}[container.drained]
    return ", ".join([f"{volume} {what}", *(word for word in (container.outline, container.wall) if word), *drained])


def with_containers(plan: Plan, usual: Container, own: Mapping[str, Container]) -> Plan:
    """The plan with what its arms stand in; the container aspect is read off it, never typed a second time.

    Parameters
    ----------
    usual : Container
        Of every arm without one of its own.
    own : mapping of arm letter to Container
    """
    plan = replace(plan, design=replace(plan.design, container=usual))
    aspect = plan.treatments.of_kind(AspectKind.CONTAINER)
    stands_in = {arm.id: own.get(arm.id, usual) for arm in plan.treatments.arms}
    if aspect is not None and aspect.asked:
        by_level = {arm.says[aspect.id]: stands_in[arm.id] for arm in plan.treatments.arms}
        levels = tuple(replace(level, container=by_level.get(level.id, usual)) for level in aspect.levels)
        aspects = tuple(replace(aspect, levels=levels) if a is aspect else a for a in plan.treatments.aspects)
        return replace(plan, treatments=replace(plan.treatments, aspects=aspects))
    aspect_id = aspect.id if aspect else _free("container", {a.id for a in plan.treatments.aspects})
    kinds = list(dict.fromkeys(stands_in.values()))
    levels = tuple(Level(f"{aspect_id}-{i + 1}", container_in_words(kind), {}, kind) for i, kind in enumerate(kinds))
    made = Aspect(aspect_id, AspectKind.CONTAINER, "container", False, levels)
    arms = tuple(
        replace(arm, says={**arm.says, aspect_id: levels[kinds.index(stands_in[arm.id])].id})
        for arm in plan.treatments.arms
    )
    others = tuple(a for a in plan.treatments.aspects if a.id != aspect_id)
    return replace(plan, treatments=replace(plan.treatments, aspects=(*others, *([made] if arms else [])), arms=arms))


def container_not_said(plan: Plan) -> Plan:
    """The plan without a word of what its arms stood in, unless that is what was asked: nobody wrote it down."""
    aspect = plan.treatments.of_kind(AspectKind.CONTAINER)
    if aspect is None or aspect.asked:
        return plan
    arms = tuple(
        replace(arm, says={key: level for key, level in arm.says.items() if key != aspect.id})
        for arm in plan.treatments.arms
    )
    others = tuple(one for one in plan.treatments.aspects if one is not aspect)
    return replace(plan, treatments=replace(plan.treatments, aspects=others, arms=arms))
