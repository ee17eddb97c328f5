"""The typed conclusion read against the data: contradictions are pointed out, never corrected."""

from __future__ import annotations

import re
from enum import StrEnum

from orderly_bench.core.cautions import Caution
from orderly_bench.core.compare.reading import Reading
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
        found.append(
            _says_more(f"'{claim.group(0)}' says there is a difference; the strength is '{reading.strength.value}'.")
        )
    same = SAMENESS.search(conclusion)
    if same and reading.strength is Strength.CANNOT_TELL:
        found.append(_says_more(f"'{same.group(0)}' says they are alike; not settled does not mean the same."))
    if same and not alike and reading.strength in (Strength.SHOWN, Strength.SUGGESTED):
        found.append(_says_more(f"'{same.group(0)}' stands against a clear difference."))
    if decision in ("adopt", "drop") and reading.strength is Strength.CANNOT_TELL:
        found.append(
            Caution(
                "decision_ahead",
                f"'{decision}' rests on more than this trial, which cannot tell.",
                "Repeat or hold, or say what else it rests on",
            )
        )
    cause = CAUSES.search(conclusion)
    if cause:
        found.append(
            Caution(
                "cause_not_varied",
                f"'{cause.group(0)}': a cause that was not varied is a hypothesis.",
                "Call it one, or vary it in the next trial",
            )
        )
    return found


def _says_more(text: str) -> Caution:
    return Caution("says_more", text, "Word it as the verdict does")
