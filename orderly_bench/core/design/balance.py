"""Is everything spread evenly over the arms? What a draw made of blocks, donors, grades, days and people, counted.

An arm's fair share of a group is the group's cuttings in proportion to the arm's size (Cochran & Cox 1957, *Experimental Designs*,
2nd ed., ch. 4), taken over the arms that are stuck in the same waves: a spring arm has no share of an autumn day. A group in which
every arm lies within one unit of its share is even.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from orderly_bench.core.messages.translation import dated
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.pieces import Place, block_name
from orderly_bench.core.plan.value import BlocksAre, Plan

NEARLY = 1e-9


@dataclass(frozen=True)
class Group:
    """One block, donor, grade, day or person: its cuttings by arm, and the fair share of each arm."""

    name: str
    counts: dict[str, int]
    share: dict[str, float]
    slack: int

    @property
    def even(self) -> bool:
        """Whether every arm is within one unit of its share."""
        return all(abs(n - self.share[arm]) <= self.slack + NEARLY for arm, n in self.counts.items())


@dataclass(frozen=True)
class Balance:
    """Everything of one sort."""

    of: str
    groups: tuple[Group, ...]

    @property
    def uneven(self) -> list[Group]:
        """Groups that an arm has more or less of than its share."""
        return [group for group in self.groups if not group.even]


def balance(plan: Plan, places: Sequence[Place], lines: Sequence[int | None]) -> list[Balance]:
    """How every sort of group falls over the arms; only sorts of which there are two or more.

    Parameters
    ----------
    places : sequence of Place
        A cutting each.
    lines : sequence of int or None
        The line of pieces that fills each; None where none is allotted.

    Examples
    --------
    With 12 pieces of T1 and 12 of T2 over two arms of 12 cuttings, each arm should have six of either.
    """
    pieces = {p.number: p for p in plan.design.pieces}
    of = [pieces.get(line) if line else None for line in lines]
    days = {
        wave.number: dated(wave.planned_for) if wave.planned_for else f"wave {wave.number}"
        for wave in plan.schedule.waves
    }
    people = {arm.id: _person(plan, arm.id) for arm in plan.treatments.arms}
    blocks = [block_name(plan, place) for place in places]
    named = plan.design.blocks_are
    sorts = {
        "block": blocks,
        "donor": [p.donor if p else "" for p in of],
        "stem": [f"{p.donor} {p.stem}" if p and p.stem else "" for p in of],
        "place on the stem": [p.place if p else "" for p in of],
        "grade": [p.grade if p else "" for p in of],
        "day": blocks if named is BlocksAre.DAYS else [days[place.wave] for place in places],
        "person": blocks if named is BlocksAre.PEOPLE else [people[place.arm] for place in places],
    }
    return [found for name, of_place in sorts.items() if (found := _of_sort(plan, name, of_place, places)) is not None]


def _person(plan: Plan, arm: str) -> str:
    """Who sticks an arm, where the arms' descriptions say so."""
    aspect = plan.treatments.of_kind(AspectKind.PERSON)
    if aspect is None:
        return ""
    says = plan.treatments.arm(arm).says.get(aspect.id)
    return next((level.name for level in aspect.levels if level.id == says), "")


def _of_sort(plan: Plan, name: str, of_place: Sequence[str], places: Sequence[Place]) -> Balance | None:
    groups = [group for group in dict.fromkeys(of_place) if group]
    if len(groups) < 2:
        return None
    cells = Counter(zip(of_place, (place.arm for place in places), strict=True))
    arms = list(dict.fromkeys(place.arm for place in places))
    sizes = {arm: sum(cells[group, arm] for group in groups) for arm in arms}
    waves = {arm: plan.waves_of(plan.treatments.arm(arm)) for arm in arms}
    beside = {arm: [other for other in arms if waves[other] == waves[arm]] for arm in arms}
    # What is put into a container goes there whole; a piece goes by itself.
    whole = name in ("block", "day", "person")
    slack = max(plan.per_unit(arm) for arm in plan.treatments.arms) if whole else 1
    found = []
    for group in groups:
        counts = {arm: cells[group, arm] for arm in arms}
        share = {
            arm: sum(counts[other] for other in with_it) * sizes[arm] / max(1, sum(sizes[other] for other in with_it))
            for arm, with_it in beside.items()
        }
        found.append(Group(group, counts, share, slack))
    return Balance(name, tuple(found))
