"""Quality of the roots, 0 to 5 by anchors."""

from __future__ import annotations

from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.cells import grade
from orderly_bench.core.responses.kind import Kind, Response, Scale
from orderly_bench.core.vocabulary import Score


def from_score(score: Score | None, rooted: bool | None) -> float | None:
    """0 for none and for the dead; not judged is unknown."""
    if rooted is False:
        return 0.0
    if score is None or rooted is None or score.quality is None:
        return None
    return float(score.quality)


KIND = Kind(
    Response.QUALITY,
    Scale.GRADES,
    N_("Quality of the roots"),
    N_("mean grade, 0 to 5"),
    grade,
    from_score,
    (0.0, 5.0),
    asked=N_("the quality of the roots, 0 to 5"),
    effect="P(better)",
    hurdled=True,
)
