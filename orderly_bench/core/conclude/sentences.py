"""One sentence of a conclusion, held against the facts.

It is read for what can be checked: names of arms and levels, which is ahead, sameness, ratios, percentages, counts, causes and
how wide it reaches. What says none of these is *not checked*; no sentence is ever corrected.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import StrEnum

from orderly_bench.core.cautions import Caution
from orderly_bench.core.conclude.facts import Counted, Facts, Settled
from orderly_bench.core.messages.say import caution
from orderly_bench.core.vocabulary import Strength

WORSE = r"worse|worst|inferior|lower|lowest|fewer|fewest|less|(?<!at )least|behind|reduce[sd]?|decrease[sd]?|loses|lost"
#: Words that compare only where something is named, or *than* stands behind: "more are needed" compares nothing.
WEAK = re.compile(
    r"more|most|less|least|fewer|fewest|higher|highest|lower|lowest|ahead|behind|lost|loses|won|wins?", re.I
)
CLAIMS = re.compile(
    rf"\b(better|best|superior|higher|highest|more|(?<!at )most(?! of)|outperform\w*|outroot\w*|beats?|beaten|ahead|improve[sd]?|increase[sd]?|"
    rf"wins?|won|{WORSE}|works?|worked|effective|significant\w*|pays?|worth it)\b",
    re.I,
)
DOWNWARD = re.compile(rf"\b({WORSE})\b", re.I)
OF_ALL = re.compile(r"\b(best|highest|most|worst|lowest|fewest|least|wins?|won)\b", re.I)
SAMENESS = re.compile(
    r"\b(the same|alike|equal(?:ly)?|equivalent|no (?:real |clear )?differences?|no effect|as (?:good|well|many|much|high) as|"
    r"(?:does|do|did)(?:n't| not) matter|ma(?:kes?|de) no difference|(?:no|not|never|nor|n't) (?:\w+ ){0,2}(?:better|worse|more|fewer|higher|lower))\b",
    re.I,
)
CAUSES = re.compile(r"\b(because|due to|owing to|caused by|causes|thanks to|leads? to|led to)\b", re.I)
#: Causes too, unless what did it was varied.
DID_IT = re.compile(
    r"\b(ma(?:kes?|de) (?:all )?the (?:whole )?difference|did (?:it|this|that)|killed|(?:is|was) (?:why|the (?:cause|reason)))\b",
    re.I,
)
WIDE = re.compile(
    r"\b(always|never|every|everywhere|any|identical(?:ly)?|prove[sdn]?|proof|certain(?:ly)?|guarantee\w*|in general|in all|all (?:cultivars|species|plants|seasons))\b",
    re.I,
)
TIMES = {
    "twice": 2.0, "double": 2.0, "doubles": 2.0, "doubled": 2.0, "triple": 3.0, "triples": 3.0, "tripled": 3.0, "threefold": 3.0, "twofold": 2.0,
    "half as": 2.0, "halves": 2.0, "halved": 2.0,
}  # fmt: skip
NUMBERS = {"two": 2.0, "three": 3.0, "four": 4.0, "five": 5.0, "six": 6.0, "ten": 10.0}
RATIO = re.compile(rf"\b({'|'.join(TIMES)})\b|\b(\d+(?:[.,]\d+)?|{'|'.join(NUMBERS)})(?: times|-fold| fold|x\b)", re.I)
PERCENT = re.compile(r"(\d+(?:[.,]\d+)?)\s*(?:%|percent\b|per cent\b)(?!\s*(?:interval|points))", re.I)
COUNT = re.compile(r"\b(\d+)\s*(?:of|out of|/)\s*(?:the )?(\d+)\b", re.I)
#: How far a percentage or ratio may lie from what was counted and still be it.
ROUNDED, NEAR = 1.0, 0.1


class Mark(StrEnum):
    """What a sentence is against the evidence."""

    CARRIED = "carried by the data"
    AGAINST = "against the data"
    BEYOND = "beyond the data"
    NOT_CHECKED = "not checked"


#: The mark of a sentence is the gravest of its parts.
GRAVEST = (Mark.AGAINST, Mark.BEYOND, Mark.CARRIED)


@dataclass(frozen=True)
class Marked:
    """A sentence with its mark and why."""

    sentence: str
    mark: Mark
    doubts: tuple[Caution, ...] = ()


def mark(sentence: str, facts: Facts | None) -> Marked:
    """The mark of a sentence; without facts, because nothing was compared or counted, it is *not checked*."""
    if facts is None:
        return Marked(sentence, Mark.NOT_CHECKED)
    found = [*_wide(sentence, facts), *_numbers(sentence, facts), *_compared(sentence, facts)]
    marks = [one for one, _ in found]
    gravest = next((one for one in GRAVEST if one in marks), Mark.NOT_CHECKED)
    return Marked(sentence, gravest, tuple(doubt for _, doubt in found if doubt is not None))


Found = list[tuple[Mark, Caution | None]]


def _wide(sentence: str, facts: Facts) -> Found:
    """Causes that were not varied, and more than one trial can say."""
    found: Found = []
    varied = bool(_named(sentence, facts)) or any(
        re.search(rf"(?<!\w){re.escape(factor)}(?!\w)", sentence, re.I) for factor in facts.factors
    )
    if (did := DID_IT.search(sentence)) and not varied:
        found.append((Mark.BEYOND, caution("cause_not_varied", words=did[0])))
    if cause := CAUSES.search(sentence):
        found.append((Mark.BEYOND, caution("cause_not_varied", words=cause[0])))
    if wide := WIDE.search(sentence):
        found.append((Mark.BEYOND, caution("says_more", "wide", words=wide[0])))
    return found


def _numbers(sentence: str, facts: Facts) -> Found:
    """Percentages, counts and ratios that the counts do not have."""
    found: Found = []
    if facts.shares:
        rates = [100 * arm.rate for arm in _counted(facts) if arm.rate is not None]
        gaps = [abs(a - b) for a in rates for b in rates]
        for typed in PERCENT.finditer(sentence):
            value = float(typed[1].replace(",", "."))
            there = any(abs(value - one) <= ROUNDED for one in (*rates, *gaps))
            found.append(
                (Mark.CARRIED, None) if there else (Mark.BEYOND, caution("says_more", "percent", words=typed[0]))
            )
        counts = {(arm.did, arm.known) for arm in _counted(facts)} | {
            (arm.known - arm.did, arm.known) for arm in _counted(facts)
        }
        for typed in COUNT.finditer(sentence):
            there = (int(typed[1]), int(typed[2])) in counts
            found.append(
                (Mark.CARRIED, None) if there else (Mark.AGAINST, caution("says_more", "count", words=typed[0]))
            )
    for typed in RATIO.finditer(sentence):
        stated = (
            TIMES[typed[1].lower()] if typed[1] else NUMBERS.get(typed[2].lower()) or float(typed[2].replace(",", "."))
        )
        found.append(_ratio(typed[0], stated, _meant(sentence, facts), facts))
    return found


def _counted(facts: Facts) -> list[Counted]:
    return [*facts.arms, *(side for pair in facts.pairs for side in (pair.higher, pair.lower))]


def _ratio(words: str, stated: float, pair: Settled | None, facts: Facts) -> tuple[Mark, Caution | None]:
    """A ratio beside that of the counts: larger stands against them, as large says more than an interval was made for."""
    if pair is None or not facts.shares or pair.ratio is None:
        return Mark.BEYOND, caution("says_more", "no_ratio", words=words)
    variant = "ratio_against" if stated > pair.ratio * (1 + NEAR) else "ratio"
    doubt = caution("says_more", variant, words=words, ratio=f"{pair.ratio:.2g}", a=pair.higher.name, b=pair.lower.name)
    return (Mark.AGAINST if variant == "ratio_against" else Mark.BEYOND), doubt


def _named(sentence: str, facts: Facts) -> list[str]:
    """Names of arms and levels in the order they stand in the sentence; one inside another is not found."""
    taken: list[tuple[int, int, str]] = []
    for name in facts.names:
        for hit in re.finditer(rf"(?<!\w){re.escape(name)}(?!\w)", sentence, re.I):
            if all(hit.end() <= start or hit.start() >= end for start, end, _ in taken):
                taken.append((hit.start(), hit.end(), name))
    return list(dict.fromkeys(name for _, _, name in sorted(taken)))


def _meant(sentence: str, facts: Facts) -> Settled | None:
    """The comparison a sentence speaks of: of the two it names, of the one it names where that has one, else the headline's."""
    named = _named(sentence, facts)
    if len(named) >= 2:
        return next((pair for pair in facts.pairs if pair.names == frozenset(named[:2])), None)
    if len(named) == 1:
        own = [pair for pair in facts.pairs if named[0] in pair.names]
        return own[0] if len(own) == 1 else None
    return facts.pairs[0] if facts.pairs else None


