"""A medium's recipe: parts of components."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.words import tell


@dataclass(frozen=True)
class Part:
    """One component of a recipe."""

    component: str
    parts: float


def read_recipe(text: str) -> list[Part]:
    """A recipe such as ``2 pumice, 1 bark fines``: a number of parts before each component.

    Raises
    ------
    InvalidInput
        A part without a positive number or a name.
    """
    parts = []
    for piece in text.replace("\n", ",").split(","):
        if not piece.strip():
            continue
        number, _, component = piece.strip().partition(" ")
        try:
            amount = float(number)
        except ValueError:
            amount = 0.0
        if not 0 < amount <= 1_000 or not component.strip():
            raise InvalidInput(
                "recipe", tell("write parts and component, comma between: 2 pumice, 1 bark fines"), piece.strip()
            )
        parts.append(Part(component.strip(), amount))
    return parts
