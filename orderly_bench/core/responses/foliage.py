"""State of the leaves, 0 (none left) to 5 (as when stuck)."""

from __future__ import annotations

from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.cells import grade
from orderly_bench.core.responses.kind import DEAD, Kind, Response, Scale
from orderly_bench.core.vocabulary import Score


def from_score(score: Score | None, rooted: bool | None) -> float | None:
    """0 for the dead; not judged is unknown. Roots play no part."""
    if score is not None and score.state in DEAD:
        return 0.0
    return None if score is None or score.foliage is None else float(score.foliage)


KIND = Kind(
    Response.FOLIAGE,
    Scale.GRADES,
    "Foliage",
    N_("mean grade, 0 to 5"),
    grade,
    from_score,
    (0.0, 5.0),
    asked=N_("the foliage, 0 to 5"),
    effect="P(better)",
)
