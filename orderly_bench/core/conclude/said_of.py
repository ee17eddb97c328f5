"""Of which arm, or of which several, a figure in a sentence is said."""

from __future__ import annotations

import re
from itertools import product

from orderly_bench.core.conclude.facts import Counted, Facts
from orderly_bench.core.conclude.names import Mention, NamesFound

#: Between a figure and the name right behind it.
BEHIND = re.compile(
    r"\s*\(|(?:\s*\([^()]*\)|\))?\s*(?:\w+ ){0,3}(?:in|with|of|for|from|on|under) (?:the |those in )?(?:the )?|\s+(?:of )?(?:the )?",
    re.I,
)
#: Several at once, or one that is left out: a figure beside it may be of others than the nearest name.
TOGETHER = re.compile(r"\b(?:together|both|overall|in total|altogether|combined|all told|without)\b", re.I)


def counted(facts: Facts, name: str | None = None) -> list[Counted]:
    """Everything that was counted under a name, or under all."""
    every = [*facts.arms, *(side for pair in facts.pairs for side in (pair.higher, pair.lower))]
    return [one for one in every if name is None or one.name == name]


def bound(
    hit: re.Match[str], place: int, all_of_kind: list[re.Match[str]], text: str, said: NamesFound, facts: Facts
) -> tuple[list[Counted] | None, bool]:
    """What a figure is said of, and whether that is sure: the name right behind it, else in order, else the last before, else the next.

    None where none is named; of a single arm it is that arm. A name that stands alone between two commas is sure.
    """
    if len(facts.arms) == 1:
        return list(facts.arms), True
    mentions = list(said.mentions)
    if not mentions:
        return None, False
    if (combined := _combined(hit, len(all_of_kind) == 1, text, said, facts)) is not None:
        return combined, True
    after = next((one for one in mentions if one.start >= hit.end()), None)
    if (
        after is not None
        and BEHIND.fullmatch(text[hit.end() : after.start])
        and not re.search(r"[;:.]|\b(?:against|and|but|than|versus)\b", text[hit.end() : after.start])
    ):
        return _of(after, facts), True
    names = list(dict.fromkeys(one.name for one in mentions))
    alike = len({one.group for one in mentions}) == 1
    if alike and len(all_of_kind) == len(names) and mentions[-1].end <= all_of_kind[0].start():
        return counted(facts, names[place]), True
    before = [one for one in mentions if one.end <= hit.start()]
    return _of(before[-1] if before else mentions[0], facts), _alone(hit, text, said)


def _around(hit: re.Match[str], text: str, said: NamesFound) -> list[Mention]:
    """The names between the commas around a figure."""
    start = max(text.rfind(sign, 0, hit.start()) for sign in ",;:") + 1
    end = min((at for sign in ",;:" if (at := text.find(sign, hit.end())) >= 0), default=len(text))
    return [one for one in said.mentions if start <= one.start < end]


def _alone(hit: re.Match[str], text: str, said: NamesFound) -> bool:
    names = {one.name for one in _around(hit, text, said)}
    return len(names) == 1 and TOGETHER.search(clause_around(hit, text)) is None


def _combined(hit: re.Match[str], alone: bool, text: str, said: NamesFound, facts: Facts) -> list[Counted] | None:
    """The arms that have a level of each of several factors named around a figure; None where it is not so."""
    named: dict[int, str] = {}
    mentions = said.mentions if alone else [one for one in _around(hit, text, said) if one.start < hit.end()]
    arm = [one for one in mentions if one.group < 0]
    if len({one.name for one in arm}) == 1:
        return _of(arm[0], facts)
    for one in mentions:
        if one.group < 0 or named.setdefault(one.group, one.name) != one.name:
            return None
    if len(named) < 2:
        return None
    have = {
        " + ".join(levels)
        for levels in product(*([named[i]] if i in named else own for i, own in enumerate(facts.levels)))
    }
    arms = [arm for arm in facts.arms if arm.name in have]
    return arms or None


def _of(mention: Mention, facts: Facts) -> list[Counted]:
    """What was counted under a name; of a level that was compared with none, its arms together."""
    found = counted(facts, mention.name)
    if found or mention.group < 0 or len(facts.levels) < 2:
        return found
    own = [(mention.name,) if i == mention.group else levels for i, levels in enumerate(facts.levels)]
    have = {" + ".join(levels) for levels in product(*own)}
    arms = [arm for arm in facts.arms if arm.name in have]
    return [Counted(mention.name, sum(arm.did for arm in arms), sum(arm.known for arm in arms))] if arms else []


def clause_around(hit: re.Match[str], text: str) -> str:
    """The part of a sentence around a figure, between commas and the like."""
    start = max((text.rfind(sign, 0, hit.start()) for sign in ",;:"), default=-1)
    ends = [end for sign in ",;:" if (end := text.find(sign, hit.end())) >= 0]
    return text[start + 1 : min(ends, default=len(text))]


def shares_of(arms: list[Counted], negated: bool) -> list[float]:
    """Shares of arms that did, or did not."""
    rates = [arm.rate for arm in arms if arm.rate is not None]
    return [1 - rate for rate in rates] if negated else rates


def counts_told(arms: list[Counted]) -> str:
    """The counts of the first, in short."""
    return f"{arms[0].did}/{arms[0].known}" if arms else ""
