"""What of the media runs short before anything is stuck: needed against what stands ready and nobody else waits for."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import floor

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.prepare.needs import MediumOfPlan


@dataclass(frozen=True)
class Short:
    """A medium or component of which too little is free: litres, and how many of its containers that fills."""

    medium: str
    needed: float
    ready: float
    reserved: float
    containers: int

    @property
    def free(self) -> float:
        """Litres that no other trial waits for."""
        return max(0.0, self.ready - self.reserved)

    @property
    def enough_for(self) -> int:
        """Containers that what is free fills."""
        return floor(self.containers * self.free / self.needed)

    @property
    def words(self) -> str:
        """In one line."""
        others = _(", {reserved:.3g} L of it for other trials", reserved=self.reserved) if self.reserved else ""
        return _(
            "{medium}: {needed:.3g} L needed, {ready:.3g} L ready{others}; short by {short:.3g} L, enough for {fits} of {containers:container|containers}",
            medium=self.medium,
            needed=self.needed,
            ready=self.ready,
            others=others,
            short=self.needed - self.free,
            fits=str(self.enough_for),
            containers=self.containers,
        )


@dataclass(frozen=True)
class Taken:
    """What is taken from the shelf: a medium that stands ready mixed, or a component of what is mixed; litres, and containers it goes into."""

    name: str
    litres: float
    containers: int
    media: tuple[str, ...]


def taken_of(media: Sequence[MediumOfPlan], ready: Mapping[str, float]) -> list[Taken]:
    """A medium is taken whole where the shelf counts it, else its components, those of all media together.

    Parameters
    ----------
    ready : mapping
        Litres on the shelf by name in small letters.
    """
    found: dict[str, Taken] = {}
    for one in media:
        need = one.need
        whole = need.medium.casefold() in ready
        for name, litres in [(need.medium, need.litres)] if whole else need.components:
            before = found.get(name.casefold(), Taken(name, 0.0, 0, ()))
            found[name.casefold()] = Taken(
                before.name, before.litres + litres, before.containers + need.cells, (*before.media, need.medium)
            )
    return list(found.values())


def short_of(media: Sequence[MediumOfPlan], ready: Mapping[str, float], reserved: Mapping[str, float]) -> list[Short]:
    """Media and components that run short; of those that nobody counted nothing is known.

    Parameters
    ----------
    ready, reserved : mapping
        Litres by name in small letters: on the shelf, and for other trials.
    """
    found = []
    for one in taken_of(media, ready):
        name = one.name.casefold()
        if name not in ready:
            continue
        short = Short(one.name, one.litres, ready[name], reserved.get(name, 0.0), one.containers)
        if short.needed > short.free + 1e-9:
            found.append(short)
    return found
