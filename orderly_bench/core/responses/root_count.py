"""Root number: counted on every cutting looked at, zeros in."""

from __future__ import annotations

from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.cells import whole
from orderly_bench.core.responses.kind import Kind, Response, Scale
from orderly_bench.core.vocabulary import Score


def from_score(score: Score | None, rooted: bool | None) -> float | None:
    """0 for none and for the dead; seen but not counted is unknown."""
    if rooted is False:
        return 0.0
    if score is None or rooted is None or score.root_number is None:
        return None
    return float(score.root_number)


KIND = Kind(
    Response.ROOT_COUNT,
    Scale.NUMBER,
    "Root number",
    N_("mean per cutting counted"),
    whole,
    from_score,
    asked=N_("the number of roots"),
    effect="ratio",
    hurdled=True,
)
