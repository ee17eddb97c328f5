"""A medium's recipe: parts, percent or fractions of components."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.typed import NUMBER_WORDS

_PIECE = re.compile(
    r"(?P<number>\d{1,4}(?:[.,]\d+)?)(?: ?/ ?(?P<under>\d{1,4}))? ?(?P<percent>%)? *(?:(?:parts?|l|litres?|liters?|buckets?|scoops?|cups?) (?:of )?)?(?P<component>\D.*)",
    re.DOTALL | re.IGNORECASE,
)
#: Between components: commas, colons, plus signs, semicolons, lines, *and* before a number; no comma inside a number.
_BETWEEN = re.compile(r"\n|;|\+|:|,(?!\d)|\band\b(?= *[\d(])")
#: Numbers together: ``2:1 bark:coir``, ``bark and coir 50/50``.
_AHEAD = re.compile(r"(?P<numbers>\d{1,4}(?: ?[:/] ?\d{1,4})+)(?: parts)?(?: of)? +(?P<names>[^\d(].*)")
_BEHIND = re.compile(r"(?P<names>[^\d(].*?),? +(?P<numbers>\d{1,4}(?: ?[:/] ?\d{1,4})+)")
_NAMES = re.compile(r" ?[:/+,&] ?| and ")
#: A second amount inside a component.
_FORGOTTEN = re.compile(r"\b\d+ ?(?:% ?| )(?!mm|cm|mL|L\b)[a-z]{3,}")
_SIZE = re.compile(r"(?:mm|cm|m?l|litres?|g|kg)\b", re.IGNORECASE)
#: Each amount behind its component: *bark 70 %, coir 30 %*, *coir (2), bark (1)*.
_AFTER = re.compile(r"(?P<name>[^\d(]*[^\d(\s,])[ ,]+\(?(?P<amount>\d{1,4}(?:[.,]\d+)?(?: ?%)?)\)?")
_WORDS = NUMBER_WORDS | {"a": 1}
_PART_WORDS = re.compile(rf"\b({'|'.join(_WORDS)})(?= parts?\b)", re.IGNORECASE)
_FRACTION = re.compile(r"(?:\b(one|two|three|a)[ -])?\b(half|third|quarter)s?(?: of)? (?=[a-z])", re.IGNORECASE)
_UNDER = {"half": 2, "third": 3, "quarter": 4}
_EQUAL = re.compile(r"equal parts(?: of)? (?P<names>[^\d(]+)", re.IGNORECASE)
#: Shares that come to one within this do.
NEARLY = Fraction(1, 100)


@dataclass(frozen=True)
class Part:
    """One component of a recipe."""

    component: str
    parts: float


def read_recipe(text: str) -> list[Part]:
    """A recipe: ``2 pumice, 1 bark fines``, ``2:1 pumice:coir``, ``75 % pumice, 25 % coir``, ``3/4 pumice and 1/4 coir``.

    A blend inside it stands in round brackets: ``2 (1 bark, 1 coir), 1 pumice``; ``spelled_out`` parts it.

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
    for piece in _pieces(text):
        read = _PIECE.fullmatch(piece)
        amount = _amount(read) if read else Fraction(0)
        if read is None or not 0 < amount <= 1_000:
            raise InvalidInput("recipe", _("write parts and component, comma between: 2 pumice, 1 bark fines"), piece)
        component = " ".join(read["component"].split())
        _refuse_no_part(component, piece)
        if not _bracketed(component) and _FORGOTTEN.search(component):
            raise InvalidInput("recipe", _("is a comma missing here? Write one between components"), piece)
        signs.add("%" if read["percent"] else "/" if read["under"] else "")
        found.append((component, amount))
    _refuse_shares(found, signs)
    return [Part(component, float(amount)) for component, amount in found]


def _refuse_no_part(component: str, piece: str) -> None:
    """What is given by weight to a litre, and a size or weight in place of parts, would be counted as a part."""
    if re.match(r"m?g ?/ ?(?:l|kg)\b", component, re.IGNORECASE):
        raise InvalidInput("recipe", _("what is given by weight to a litre is no part; leave it out here"), piece)
    if _SIZE.match(component):
        raise InvalidInput("recipe", _("say parts, percent or litres of each; a size or weight is none"), piece)


def _pieces(text: str) -> list[str]:
    """Its components with their amounts, brackets left whole."""
    text = _in_figures(text)
    together = _AHEAD.fullmatch(text.strip()) or _BEHIND.fullmatch(text.strip())
    if together and not re.search(r"\d ?/ ?\d", together["names"]):
        numbers, names = re.split(r" ?[:/] ?", together["numbers"]), _NAMES.split(together["names"])
        if len(numbers) == len(names):
            return [f"{number} {name}" for number, name in zip(numbers, names, strict=True)]
    inside: list[str] = []

    def put_by(found: re.Match[str]) -> str:
        inside.append(found[0])
        return f"\x00{chr(0xE000 + len(inside) - 1)}"

    while (plain := re.sub(r"\([^()]*\)", put_by, text)) != text:
        text = plain
    if "(" in text or ")" in text:
        raise InvalidInput("recipe", _("every round bracket needs its other half"), text)

    def back(piece: str) -> str:
        while "\x00" in piece:
            piece = re.sub("\x00(.)", lambda found: inside[ord(found[1]) - 0xE000], piece)
        return piece

    pieces = [back(piece.strip()) for piece in _BETWEEN.split(text) if piece.strip()]
    behind = [_AFTER.fullmatch(piece) for piece in pieces]
    if len(pieces) > 1 and all(behind):
        return [f"{found['amount']} {found['name']}" for found in behind if found]
    return pieces


