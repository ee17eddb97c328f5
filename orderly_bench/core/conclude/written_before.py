"""A sentence held against what the trial's own people wrote before: notes, earlier conclusions, the prediction.

Which is ahead in a sentence is found by asking it of two made-up results, one with either side clearly ahead: a sentence that the one
carries and the other contradicts says which. Nothing is called wrong by it: both are shown with their days, a person reads them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from itertools import combinations

from orderly_bench.core.cautions import Caution
from orderly_bench.core.conclude.comparison_claims import compared
from orderly_bench.core.conclude.english import is_english
from orderly_bench.core.conclude.facts import Counted, Facts, Settled
from orderly_bench.core.conclude.mark import Mark
from orderly_bench.core.conclude.names import find_names
from orderly_bench.core.conclude.sentences import clauses
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.vocabulary import Strength

ALIKE = "="
#: Of the two made-up results: so many of 100.
MANY, FEW, EACH = 90, 10, 100


@dataclass(frozen=True)
class Written:
    """What was written on a day: ``what`` it is (a note, a conclusion, the prediction), its words, and of a prediction the arms' names, best first."""

    day: date
    what: str
    text: str
    ranking: tuple[str, ...] = ()


def claims(sentence: str, facts: Facts) -> dict[frozenset[str], str]:
    """Of each two names that it compares: which it puts ahead, or that they are alike."""
    found: dict[frozenset[str], str] = {}
    named = set(find_names(sentence, facts).names) if is_english(sentence) else set()
    if not named:
        return found
    for names in facts.groups:
        # Of several, a sentence speaks of those it names; of two, naming one is enough.
        of = names if len(names) == 2 else [name for name in names if name in named]
        for a, b in combinations(of, 2):
            ahead = _ahead(sentence, a, b, facts)
            if ahead:
                found[frozenset((a, b))] = ahead
    return found


def contradicted(sentence: str, facts: Facts, written: Sequence[Written]) -> tuple[Caution, ...]:
    """Where something written before says the other of the same two names, the latest of each kind first."""
    said = claims(sentence, facts)
    if not said:
        return ()
    found = []
    for one in sorted(written, key=lambda one: one.day, reverse=True):
        before = _ranked(one.ranking) if one.ranking else _claims_of(one.text, facts)
        if any(pair in before and before[pair] != ahead for pair, ahead in said.items()):
            words = one.text if len(one.text) <= 120 else f"{one.text[:119]}…"
            found.append(caution("written_otherwise", what=_(one.what), day=dated(one.day), text=words))
    return tuple(found)


def _claims_of(text: str, facts: Facts) -> dict[frozenset[str], str]:
    found: dict[frozenset[str], str] = {}
    for sentence in text.replace("!", ".").split("."):
        found |= claims(sentence, facts) if sentence.strip() else {}
    return found


def _ranked(ranking: Sequence[str]) -> dict[frozenset[str], str]:
    return {frozenset((a, b)): a for a, b in combinations(ranking, 2)}


def _ahead(sentence: str, a: str, b: str, facts: Facts) -> str:
    """``a``, ``b``, alike, or blank where it says none of them."""
    of_a, of_b = (_marks(sentence, _made_up(facts, first, second, False)) for first, second in ((a, b), (b, a)))
    if Mark.CARRIED in of_a and Mark.AGAINST in of_b:
        return a
    if Mark.CARRIED in of_b and Mark.AGAINST in of_a:
        return b
    alike = _marks(sentence, _made_up(facts, a, b, True))
    return ALIKE if Mark.CARRIED in alike and Mark.CARRIED not in of_a | of_b else ""


def _marks(sentence: str, facts: Facts) -> set[Mark]:
    return {mark for clause in clauses(sentence) for mark, _ in compared(clause, facts)}


def _made_up(facts: Facts, ahead: str, behind: str, alike: bool) -> Facts:
    """Facts of two names alone, the first ahead, or both alike."""
    high = Counted(ahead, MANY, EACH, 0.8, 0.95)
    low = Counted(behind, MANY if alike else FEW, EACH, 0.8 if alike else 0.05, 0.95 if alike else 0.2)
    return replace(
        facts, arms=(high, low), pairs=(Settled(high, low, not alike, alike),), compared=True, strength=Strength.SHOWN, levels=(),
    )  # fmt: skip