def _compared(sentence: str, facts: Facts) -> Found:
    """Which is ahead, or that they are alike."""
    same, claim = SAMENESS.search(sentence), CLAIMS.search(sentence)
    said = same or claim
    if said is None:
        return []
    named = _named(sentence, facts)
    if same is None and WEAK.fullmatch(said[0]) and not named and not re.search(r"\bthan\b", sentence, re.I):
        return []
    if not facts.compared:
        return [(Mark.BEYOND, caution("says_more", "look", words=said[0]))]
    pair = _meant(sentence, facts)
    if same is not None:
        return [_sameness(same[0], pair, facts)]
    return [_ahead(named, said, pair, facts)]


def _sameness(words: str, pair: Settled | None, facts: Facts) -> tuple[Mark, Caution | None]:
    if pair is not None and pair.clear:
        return Mark.AGAINST, caution("says_more", "against", words=words)
    if pair is None or not pair.alike:
        return Mark.BEYOND, caution("says_more", "alike", words=words)
    return Mark.CARRIED, None


def _ahead(named: list[str], claim: re.Match[str], pair: Settled | None, facts: Facts) -> tuple[Mark, Caution | None]:
    if len(named) == 1 and OF_ALL.search(claim[0]):
        return _of_all(named[0], claim[0], facts)
    if pair is None:
        return (Mark.BEYOND, caution("says_more", "which", words=claim[0])) if named else (Mark.NOT_CHECKED, None)
    if pair.alike:
        return Mark.AGAINST, caution("says_more", "difference", words=claim[0], strength=facts.strength.value)
    if not pair.clear:
        return Mark.BEYOND, caution("says_more", "difference", words=claim[0], strength=Strength.CANNOT_TELL.value)
    if not named:
        return Mark.NOT_CHECKED, None
    ahead = named[0] == pair.higher.name
    if bool(DOWNWARD.search(claim[0])) is ahead:
        return Mark.AGAINST, caution("says_more", "other_way", words=claim[0], a=pair.higher.name, b=pair.lower.name)
    return Mark.CARRIED, None


def _of_all(name: str, words: str, facts: Facts) -> tuple[Mark, Caution | None]:
    """One named best or worst of all: clear against each other arm that it is compared with."""
    down = bool(DOWNWARD.search(words))
    own = [pair for pair in facts.pairs if name in pair.names]
    sides = [(pair, (pair.lower if down else pair.higher).name == name) for pair in own]
    if any(pair.clear and not right for pair, right in sides):
        pair = next(pair for pair, right in sides if pair.clear and not right)
        return Mark.AGAINST, caution("says_more", "other_way", words=words, a=pair.higher.name, b=pair.lower.name)
    if sides and all(pair.clear and right for pair, right in sides):
        return Mark.CARRIED, None
    return Mark.BEYOND, caution("says_more", "of_all", words=words, name=name)