def _in_figures(text: str) -> str:
    """Amounts in words as figures: *two parts bark to one part coir*, *equal parts sand and coir*, *two thirds bark*."""
    equal = _EQUAL.fullmatch(text.strip())
    if equal:
        return ", ".join(f"1 {name}" for name in _NAMES.split(equal["names"]) if name.strip())
    text = _PART_WORDS.sub(lambda found: str(_WORDS[found[1].lower()]), text)
    text = re.sub(r"\s+to\s+(?=\d+ parts?\b)", ", ", text)
    return _FRACTION.sub(lambda found: f"{_WORDS[(found[1] or 'a').lower()]}/{_UNDER[found[2].lower()]} ", text)


def _bracketed(component: str) -> bool:
    return component.startswith("(") and component.endswith(")")


def is_blend(name: str) -> bool:
    """Whether a medium's name is its recipe: several components, each with its amount.

    >>> is_blend("2 bark : 1 coir"), is_blend("1:1 peat:perlite"), is_blend("2 mm pumice, 5 mm grit"), is_blend("house mix")
    (True, True, False, False)
    """
    try:
        pieces = _pieces(name)
    except InvalidInput:
        return True
    reads = [_PIECE.fullmatch(piece) for piece in pieces]
    proper = [read for read in reads if read and not _SIZE.match(read["component"])]
    if not all(reads) or (len(proper) < len(reads) and len(proper) < 2):
        return False
    return len(pieces) > 1 or any(
        read and (_FORGOTTEN.search(read["component"]) or (read["percent"] and _amount(read) >= 100)) for read in reads
    )


def same_blend(one: str, other: str) -> bool:
    """Whether two names of media are one recipe, written twice.

    >>> same_blend("2 bark : 1 coir", "1/3 coir, 2/3 bark"), same_blend("2 bark : 1 coir", "1 bark : 1 coir")
    (True, False)
    """
    return is_blend(one) and is_blend(other) and _shares(one) == _shares(other)


def _shares(name: str) -> dict[str, float]:
    parts = spelled_out(read_recipe(name), {})
    whole = sum(part.parts for part in parts)
    return {part.component.casefold(): round(part.parts / whole, 4) for part in parts}


def spelled_out(parts: Sequence[Part], known: Mapping[str, str], above: tuple[str, ...] = ()) -> list[Part]:
    """A recipe without blends inside it: those in brackets, and those ``known`` under their name in small letters.

    Components named twice come together; what is made of nothing but itself is no blend.

    Raises
    ------
    InvalidInput
        A blend that is part of itself.

    Examples
    --------
    >>> [(one.component, one.parts) for one in spelled_out(read_recipe("2 base, 1 pumice"), {"base": "1 bark, 1 coir"})]
    [('bark', 1.0), ('coir', 1.0), ('pumice', 1.0)]
    """
    if len(parts) == 1 and above and parts[0].component.casefold() == above[-1]:
        return list(parts)
    found: dict[str, float] = {}
    for part in parts:
        name = part.component.casefold()
        text = part.component[1:-1] if _bracketed(part.component) else known.get(name, "")
        if name in above:
            raise InvalidInput(
                "recipe", _("a blend can't be part of itself: {way}", way=" > ".join((*above, name))), part.component
            )
        inside = spelled_out(read_recipe(text), known, (*above, name)) if text.strip() else [Part(part.component, 1)]
        whole = sum(one.parts for one in inside)
        for one in inside:
            found[one.component] = found.get(one.component, 0.0) + part.parts * one.parts / whole
    return [Part(component, amount) for component, amount in found.items()]


def in_parts(parts: Sequence[Part]) -> str:
    """A recipe as it is typed.

    >>> in_parts([Part("pumice", 2.0), Part("coir", 0.5)])
    '2 pumice, 0.5 coir'
    """
    return ", ".join(f"{part.parts:.4g} {part.component}" for part in parts)


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
            "recipe", _("write all components in percent, or all in parts"), ", ".join(name for name, _ in found)
        )
    whole = sum((amount for _, amount in found), Fraction(0))
    if signs == {"%"} and abs(whole - 100) > 100 * NEARLY:
        raise InvalidInput(
            "recipe",
            _("percent must come to 100; they come to {whole:g}", whole=float(whole)),
            _("{whole:g} %", whole=float(whole)),
        )
    if signs == {"/"} and abs(whole - 1) > NEARLY:
        raise InvalidInput(
            "recipe", _("fractions must come to one; they come to {whole}", whole=str(whole)), str(whole)
        )
