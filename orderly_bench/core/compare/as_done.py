"""As planned and as done: cuttings keep the arm they were drawn into; those that got another treatment are shown beside it.

The comparison as planned keeps the draw and is the one that decides (Hollis & Campbell 1999, BMJ 319:670). Counted by what was
done, arms are no longer those of the draw: rates only, no p.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext as _


@dataclass(frozen=True)
class Treated:
    """One cutting: the arm it was drawn into, the arm whose treatment it got, and whether it rooted (None: not known)."""

    planned: str
    done: str
    rooted: bool | None


@dataclass(frozen=True)
class PlannedAndDone:
    """Rooted and known cuttings of an arm, by plan and by what was done."""

    arm: str
    planned_rooted: int
    planned_known: int
    done_rooted: int
    done_known: int


def planned_and_done(cuttings: Sequence[Treated]) -> list[PlannedAndDone]:
    """Counts of every arm in both ways; empty when all got what was planned."""
    if all(c.planned == c.done for c in cuttings):
        return []
    known = [c for c in cuttings if c.rooted is not None]
    arms = list(dict.fromkeys(c.planned for c in cuttings)) + [
        a for a in dict.fromkeys(c.done for c in cuttings) if a not in {c.planned for c in cuttings}
    ]
    return [
        PlannedAndDone(
            arm,
            sum(1 for c in known if c.planned == arm and c.rooted),
            sum(1 for c in known if c.planned == arm),
            sum(1 for c in known if c.done == arm and c.rooted),
            sum(1 for c in known if c.done == arm),
        )
        for arm in arms
    ]


def share_of_days(planned: str, changes: Sequence[tuple[float, str]], days: float) -> dict[str, float]:
    """Share of a unit's days that it spent in each arm's treatment, in the order they came.

    Parameters
    ----------
    changes : sequence of (day, arm)
        Days after sticking from which it got another arm's treatment.
    days : float
        Days from sticking to the endpoint.

    >>> share_of_days("A", [(14.0, "B")], 56.0)
    {'A': 0.25, 'B': 0.75}
    """
    steps = [(0.0, planned), *sorted((min(max(day, 0.0), days), arm) for day, arm in changes), (days, "")]
    shares: dict[str, float] = {}
    for (since, arm), (until, _arm) in pairwise(steps):
        if until > since and days > 0:
            shares[arm] = shares.get(arm, 0.0) + (until - since) / days
    return shares


def doubt_about_treatments(cuttings: Sequence[Treated]) -> list[Caution]:
    """A caution that says how many of which arm got another treatment; none when all got what was planned."""
    moved = [c for c in cuttings if c.planned != c.done]
    if not moved:
        return []
    pairs = list(dict.fromkeys((c.planned, c.done) for c in moved))
    parts = "; ".join(
        _(
            "{k} of {pair} got {given}",
            k=sum(1 for c in moved if (c.planned, c.done) == pair),
            pair=pair[0],
            given=pair[1],
        )
        for pair in pairs
    )
    return [caution("not_as_planned", n=len(moved), parts=parts)]
