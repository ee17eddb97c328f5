"""Lids over neighbouring places: which arms share one, and where a lid travels with an arm."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from orderly_bench.core.messages.translation import gettext as _


@dataclass(frozen=True)
class Lid:
    """A lid, its places and the arms under it, by letter."""

    name: str
    places: int
    arms: tuple[str, ...]


def lid_of(tray: int, place: int, under: int) -> str:
    """The lid over a place of a tray, both from 1, where each covers ``under`` neighbouring places in walking order."""
    return f"lid {tray}.{(place - 1) // under + 1}"


def lids_over(stood: Sequence[tuple[str, int, int]], of_all: int, own: Mapping[str, int | None]) -> list[str | None]:
    """The lid over each unit, None over what stands in the open.

    Parameters
    ----------
    stood : sequence of (str, int, int)
        Arm, tray and place in it, along the walk, of each unit.
    of_all : int
        Neighbouring places under one lid, whatever stands there; below 2 none is laid over all.
    own : mapping of str to int or None
        Units of one arm alone under a lid of its own, counted along each tray; 0 for none, None for as the rest.

    Examples
    --------
    >>> lids_over([("A", 1, 1), ("B", 1, 2), ("A", 1, 3), ("A", 1, 4)], 0, {"A": 2, "B": None})
    ['lid A 1.1', None, 'lid A 1.1', 'lid A 1.2']
    """
    found: list[str | None] = [None] * len(stood)
    before: dict[tuple[str, int], int] = {}
    for i in sorted(range(len(stood)), key=lambda i: stood[i][1:]):
        arm, tray, place = stood[i]
        under = own.get(arm)
        if under is None:
            found[i] = lid_of(tray, place, of_all) if of_all > 1 else None
        elif under:
            found[i] = f"lid {arm} {tray}.{before.get((arm, tray), 0) // under + 1}"
            before[arm, tray] = before.get((arm, tray), 0) + 1
    return found


def lids_of(units: Iterable[tuple[str, str]]) -> list[Lid]:
    """The lids over units given as (lid, arm)."""
    held: dict[str, list[str]] = {}
    for lid, arm in units:
        held.setdefault(lid, []).append(arm)
    return [Lid(lid, len(arms), tuple(sorted(set(arms)))) for lid, arms in held.items()]


def travelling(lids: list[Lid]) -> dict[str, int]:
    """Arms that stand under lids of their own alone, with how many: there the lid can't be told from the arm."""
    mixed = {arm for lid in lids if len(lid.arms) > 1 for arm in lid.arms}
    alone: dict[str, int] = {}
    for lid in lids:
        if len(lid.arms) == 1:
            alone[lid.arms[0]] = alone.get(lid.arms[0], 0) + 1
    return {arm: number for arm, number in sorted(alone.items()) if arm not in mixed}


def said_of(lids: list[Lid]) -> list[str]:
    """What lids do to the comparison, a sentence each; empty without any.

    Under a lid that holds several arms they share its air, which makes no difference between them. A lid over one arm travels with
    it: then the lids are its replicates, and one lid is one.
    """
    if not lids:
        return []
    shared = [lid for lid in lids if len(lid.arms) > 1]
    said = []
    if shared:
        which = _("Every lid") if len(shared) == len(lids) else _("{n} of {all} lids", n=len(shared), all=len(lids))
        hold = "holds" if len(shared) in (1, len(lids)) else "hold"
        said.append(
            _(
                "{which} {hold} several arms: they share its air, so it makes no difference between them.",
                which=which,
                hold=hold,
            )
        )
    for arm, number in travelling(lids).items():
        lids_said = (
            _("one lid, so one replicate")
            if number == 1
            else _("{number} lids: they are its replicates, not the places", number=number)
        )
        said.append(
            _(
                "Arm {arm} stands under lids of its own: the lid travels with it. It has {lids_said}.",
                arm=arm,
                lids_said=lids_said,
            )
        )
    return said
