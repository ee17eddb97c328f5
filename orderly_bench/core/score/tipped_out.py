"""A container tipped out and counted whole: so many with roots, so many without, so many dead, so many not found; a score for each."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.vocabulary import INDIRECT_GRADES, Fit, KnownBy, Roots, Score, State

NOTE = N_("counted with its container")


@dataclass(frozen=True)
class TippedOut:
    """What was counted of the cuttings of one container that had no score yet."""

    rooted: int
    bare: int
    dead: int
    missing: int

    @property
    def total(self) -> int:
        """All of them."""
        return self.rooted + self.bare + self.dead + self.missing


def scores_of_count(count: TippedOut, waiting: int, way: KnownBy) -> list[Score]:
    """A score for every cutting that waits, in the order with roots, without, dead, not found: which is which is not known.

    Raises
    ------
    InvalidInput
        A number below 0, a sum that is not what waits, roots known in a way that shows none.
    """
    if min(count.rooted, count.bare, count.dead, count.missing) < 0:
        raise InvalidInput("count", _("can't be below 0"), count.total)
    if count.total != waiting:
        rule = _("must add up to the {n} of this container that have no score yet", n=str(waiting))
        raise InvalidInput("count", rule, count.total)
    if count.rooted and way in INDIRECT_GRADES:
        raise InvalidInput("count", _("needs roots that were seen; this check looks by {way}", way=way), count.rooted)
    note = _(NOTE)
    return [
        *[Score(State.ALIVE, Roots.SEEN, known_by=way, note=note)] * count.rooted,
        *[Score(State.ALIVE, Roots.NONE, fit=Fit.NO, known_by=way, note=note)] * count.bare,
        *[Score(State.DEAD, Roots.NOT_LOOKED, known_by=way, note=note)] * count.dead,
        *[Score(State.MISSING, Roots.NOT_LOOKED, known_by=way, note=note)] * count.missing,
    ]
