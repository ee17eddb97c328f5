"""A medium's recipe: parts, percent or fractions of components."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.words import tell

_PIECE = re.compile(
    r"(?P<number>\d{1,4}(?:[.,]\d+)?)(?: ?/ ?(?P<under>\d{1,4}))? ?(?P<percent>%)? *(?P<component>\D.*)"
)
#: Between components: commas, colons, plus signs, semicolons and lines; no comma inside a number.
_BETWEEN = re.compile(r"\n|;|\+|:|,(?!\d)")
#: Shares that come to one within this do.
NEARLY = Fraction(1, 100)


@dataclass(frozen=True)
class Part:
    """One component of a recipe."""

    component: str
    parts: float


def read_recipe(text: str) -> list[Part]:
    """A recipe: ``2 pumice, 1 bark fines``, ``2 pumice : 1 coir``, ``75 % pumice, 25 % coir``, ``3/4 pumice, 1/4 coir``.

    Raises
    ------
    InvalidInput
        A part without a positive number or a name, a comma that seems forgotten, percent beside parts, shares that do not come to one.

    Examples
    --------
    >>> [(part.component, part.parts) for part in read_recipe("3/4 pumice, 1/4 coir")]
    [('pumice', 0.75), ('coir', 0.25)]
    """
    found, signs = [], set()
    for piece in (one.strip() for one in _BETWEEN.split(text)):
        if not piece:
            continue
        read = _PIECE.fullmatch(piece)
        amount = _amount(read) if read else Fraction(0)
        if read is None or not 0 < amount <= 1_000:
            raise InvalidInput(
                "recipe", tell("write parts and component, comma between: 2 pumice, 1 bark fines"), piece
            )
        component = " ".join(read["component"].split())
        if re.search(r"\b\d+ (?!mm|cm|mL|L\b)[a-z]{3,}", component):
            raise InvalidInput("recipe", tell("is a comma missing here? Write one between components"), piece)
        signs.add("%" if read["percent"] else "/" if read["under"] else "")
        found.append((component, amount))
    _refuse_shares(found, signs)
    return [Part(component, float(amount)) for component, amount in found]


def _amount(read: re.Match[str]) -> Fraction:
    amount = Fraction(read["number"].replace(",", "."))
    return (
        amount / int(read["under"])
        if read["under"] and int(read["under"])
        else amount
        if not read["under"]
        else Fraction(0)
    )


def _refuse_shares(found: list[tuple[str, Fraction]], signs: set[str]) -> None:
    """Percent and fractions are shares of the whole, and come to it."""
    if len(signs) > 1 and "%" in signs:
        raise InvalidInput(
            "recipe", tell("write all components in percent, or all in parts"), ", ".join(name for name, _ in found)
        )
    whole = sum((amount for _, amount in found), Fraction(0))
    if signs == {"%"} and abs(whole - 100) > 100 * NEARLY:
        raise InvalidInput(
            "recipe",
            tell("percent must come to 100; they come to {whole:g}", whole=float(whole)),
            tell("{whole:g} %", whole=float(whole)),
        )
    if signs == {"/"} and abs(whole - 1) > NEARLY:
        raise InvalidInput(
            "recipe", tell("fractions must come to one; they come to {whole}", whole=str(whole)), str(whole)
        )
