"""*In both seasons*: a difference that is said of every level of another factor has to be clear in each of them, not over them all."""

from __future__ import annotations

import re
from collections.abc import Iterator
from itertools import product

from orderly_bench.core.conclude.facts import Facts, Settled
from orderly_bench.core.conclude.figure_claims import Found
from orderly_bench.core.conclude.mark import Mark
from orderly_bench.core.conclude.names import NamesFound, one_and_many
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import all_of

#: *In both*, *in each of the*; what is said *over* or *across* all of them is no more than the mean.
EACH = (
    r"\b(?:(?:in|on|with|under|at|for|within) (?:both|either|each|all (?:the )?(?:two|three|four|five|six))(?: of)?(?: the)?"
    r"|(?:irrespective|independent(?:ly)?) of(?: the)?|no matter (?:which|what|the))"
)


def said_of_each(sentence: str, said: NamesFound, facts: Facts) -> Found:
    """What is not clear in each level of the factor that a sentence names so; nothing where it names none, or all are."""
    other, words = _which(sentence, facts, said)
    if other is None:
        return []
    clear = {(pair.higher.name, pair.lower.name) for pair in facts.pairs if pair.clear}
    lacking = [
        level
        for factor, pair in _over_levels(facts, other, said)
        for level in facts.levels[other]
        if not all(two in clear for two in _arms(facts, factor, pair, other, level))
    ]
    if not lacking:
        return []
    return [(Mark.BEYOND, caution("says_more", "in_each", words=words, where=all_of(dict.fromkeys(lacking))))]


def _which(sentence: str, facts: Facts, said: NamesFound) -> tuple[int | None, str]:
    """The factor of *in both seasons*, and the words; of *in both* alone the one that is not spoken of, where there are two."""
    for i, factor in enumerate(facts.factors):
        words = "|".join(map(re.escape, one_and_many(factor)))
        if hit := re.search(rf"{EACH} (?:{words})\b", sentence, re.I):
            return i, hit[0]
    spoken = {one.group for one in said.mentions} | {*said.factors}
    left = [i for i in range(len(facts.levels)) if i not in spoken]
    hit = re.search(rf"{EACH}(?=$|[^\w ]| (?:and|but|than|it|they)\b)", sentence, re.I)
    return (left[0], hit[0]) if hit and len(facts.levels) == 2 and len(left) == 1 else (None, "")


def _over_levels(facts: Facts, other: int, said: NamesFound) -> Iterator[tuple[int, Settled]]:
    """The clear differences of another factor, taken over all, that a sentence may mean."""
    for pair in facts.pairs:
        factor = next((i for i, names in enumerate(facts.levels) if pair.names <= {*names}), other)
        named = pair.names & {*said.names} or factor in said.factors
        if pair.clear and factor != other and named:
            yield factor, pair


def _arms(facts: Facts, factor: int, pair: Settled, other: int, level: str) -> Iterator[tuple[str, str]]:
    """The arms that differ as the pair does at one level of another factor, the higher first."""
    rest = [[level] if i == other else names for i, names in enumerate(facts.levels)]
    for one in product(*(["?"] if i == factor else names for i, names in enumerate(rest))):
        higher, lower = (
            " + ".join(side if i == factor else name for i, name in enumerate(one))
            for side in (pair.higher.name, pair.lower.name)
        )
        yield higher, lower
