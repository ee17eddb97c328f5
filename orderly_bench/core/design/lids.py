"""Lids over neighbouring places: which arms share one, and where a lid travels with an arm."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from orderly_bench.core.messages.words import tell


@dataclass(frozen=True)
class Lid:
    """A lid, its places and the arms under it, by letter."""

    name: str
    places: int
    arms: tuple[str, ...]


def lid_of(tray: int, place: int, under: int) -> str:
    """The lid over a place of a tray, both from 1, where each covers ``under`` neighbouring places in walking order."""
    return f"lid {tray}.{(place - 1) // under + 1}"


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
        which = (
            tell("Every lid") if len(shared) == len(lids) else tell("{n} of {all} lids", n=len(shared), all=len(lids))
        )
        hold = "holds" if len(shared) in (1, len(lids)) else "hold"
        said.append(
            tell(
                "{which} {hold} several arms: they share its air, so it makes no difference between them.",
                which=which,
                hold=hold,
            )
        )
    for arm, number in travelling(lids).items():
        lids_said = (
            tell("one lid, so one replicate")
            if number == 1
            else tell("{number} lids: they are its replicates, not the places", number=number)
        )
        said.append(
            tell(
                "Arm {arm} stands under lids of its own: the lid travels with it. It has {lids_said}.",
                arm=arm,
                lids_said=lids_said,
            )
        )
    return said
