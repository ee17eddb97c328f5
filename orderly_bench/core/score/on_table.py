"""A count made on the table, when piles lie there: held against the scores before a check is closed."""

from __future__ import annotations

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.words import tell
from orderly_bench.core.vocabulary import Roots, Score

LONGEST_WHY = 200


def has_roots(score: Score) -> bool:
    """Whether a score says that there are roots."""
    return score.roots in (Roots.COUNTED, Roots.SEEN)


def held_against(counted: int | None, scored: int, why: str) -> str:
    """What stays of a count that differs from the scores, with its reason; blank where they agree or nobody counted.

    Raises
    ------
    InvalidInput
        They differ and no reason is given.
    """
    if counted is None or counted == scored:
        return ""
    if not 0 < len(why.strip()) <= LONGEST_WHY:
        raise InvalidInput(
            tell("why the count differs"),
            tell(
                "{counted} with roots lie on the table and {scored} in the scores: look for the ones that differ, or say within {n} characters why",
                counted=counted,
                scored=scored,
                n=LONGEST_WHY,
            ),
            why[:60] or None,
        )
    return tell(
        "{counted} with roots were counted on the table and {scored} in the scores: {why}",
        counted=counted,
        scored=scored,
        why=why.strip(),
    )
