"""The marks of a sentence."""

from __future__ import annotations

from enum import StrEnum


class Mark(StrEnum):
    """What a sentence is against the evidence."""

    CARRIED = "carried by the data"
    AGAINST = "against the data"
    BEYOND = "beyond the data"
    NOT_ABOUT = "not about the result"
    NOT_CHECKED = "not checked"


#: The mark of a sentence is the gravest of its parts: what was not checked in it keeps it from being carried.
GRAVEST = (Mark.AGAINST, Mark.BEYOND, Mark.NOT_CHECKED, Mark.CARRIED)
