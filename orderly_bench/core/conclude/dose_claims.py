"""*Rose with the strength*: held against the trend of the one factor whose levels are strengths, and the bend of its curve."""

from __future__ import annotations

import re

from orderly_bench.core.cautions import Caution
from orderly_bench.core.conclude.facts import Facts
from orderly_bench.core.conclude.mark import Mark
from orderly_bench.core.conclude.things import other_thing
from orderly_bench.core.messages.say import caution
from orderly_bench.core.telling.dose import DoseWay
from orderly_bench.core.vocabulary import Strength

_UP = r"rose|ris(?:es?|ing)|increas(?:ed?|es|ing)|grew|grows?|went up|goes up|improved?|improves|climb(?:s|ed)|more|better|higher|longer|greater"
_DOWN = r"fell|falls?|falling|decreas(?:ed?|es|ing)|declin(?:ed?|es|ing)|dropp?(?:s|ed)?|went down|goes down|diminish(?:es|ed)|fewer|less|lower|shorter|worse"
_STRENGTH = r"(?:strengths?|dos(?:es?|age)|concentrations?)"
STEADY = re.compile(
    rf"\b(?:(?:(?P<up>{_UP})|(?P<down>{_DOWN}))\b[^.;,]{{0,20}}?\b(?:with|as) (?:the |a |rising |increasing |higher |more |of |hormone |iba |naa )*{_STRENGTH}\b"
    rf"|the (?:higher|stronger|greater) (?:the |of |iba |naa |hormone )*{_STRENGTH}\b,? the (?:(?P<more>{_UP})|(?P<less>{_DOWN})))\b(?: (?:of|the|was|were|roots?|rooting|iba|naa|hormone|number)\b)*",
    re.I,
)
#: The rise is said of a part of the strengths, or as a hump.
IN_PART = re.compile(r"\b(?:up to|until|till|then|beyond|above|below|between|from|at first|before|after)\b", re.I)


def of_strengths(text: str, facts: Facts) -> list[tuple[Mark, Caution | None]] | None:
    """What is said of the response over all strengths; None where nothing is, or not of it."""
    said = STEADY.search(text)
    if said is None or facts.dose is None or IN_PART.search(text):
        return None
    if other_thing(text[: said.start()] + " " * len(said[0]) + text[said.end() :], facts) is not None:
        return None
    up = bool(said["up"] or said["more"])
    doubt = caution("says_more", "dose", words=said[0].strip(), told=facts.dose.told)
    if facts.dose.way in (DoseWay.OPEN, DoseWay.BENDS):
        return [(Mark.BEYOND, doubt)]
    if up is not (facts.dose.way is DoseWay.RISES):
        return [(Mark.AGAINST, doubt)]
    return [(Mark.NOT_CHECKED if facts.strength is Strength.CANNOT_TELL else Mark.CARRIED, None)]
