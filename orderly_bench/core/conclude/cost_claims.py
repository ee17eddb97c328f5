"""What a sentence says of money: which arm's plant is the cheaper, by how much, and its price, held against the costs that were kept."""

from __future__ import annotations

import re
from collections.abc import Sequence

from orderly_bench.core.cautions import Caution
from orderly_bench.core.conclude.english import NUMBER, number
from orderly_bench.core.conclude.facts import Cost, Facts
from orderly_bench.core.conclude.mark import Mark
from orderly_bench.core.messages.say import caution

MONEY = re.compile(r"\b(?:cheap\w*|costs?|costly|costlier|dear\w*|expensive)\b", re.I)
LESS = re.compile(
    r"\b(?:cheaper|cheapest|costs?\s+(?:\S+\s+){0,3}?(?:less|least)|less (?:costly|expensive|dear))\b", re.I
)
MORE = re.compile(
    r"\b(?:dearer|dearest|costlier|costliest|costs?\s+(?:\S+\s+){0,3}?(?:more|most)|more (?:costly|expensive))\b", re.I
)
DENIED = re.compile(r"\b(?:no|not|n't|never|neither|hardly|isn't|wasn't|doesn't|don't|didn't)\b", re.I)
ALIKE = re.compile(r"\b(?:same|alike|equal\w*|similar\w*|as (?:much|little|cheap|dear))\b", re.I)
PRICE = re.compile(rf"(?:[€£$]\s*({NUMBER})|({NUMBER})\s*(?:[€£$]|[A-Z]{{3}}\b|euros?\b|pounds?\b|dollars?\b))")
#: How far a part or a ratio may lie from that of the costs and still be it, and a price from the arm's.
ABOUT, NEAR, PENNY = 0.06, 0.1, 0.006


def of_names(names: Sequence[str], facts: Facts) -> list[Cost]:
    """The costs of those that are named, in their order."""
    known = {one.name: one for one in facts.costs}
    return [known[name] for name in names if name in known]


def held_against_costs(text: str, names: Sequence[str], facts: Facts) -> list[tuple[Mark, Caution | None]] | None:
    """What a clause says of money: which of two is the cheaper, or nothing but figures, read elsewhere; None where it can't be held against costs."""
    own, less, more = of_names(names, facts), LESS.search(text), MORE.search(text)
    if len(own) != len(names) or not MONEY.search(text):
        return None
    if own and not (less or more or DENIED.search(text) or ALIKE.search(text)):
        return []
    if len(own) != 2 or bool(less) is bool(more) or DENIED.search(text):
        return None
    found = less or more
    assert found is not None
    cheap, dear = own if less else own[::-1]
    if not cheap.apart(dear):
        return [(Mark.BEYOND, _both("cost_open", found[0], cheap, dear))]
    right = cheap.plant < dear.plant
    return [(Mark.CARRIED, None) if right else (Mark.AGAINST, _both("cost_other_way", found[0], dear, cheap))]


def times(words: str, factor: float, less: bool, names: Sequence[str], facts: Facts) -> tuple[Mark, Caution | None]:
    """How many times dearer, or what part less: beside the costs of the two that are named.

    Parameters
    ----------
    factor : float
        Of the dearer over the cheaper.
    less : bool
        Said as a part less, which is held as a part.
    """
    two = sorted(of_names(names, facts), key=lambda one: one.plant)
    if len(two) != 2 or not two[0].plant:
        return Mark.BEYOND, caution("says_more", "no_ratio", words=words)
    found = two[1].plant / two[0].plant
    close = abs(1 / found - 1 / factor) <= ABOUT if less else abs(found / factor - 1) <= NEAR
    return (Mark.NOT_CHECKED, None) if close else (Mark.AGAINST, _both("cost_ratio", words, *two))


def price(hit: re.Match[str], names: Sequence[str], facts: Facts) -> tuple[Mark, Caution | None]:
    """A price of a plant beside that of the arm."""
    own, value = of_names(names, facts), number(hit[1] or hit[2])
    if len(own) != 1:
        return Mark.NOT_CHECKED, None
    if abs(own[0].plant - value) <= PENNY:
        return Mark.CARRIED, None
    return Mark.AGAINST, caution("says_more", "price", words=hit[0].strip(), cost=f"{own[0].plant:.2f}", a=own[0].name)


def _both(variant: str, words: str, one: Cost, other: Cost) -> Caution:
    cost_a, cost_b = f"{one.plant:.2f}", f"{other.plant:.2f}"
    return caution("says_more", variant, words=words, a=one.name, b=other.name, cost_a=cost_a, cost_b=cost_b)
