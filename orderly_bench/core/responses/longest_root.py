"""Longest root in millimetres, 0 for none."""

from __future__ import annotations

from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.cells import millimetres
from orderly_bench.core.responses.kind import Kind, Response, Scale
from orderly_bench.core.vocabulary import Score


def from_score(score: Score | None, rooted: bool | None) -> float | None:
    """0 for none and for the dead; not measured is unknown."""
    if rooted is False:
        return 0.0
    return None if score is None or rooted is None else score.longest_root_mm


KIND = Kind(
    Response.LONGEST,
    Scale.LENGTH,
    "Longest root",
    N_("mean mm per cutting measured"),
    millimetres,
    from_score,
    asked=N_("the longest root"),
    effect="shift mm",
    hurdled=True,
)
