"""Errors of the application that carry more than a sentence."""

from __future__ import annotations

from orderly_bench.core.errors import OrderlyError


class NotFound(OrderlyError):
    """Nothing of that id; the message says where to look instead."""


class Busy(OrderlyError):
    """It can be had, but not at this moment; the message says when to ask again."""


class Conflict(OrderlyError):
    """Someone else changed the same thing; ``theirs`` and ``yours`` are shown side by side; ``standing`` is the revision of theirs."""

    def __init__(self, message: str, theirs: list[str], yours: list[str], standing: int | None = None) -> None:
        super().__init__(message)
        self.theirs, self.yours, self.standing = theirs, yours, standing
