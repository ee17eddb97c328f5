"""The typed conclusion, sentence by sentence, each with its mark; what was not read is never called sound."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

from orderly_bench.core.cautions import Caution
from orderly_bench.core.conclude.decision import decision_doubt
from orderly_bench.core.conclude.facts import Facts
from orderly_bench.core.conclude.sentences import Marked, mark
from orderly_bench.core.conclude.written_before import Written, contradicted
from orderly_bench.core.vocabulary import Strength

END = re.compile(r"(?<=[.!?])\s+(?=\S)|\n+")
#: A stop behind these ends no sentence.
SHORT = re.compile(r"\b(?:Mr|Mrs|Dr|e\.g|i\.e|cv|var|ssp|subsp|approx|(?P<initial>[A-Z]))\.$")


@dataclass(frozen=True)
class Judged:
    """A conclusion as it may be printed: its sentences marked, and what stands against the decision."""

    sentences: tuple[Marked, ...]
    decision: tuple[Caution, ...]


def sentences_of(text: str, letters: Collection[str] = ()) -> list[str]:
    """The sentences of a text, in order; an arm's letter may end one, where the next begins with a capital.

    >>> sentences_of("Bark is enough. No more pumice, then! Mr. B. agrees.")
    ['Bark is enough.', 'No more pumice, then!', 'Mr. B. agrees.']
    >>> sentences_of("A rooted more than B. Both stay.", "AB")
    ['A rooted more than B.', 'Both stay.']
    """
    joined: list[str] = []
    for part in (piece.strip() for piece in END.split(text)):
        short = SHORT.search(joined[-1]) if joined else None
        if part and short and not (short["initial"] in letters and part[0].isupper()):
            joined[-1] += f" {part}"
        elif part:
            joined.append(part)
    return joined


def judge(text: str, decision: str, facts: Facts | None, written: Sequence[Written] = ()) -> Judged:
    """A conclusion held against the evidence; without an analysis every sentence is *not checked*.

    Parameters
    ----------
    written : sequence of Written
        What was written of the trial before: notes, earlier conclusions, the prediction.
    """
    ahead = decision_doubt(decision, facts is not None and facts.strength is not Strength.CANNOT_TELL)
    marked = (mark(sentence, facts) for sentence in sentences_of(text, dict(facts.letters) if facts else ()))
    if facts is not None and written:
        marked = (replace(one, before=contradicted(one.sentence, facts, written)) for one in marked)
    return Judged(tuple(marked), (ahead,) if ahead else ())
