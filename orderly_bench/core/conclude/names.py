"""What a sentence speaks of: arms, levels and factors by their names, or by a word that only one of them has."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

from orderly_bench.core.conclude.english import WORDS as NUMBERS
from orderly_bench.core.conclude.facts import Facts
from orderly_bench.core.measures import NOTHING_GIVEN, STRENGTH_NUMBER, STRENGTH_UNIT
from orderly_bench.core.plan.letters import lettered

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
#: A share in percent is as often a rate.
HOW_STRONG = re.compile(rf"(?<!\w)(?:{STRENGTH_NUMBER}) ?(?!%|per)(?:{STRENGTH_UNIT})(?!\w)", re.I)
#: In front of a level that was not given; a level that is nothing.
WITHOUT = re.compile(r"\bwith(?:out| no)\s+(?:the\s+|any\s+)?$", re.I)
#: Letters of a factor that its participle begins with: *wounded* of wounding.
STEM = 4
CONTROL = r"(?:the )?(?:untreated )?controls?(?! of| over| room)|untreated"
NOTHING = re.compile(rf"{'|'.join(sorted(NOTHING_GIVEN))}|no \w+|0(?: \w+)?", re.I)


@dataclass(frozen=True)
class Mention:
    """A name found: where it stands, whose it is, and the number of the group (factor) it belongs to; -1 for an arm of several."""

    start: int
    end: int
    name: str
    group: int


@dataclass(frozen=True)
class NamesFound:
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


def one_and_many(factor: str) -> tuple[str, str]:
    """A factor, and several of it.

    >>> one_and_many("medium"), one_and_many("cutting_type")
    (('medium', 'media'), ('cutting type', 'cutting types'))
    """
    plain = factor.replace("_", " ")
    return plain, f"{plain[:-2]}a" if plain.casefold().endswith("um") else f"{plain}s"


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
            if word not in IDLE and word not in NUMBERS:
                of_word.setdefault(word, set()).add(name)
    return {word: next(iter(names)) for word, names in of_word.items() if len(names) == 1}, {
        word for word, names in of_word.items() if len(names) > 1
    }


@lru_cache(maxsize=64)
def _strengths(facts: Facts) -> dict[str, str]:
    """How strong alone, of levels that no other has as strong: *3000 ppm* of *IBA 3000 ppm*."""
    of_words: dict[str, set[str]] = {}
    for name in (name for group in facts.groups for name in group):
        hit = HOW_STRONG.search(name)
        if hit and hit[0] != name:
            of_words.setdefault(hit[0].casefold(), set()).add(name)
    return {words: next(iter(names)) for words, names in of_words.items() if len(names) == 1}


def find_names(text: str, facts: Facts) -> NamesFound:
    """What a text names; the longest name first, so that one inside another is not found for it."""
    alone, shared = _aliases(facts)
    taken: list[Mention] = []
    for start, end, name in _named(text, alone, facts):
        if all(end <= one.start or start >= one.end for one in taken):
            taken.append(Mention(start, end, name, _group(name, facts)))
    taken = [_meant(text, one, facts) for one in taken]
    taken += _nothing_given(_without(text, taken), facts)
    free = _without(text, taken)
    factors = tuple(
        i
        for i, factor in enumerate(facts.factors)
        if any(re.search(_whole(one), free, re.I) for one in one_and_many(factor))
    )
    own = {word for factor in facts.factors for word in WORD.findall(factor.lower())}
    ambiguous = any(re.search(_whole(word), free, re.I) for word in shared - own)
    return NamesFound(tuple(sorted(taken, key=lambda one: one.start)), factors, ambiguous)


def _named(text: str, alone: dict[str, str], facts: Facts) -> Iterator[tuple[int, int, str]]:
    """Where something is named: by its whole name, by its letter, by a word that it alone has."""
    for name in facts.names:
        yield from ((*hit.span(), name) for hit in re.finditer(_whole(name), text, re.I))
    for words, name in _strengths(facts).items():
        yield from ((*hit.span(), name) for hit in re.finditer(_whole(words), text, re.I))
        figure = words.split()[0]
        beside = rf"(?<![\w.]){re.escape(figure)}(?=(?:,? (?:and|or|to|versus|vs\.?|nor) [\d.,]+)+ ?{re.escape(words[len(figure) :].strip())}\b)"
        yield from ((*hit.span(), name) for hit in re.finditer(beside, text, re.I))
    for letter, name in facts.letters:
        yield from ((start, end, name) for start, end in lettered(text, letter))
    for word, name in alone.items():
        yield from ((*hit.span(), name) for hit in re.finditer(_whole(word), text, re.I))


def _nothing_given(free: str, facts: Facts) -> list[Mention]:
    """*Without hormone*, *unwounded* and *wounded* of wounding; *untreated* and *the control* where one factor alone has a level that is nothing."""
    nothing = [next((name for name in names if NOTHING.fullmatch(name)), "") for names in facts.groups]
    found = []
    for i, factor in enumerate(facts.factors if len(facts.levels) == len(facts.factors) else ()):
        words = rf"with(?:out| no)\s+(?:any\s+|the\s+)?{re.escape(factor)}"
        words = rf"(?:{words}|{CONTROL})" if sum(map(bool, nothing)) == 1 else words
        done = rf"{re.escape(factor.split()[-1][:STEM])}\w*ed"
        words = rf"(?:{words}|un{done})"
        others = [name for name in facts.groups[i] if name != nothing[i]]
        if nothing[i] and len(others) == 1:
            found += [Mention(*hit.span(), others[0], i) for hit in re.finditer(rf"(?<!\w){done}(?!\w)", free, re.I)]
        if nothing[i]:
            found += [Mention(*hit.span(), nothing[i], i) for hit in re.finditer(rf"\b{words}(?!\w)", free, re.I)]
    return found


def _meant(text: str, one: Mention, facts: Facts) -> Mention:
    """*Without IBA* is the other of two levels, of more the one that is nothing; else as it stands."""
    if one.group < 0 or not facts.factors or WITHOUT.search(text[: one.start]) is None:
        return one
    others = [name for name in facts.groups[one.group] if name != one.name]
    found = others if len(others) == 1 else [name for name in others if NOTHING.fullmatch(name)]
    return replace(one, name=found[0]) if found else one


def _group(name: str, facts: Facts) -> int:
    return next((i for i, names in enumerate(facts.groups) if name in names), -1)


def _without(text: str, taken: list[Mention]) -> str:
    for one in taken:
        text = text[: one.start] + " " * (one.end - one.start) + text[one.end :]
    return text


def masked(text: str, said: NamesFound) -> str:
    """The text with a blank of the same length for each name, so that no number in a name is read as a figure."""
    return _without(text, list(said.mentions))
