"""What runs out half-way through sticking: whole blocks are stuck first, so that what is left out is left out of every arm alike."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _


class Lacking(StrEnum):
    """What there is too little of."""

    PIECES = "pieces"
    MEDIUM = "medium"
    CONTAINERS = "containers"

    @property
    def reason(self) -> str:
        """Why a cutting was not stuck, where this was missing."""
        return {"pieces": "short of material"}.get(self.value, f"short of {self.value}")


@dataclass(frozen=True)
class ToStick:
    """A unit of which nothing is decided: its arm, its block or pair (blank: none) and how many cuttings it takes."""

    code: str
    arm: str
    group: str
    cuttings: int


@dataclass(frozen=True)
class Proposal:
    """Codes to stick and to leave, in bench order; the blocks on either side (none where there are no blocks); what stays over."""

    stick: tuple[str, ...]
    leave: tuple[str, ...]
    whole: tuple[str, ...]
    dropped: tuple[str, ...]
    of_arm: Mapping[str, int]
    over: int

    def words(self, hidden: bool = False) -> str:
        """What to do, in one or two sentences; while arms are hidden without their letters."""
        if not self.leave:
            return _("There is enough for all that is left.")
        if self.whole or self.dropped:
            stuck = _("Stick {names} whole", names=", ".join(self.whole)) if self.whole else _("Stick no more")
            told = _("{stuck}, and leave {names} out: every arm loses alike.", stuck=stuck, names=", ".join(self.dropped))  # fmt: skip
        elif hidden:
            told = _("Stick those that are not listed here; then every arm loses alike.")
        else:
            each = ", ".join(f"{arm} {n}" for arm, n in self.of_arm.items())
            told = _("Stick so many more of each arm: {each}; then every arm loses alike.", each=each)
        return _("{told} {n} {n:~stays|stay} over.", told=told, n=self.over) if self.over else told


def read_enough(typed: int | None) -> int:
    """How many there are, as typed."""
    if typed is None or not 0 <= typed <= 100_000:
        raise InvalidInput(_("how many there are"), _("count what is left: 0 to 100000"), typed)
    return typed


def propose(
    left: Sequence[ToStick], stuck: Mapping[str, int], begun: Collection[str], lacking: Lacking, enough: int
) -> Proposal:
    """Which of the units that are left to stick with what there is.

    Parameters
    ----------
    left : sequence of ToStick
        In bench order.
    stuck : mapping
        Units stuck already, by arm; where there are no blocks, arms behind the others come first.
    begun : collection of str
        Blocks of which something is stuck; they are made whole before others are begun.
    enough : int
        Pieces, or containers (of medium: that it still fills).

    >>> left = [ToStick("K1", "A", "block 1", 1), ToStick("K2", "B", "block 1", 1), ToStick("K3", "A", "block 2", 1)]
    >>> propose(left, {}, (), Lacking.PIECES, 2).words()
    'Stick block 1 whole, and leave block 2 out: every arm loses alike.'
    """
    weight = {one.code: one.cuttings if lacking is Lacking.PIECES else 1 for one in left}
    in_blocks = any(one.group for one in left)
    sets = _blocks(left, begun) if in_blocks else _rounds(left, stuck)
    taken: set[str] = set()
    whole: list[str] = []
    dropped: list[str] = []
    over = enough
    for name, units in sets:
        needed = sum(weight[one.code] for one in units)
        # Without blocks a round that does not fit ends it: a later one would put the arms further apart.
        if needed <= over and (in_blocks or not dropped):
            over -= needed
            taken |= {one.code for one in units}
            whole.append(name)
        else:
            dropped.append(name)
    of_arm = {arm: 0 for arm in sorted({one.arm for one in left})}
    for one in left:
        of_arm[one.arm] += one.cuttings * (one.code in taken)
    named = in_blocks and bool(dropped)
    return Proposal(
        tuple(one.code for one in left if one.code in taken), tuple(one.code for one in left if one.code not in taken),
        tuple(whole) if named else (), tuple(dropped) if named else (), of_arm, over if dropped else 0,
    )  # fmt: skip


def _blocks(left: Sequence[ToStick], begun: Collection[str]) -> list[tuple[str, list[ToStick]]]:
    found: dict[str, list[ToStick]] = {}
    for one in left:
        found.setdefault(one.group, []).append(one)
    return sorted(found.items(), key=lambda block: block[0] not in begun)


def _rounds(left: Sequence[ToStick], stuck: Mapping[str, int]) -> list[tuple[str, list[ToStick]]]:
    """The nth unit of every arm together."""
    found: dict[int, list[ToStick]] = {}
    so_far = dict(stuck)
    for one in left:
        so_far[one.arm] = so_far.get(one.arm, 0) + 1
        found.setdefault(so_far[one.arm], []).append(one)
    return [(str(n), found[n]) for n in sorted(found)]


def waited_hours(since: datetime, now: datetime, before: float | None) -> float:
    """Hours that pieces were held until now: those since they were put off, and those before; to a tenth."""
    return round((now - since).total_seconds() / 3600 + (before or 0.0), 1)
