"""Rooted or not at the endpoint."""

from __future__ import annotations

from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.cells import yes_or_no
from orderly_bench.core.responses.kind import Kind, Response, Scale
from orderly_bench.core.vocabulary import Score


def from_score(score: Score | None, rooted: bool | None) -> float | None:
    """As judged at the endpoint."""
    return None if rooted is None else float(rooted)


KIND = Kind(
    Response.ROOTED,
    Scale.YES_NO,
    "Rooted",
    "of stuck",
    yes_or_no,
    from_score,
    (0.0, 1.0),
    1.0,
    "rooted",
    asked=N_("how many root"),
)
