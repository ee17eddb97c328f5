"""A dated line written while the trial grows: kept as it was written, and asked whether it tells which arm roots before the end."""

from __future__ import annotations

import re
from collections.abc import Iterable
from datetime import date

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.words import dated, tell

LONGEST = 500
ROOTS = re.compile(r"\b(?:un)?root(?:s|ed|ing|less)?\b|\bstruck\b|\bstrike\b", re.IGNORECASE)


def check_note(text: str, day: date, stuck: date, today: date) -> str:
    """The note with its ends trimmed.

    Raises
    ------
    InvalidInput
        None, too long, before sticking or in the future.
    """
    kept = text.strip()
    if not kept:
        raise InvalidInput("note", tell("write what was seen or done"))
    if len(kept) > LONGEST:
        raise InvalidInput(
            "note", tell("keep it within {most} characters", most=LONGEST), tell("{n} characters", n=len(kept))
        )
    if not stuck <= day <= today:
        raise InvalidInput("day of the note", tell("must lie between sticking and today"), dated(day, "%d %b %Y"))
    return kept


def tells_arms_apart(text: str, names: Iterable[str]) -> bool:
    """Whether a note speaks of roots by arm: by the name of one, of a level, or as *arm B*.

    >>> tells_arms_apart("Pumice is rooting already", ["pumice", "bark"]), tells_arms_apart("roots at the wall of K73M4", ["pumice"])
    (True, False)
    """
    if ROOTS.search(text) is None:
        return False
    named = "|".join(re.escape(name) for name in names if name)
    letters = r"\barms? [A-Z]\b"
    return re.search(rf"(?<!\w)(?:{named})(?!\w)|{letters}" if named else letters, text, re.IGNORECASE) is not None
