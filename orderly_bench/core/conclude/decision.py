"""What is done about a trial, and where that runs ahead of it."""

from __future__ import annotations

from enum import StrEnum

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages.say import caution


class Decision(StrEnum):
    """What is done about it."""

    ADOPT = "adopt"
    DROP = "drop"
    REPEAT = "repeat"
    HOLD = "hold"


def decision_doubt(decision: str, settled: bool) -> Caution | None:
    """A decision that runs ahead of a trial that cannot tell, or that compared nothing."""
    if decision not in (Decision.ADOPT, Decision.DROP) or settled:
        return None
    return caution("decision_ahead", decision=decision)
