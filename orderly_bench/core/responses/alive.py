"""Alive at the check, whatever the roots."""

from __future__ import annotations

from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.cells import yes_or_no
from orderly_bench.core.responses.kind import DEAD, Kind, Response, Scale
from orderly_bench.core.vocabulary import Score, State


def from_score(score: Score | None, rooted: bool | None) -> float | None:
    """Missing, and taken out for another reason than death, are unknown."""
    if score is None:
        return None
    if score.state in DEAD:
        return 0.0
    return 1.0 if score.state in (State.ALIVE, State.LOOKS_DEAD) else None


KIND = Kind(
    Response.ALIVE,
    Scale.YES_NO,
    "Alive",
    "of stuck",
    yes_or_no,
    from_score,
    (0.0, 1.0),
    1.0,
    asked=N_("how many are alive"),
)
