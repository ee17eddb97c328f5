"""The piles on the table while a check is scored, and a count of them held against the scores before it is closed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import IntEnum

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.vocabulary import Roots, Score, State

LONGEST_WHY = 200


def has_roots(score: Score) -> bool:
    """Whether a score says that there are roots."""
    return score.roots in (Roots.COUNTED, Roots.SEEN)


class Pile(IntEnum):
    """Where a piece lies once it was looked at."""

    BIN = 0  #: without roots, or dead
    ROOTED = 1
    NOT_FOUND = 2


def pile_of(score: Score) -> Pile:
    """The pile a score puts its piece on."""
    return Pile.ROOTED if has_roots(score) else Pile.NOT_FOUND if score.state is State.MISSING else Pile.BIN


@dataclass(frozen=True)
class Piles:
    """How many pieces lie with roots and in the bin, and how many are not unpotted yet."""

    rooted: int
    bare: int
    waiting: int = 0

    @property
    def words(self) -> str:
        """The piles in a line."""
        return _(
            "{rooted} with roots, {bare} in the bin, {waiting} not yet unpotted",
            rooted=self.rooted,
            bare=self.bare,
            waiting=self.waiting,
        )


def piles(plants: Iterable[Sequence[Pile | None]]) -> Piles:
    """The piles by the scores.

    Parameters
    ----------
    plants : iterable of sequences of Pile or None
        Of every plant on the bench the pile of each of its rooting sites; None where a site has no score yet.
    """
    lies = Counter(
        Pile.ROOTED if Pile.ROOTED in sites else None if None in sites else min(p for p in sites if p is not None)
        for sites in plants
    )
    return Piles(lies[Pile.ROOTED], lies[Pile.BIN], lies[None])


@dataclass(frozen=True)
class Counted:
    """What was counted on the table, None where nobody did, and why it differs from the scores."""

    rooted: int | None = None
    bare: int | None = None
    why: str = ""


NOT_COUNTED = Counted()


def held_against(counted: Counted, scored: Piles) -> str:
    """What stays of a count that differs from the scores, with its reason; blank where they agree or nobody counted.

    Raises
    ------
    InvalidInput
        They differ and no reason is given.
    """
    asked, found = [], []
    if counted.rooted not in (None, scored.rooted):
        both = {"counted": counted.rooted, "scored": scored.rooted}
        asked.append(_("{counted} with roots lie on the table and {scored} in the scores", **both))
        found.append(_("{counted} with roots were counted on the table and {scored} in the scores", **both))
    if counted.bare not in (None, scored.bare):
        both = {"counted": counted.bare, "scored": scored.bare}
        asked.append(_("{counted} without roots lie in the bin and {scored} in the scores", **both))
        found.append(_("{counted} without roots were counted in the bin and {scored} in the scores", **both))
    if not found:
        return ""
    if not 0 < len(counted.why.strip()) <= LONGEST_WHY:
        raise InvalidInput(
            _("why the count differs"),
            _(
                "{differ}: look for the ones that differ, or say within {n} characters why",
                differ="; ".join(asked),
                n=LONGEST_WHY,
            ),
            counted.why[:60] or None,
        )
    return _("{differ}: {why}", differ="; ".join(found), why=counted.why.strip())
