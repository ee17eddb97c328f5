"""The typed conclusion read against the data: contradictions are pointed out, never corrected."""

from __future__ import annotations

import re
from enum import StrEnum

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages.say import caution
from orderly_bench.core.telling.headline import Reading
from orderly_bench.core.vocabulary import Strength


class Decision(StrEnum):
    """What is done about it."""

    ADOPT = "adopt"
    DROP = "drop"
    REPEAT = "repeat"
    HOLD = "hold"


CLAIMS = re.compile(
    r"\b(better|best|worse|worst|superior|outperform\w*|beats?|works?|prove[sdn]?|significant\w*|effective|improve[sd]?|increase[sd]?)\b",
    re.I,
)
SAMENESS = re.compile(
    r"\b(the same|equal(ly)?|no difference|no effect|does(n't| not) matter|makes no difference)\b", re.I
)
CAUSES = re.compile(r"\b(because|due to|owing to|caused by|thanks to)\b", re.I)


def contradictions(conclusion: str, decision: str, reading: Reading) -> list[Caution]:
    """Where the words or the decision say more than the evidence.

    Parameters
    ----------
    conclusion : str
        As typed by the researcher.
    decision : str
        One of ``DECISIONS``.
    reading : Reading
        The verdict at the endpoint.
    """
    found = []
    claim = CLAIMS.search(conclusion)
    alike = bool(reading.findings) and reading.findings[0].comparison.verdict.alike
    if claim and (alike or reading.strength is Strength.CANNOT_TELL):
        found.append(caution("says_more", "difference", words=claim.group(0), strength=reading.strength.value))
    same = SAMENESS.search(conclusion)
    if same and reading.strength is Strength.CANNOT_TELL:
        found.append(caution("says_more", "alike", words=same.group(0)))
    if same and not alike and reading.strength in (Strength.SHOWN, Strength.SUGGESTED):
        found.append(caution("says_more", "against", words=same.group(0)))
    if decision in ("adopt", "drop") and reading.strength is Strength.CANNOT_TELL:
        found.append(caution("decision_ahead", decision=decision))
    cause = CAUSES.search(conclusion)
    if cause:
        found.append(caution("cause_not_varied", words=cause.group(0)))
    return found
