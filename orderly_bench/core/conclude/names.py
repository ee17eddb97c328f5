"""What a sentence speaks of: arms, levels and factors by their names, or by a word that only one of them has."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

from orderly_bench.core.conclude.facts import Facts

#: Words of a name that name nothing by themselves.
IDLE = set(
    [
        "and",
        "with",
        "without",
        "the",
        "per",
        "mix",
        "ppm",
        "mg",
        "percent",
        "for",
        "from",
        "all",
        "not",
        "none",
        "new",
        "old",
        "plus",
        "alone",
        "only",
        "tip",
        "tips",
        "cutting",
        "cuttings",
        "pot",
        "pots",
    ]
)
COUNTING = {"none", "no", "all", "half"}
BESIDE = r"(?:(?<=than )|(?<=and )|(?<=against )|(?<=over )|(?<=or )|(?<=with )|(?<=hormone ))"
WORD = re.compile(r"[^\W\d_]{3,}")
#: A letter behind one of these is that thing's, and no arm's.
OTHERS = re.compile(
    r"\b(?:vitamin|plan|grade|block|bench|bed|house|lot|batch|class|type|tray|pot|group|zone|room|section|part|figure|table|step)\s*$|°\s*$",
    re.I,
)
ARM = re.compile(r"\b(?:arms?|stakes?|treatments?)\s+$", re.I)
#: What follows the letter A at the head of a sentence; anything else makes it the little word.
AFTER_A = re.compile(
    r"\s*(?:$|[.,;:)]|(?:and|or|against|than|versus|vs|root(?:s|ed)|did|does|was|were|is|had|has|gave|gives|came|beats?|outperform\w*|outroot\w*|won|wins?|fail(?:s|ed)|"
    r"lost|loses|lags?|lagged|took|takes|made|makes|may|might|will|would|should|could|costs?|needs?|shows?|showed|looks?|looked|leads?|led|alone|itself|over|exceed\w*|"
    r"surpass\w*|improve\w*|works?|worked|differ\w*|stayed|stands?|kept|grew|survived)\b)"
)


@dataclass(frozen=True)
class Mention:
    """A name found: where it stands, whose it is, and the number of the group (factor) it belongs to; -1 for an arm of several."""

    start: int
    end: int
    name: str
    group: int


@dataclass(frozen=True)
class Spoken:
    """Names in a text, in their order; factors named as such; whether a word stands there that several names share."""

    mentions: tuple[Mention, ...]
    factors: tuple[int, ...]
    ambiguous: bool

    @property
    def names(self) -> list[str]:
        """Each once, in order."""
        return list(dict.fromkeys(one.name for one in self.mentions))

    @property
    def anything(self) -> bool:
        """Whether anything of the trial is named."""
        return bool(self.mentions or self.factors or self.ambiguous)


def _whole(name: str) -> str:
    """A name by itself; one that is also a word of counting only where it stands for a treatment: *than none*."""
    before = BESIDE if name.lower() in COUNTING else r"(?<!\w)"
    return rf"{before}{re.escape(name)}(?:s|es)?(?!\w)"


@lru_cache(maxsize=64)
def _aliases(facts: Facts) -> tuple[dict[str, str], set[str]]:
    """Words that only one of all the levels has, and words that several have."""
    of_word: dict[str, set[str]] = {}
    for name in (name for group in facts.groups for name in group):
        for word in WORD.findall(name.lower()):
            if word not in IDLE:
                of_word.setdefault(word, set()).add(name)
    return {word: next(iter(names)) for word, names in of_word.items() if len(names) == 1}, {
        word for word, names in of_word.items() if len(names) > 1
    }


def spoken(text: str, facts: Facts) -> Spoken:
    """What a text names; the longest name first, so that one inside another is not found for it."""
    taken: list[Mention] = []

    def take(pattern: str, name: str) -> None:
        for hit in re.finditer(pattern, text, re.I):
            if all(hit.end() <= one.start or hit.start() >= one.end for one in taken):
                taken.append(Mention(hit.start(), hit.end(), name, _group(name, facts)))

    for name in facts.names:
        take(_whole(name), name)
    for letter, name in facts.letters:
        for start, end in _lettered(text, letter):
            if all(end <= one.start or start >= one.end for one in taken):
                taken.append(Mention(start, end, name, _group(name, facts)))
    alone, shared = _aliases(facts)
    for word, name in alone.items():
        take(_whole(word), name)
    free = _without(text, taken)
    factors = tuple(i for i, factor in enumerate(facts.factors) if re.search(_whole(factor), free, re.I))
    own = {word for factor in facts.factors for word in WORD.findall(factor.lower())}
    ambiguous = any(re.search(_whole(word), free, re.I) for word in shared - own)
    return Spoken(tuple(sorted(taken, key=lambda one: one.start)), factors, ambiguous)


def _group(name: str, facts: Facts) -> int:
    return next((i for i, names in enumerate(facts.groups) if name in names), -1)


def _lettered(text: str, letter: str) -> Iterator[tuple[int, int]]:
    """Where an arm is called by its letter, *arm B* or *B*; A at the head of a sentence, and I, may be little words."""
    for hit in re.finditer(rf"(?<![\w'-]){letter}(?![\w'-])", text):
        before, behind = text[: hit.start()], text[hit.end() :]
        called = ARM.search(before)
        plain = letter != "I" and (letter != "A" or before.strip() != "" or AFTER_A.match(behind) is not None)
        if called or (plain and not OTHERS.search(before)):
            yield (called.start() if called else hit.start()), hit.end()


def _without(text: str, taken: list[Mention]) -> str:
    for one in taken:
        text = text[: one.start] + " " * (one.end - one.start) + text[one.end :]
    return text


def masked(text: str, said: Spoken) -> str:
    """The text with a blank of the same length for each name, so that no number in a name is read as a figure."""
    return _without(text, list(said.mentions))
