"""Stick first, ask while it stands: what the least is that fixes a small trial before its pieces wilt."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.question.too_early import WEEK, Expected
from orderly_bench.core.typed import read_choice, read_whole

MOST_WAYS, MOST_PIECES, LONGEST_DAY = 4, 400, 730
#: Where pieces come from that nobody planned to take.
ORIGINS = ("planned", "pruning", "storm", "rescue", "gift")


@dataclass(frozen=True)
class AtOnce:
    """A trial that is stuck now.

    Attributes
    ----------
    plant : str
        Botanical name.
    pieces : int
        How many are at hand.
    differs : AspectKind
        What the ways differ in.
    ways : tuple of str
        One, for a rate, to four.
    endpoint_day : int
        Days after sticking.
    source : str
        From which plant, and why now.
    """

    plant: str
    pieces: int
    differs: AspectKind
    ways: tuple[str, ...]
    endpoint_day: int
    source: str

    @property
    def of_arm(self) -> list[int]:
        """Pieces of each way; what does not divide goes to the first.

        >>> AtOnce("Olea europaea", 11, AspectKind.OTHER, ("a", "b"), 56, "").of_arm
        [6, 5]
        """
        each, over = divmod(self.pieces, len(self.ways))
        return [each + (i < over) for i in range(len(self.ways))]


def read_at_once(typed: dict[str, str], expected: Sequence[Expected]) -> AtOnce:
    """What was typed; a blank endpoint is the last week that the plant's method cards expect.

    Raises
    ------
    InvalidInput
        The first field that is missing or can't be.
    """
    plant = typed.get("plant", "").strip()
    if not 0 < len(plant) <= 120:
        raise InvalidInput("botanical name", _("type the name of the plant, within 120 characters"))
    ways = tuple(dict.fromkeys(line.strip() for line in typed.get("ways", "").splitlines() if line.strip()))
    if not 1 <= len(ways) <= MOST_WAYS:
        raise InvalidInput("ways", _("type one to four, each on a line of its own"), len(ways))
    long = next((way for way in ways if len(way) > 80), None)
    if long is not None:
        raise InvalidInput("ways", _("keep each within 80 characters"), long)
    pieces = read_whole(typed.get("pieces", "").strip(), "pieces")
    if not len(ways) <= pieces <= MOST_PIECES:
        rule = _("must be between {n} and {most}, one at least for each way", n=len(ways), most=MOST_PIECES)
        raise InvalidInput("pieces", rule, pieces)
    origin = typed.get("origin", "") or ORIGINS[0]
    if origin not in ORIGINS:
        raise InvalidInput("origin", _("choose one of: {names}", names=", ".join(ORIGINS)), origin)
    source = ", ".join(part for part in (typed.get("source", "").strip(), origin) if part)
    if len(source) > 200:
        raise InvalidInput("from which plant", _("keep it within 200 characters"), _("{n} characters", n=len(source)))
    differs = read_choice(typed.get("differs", "") or AspectKind.OTHER.value, "what differs", AspectKind)
    return AtOnce(plant, pieces, differs, ways, _endpoint(typed.get("endpoint_day", "").strip(), expected), source)


def _endpoint(typed: str, expected: Sequence[Expected]) -> int:
    if typed:
        day = read_whole(typed, "endpoint day")
        if not 1 <= day <= LONGEST_DAY:
            raise InvalidInput("endpoint day", _("must be between 1 and {most} days", most=LONGEST_DAY), day)
        return day
    if not expected:
        raise InvalidInput(
            "endpoint day", _("no method card says how long this plant takes; type after how many days you look")
        )
    return WEEK * max(one.most for one in expected)
