"""What of the media runs short before anything is stuck: needed against what stands ready and nobody else waits for."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import floor

from orderly_bench.core.messages.words import tell
from orderly_bench.core.prepare.needs import MediumOfPlan


@dataclass(frozen=True)
class Short:
    """A medium of which too little is free: litres, and how many of its containers that fills."""

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
        others = tell(", {reserved:.3g} L of it for other trials", reserved=self.reserved) if self.reserved else ""
        return tell(
            "{medium}: {needed:.3g} L needed, {ready:.3g} L ready{others}; short by {short:.3g} L, enough for {fits} of {containers:container|containers}",
            medium=self.medium,
            needed=self.needed,
            ready=self.ready,
            others=others,
            short=self.needed - self.free,
            fits=str(self.enough_for),
            containers=self.containers,
        )


def short_of(media: Sequence[MediumOfPlan], ready: Mapping[str, float], reserved: Mapping[str, float]) -> list[Short]:
    """Media that run short; of those that nobody counted nothing is known.

    Parameters
    ----------
    ready, reserved : mapping
        Litres by medium in small letters: on the shelf, and for other trials.
    """
    found = []
    for one in media:
        name = one.need.medium.casefold()
        if name not in ready:
            continue
        short = Short(one.need.medium, one.need.litres, ready[name], reserved.get(name, 0.0), one.need.cells)
        if short.needed > short.free:
            found.append(short)
    return found
