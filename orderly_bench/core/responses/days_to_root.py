"""Days to root, from the last check without roots to the first with them; death competes."""

from __future__ import annotations

from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.cells import number
from orderly_bench.core.responses.kind import Kind, Response, Scale
from orderly_bench.core.vocabulary import Score

LARGEST_DAY = 10_000


def day(cell: str, name: str, line: int) -> float | None:
    """A day after sticking."""
    return number(cell, name, line, LARGEST_DAY)


def from_score(score: Score | None, rooted: bool | None) -> float | None:
    """One score has no time: the checks together have."""
    return None


KIND = Kind(
    Response.DAYS,
    Scale.DAYS,
    N_("Days to root"),
    N_("mean rooted-days to the last check"),
    day,
    from_score,
    asked=N_("the days to root"),
    effect="days",
    hurdled=True,
)
