"""Fit to pot on, as the scorer judged."""

from __future__ import annotations

from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.cells import yes_or_no
from orderly_bench.core.responses.kind import Kind, Response, Scale
from orderly_bench.core.vocabulary import Fit, Score


def from_score(score: Score | None, rooted: bool | None) -> float | None:
    """Dead and rootless are not fit; not judged is unknown."""
    if rooted is False:
        return 0.0
    if score is None or score.fit == Fit.NOT_JUDGED or rooted is None:
        return None
    return float(score.fit == Fit.YES)


KIND = Kind(
    Response.FIT,
    Scale.YES_NO,
    N_("Fit to pot on"),
    "of stuck",
    yes_or_no,
    from_score,
    (0.0, 1.0),
    asked=N_("how many are fit to pot on"),
)
