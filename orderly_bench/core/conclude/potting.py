"""Potting on: how, and whether now or after the winter, by room, dates and frost.

How: Hartmann and Kester's Plant Propagation, 8th ed. (2011), chapters 3 and 10, on transplanting and hardening rooted cuttings.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.year import YearHere, next_after

CARD = (
    N_("Depth: as deep as it stood, never the crown under."), N_("Roots down: the lowest spread and pointing down, none bent up; a hole wide enough first."),
    N_("Firm with two fingers, water in from above once, its code in every pot."), N_("Weaning: cover or mist for the first days, then open a little more each day; shade before sun."),
    N_("Tops: first flowers and fruit off, a long tip pinched once it grows."),
)  # fmt: skip


@dataclass(frozen=True)
class Standing:
    """Plants that wait to be potted on: how many, the room they take now and in pots, m2, and weeks they need in the pot."""

    plants: int
    m2_now: float
    m2_after: float
    weeks_in_pot: int


def now_or_later(standing: Standing, today: date, year: YearHere) -> list[str]:
    """Potted now against potted after the last frost, each with its days and room; what the lab has not said is asked for.

    >>> now_or_later(Standing(10, 0.2, 0.5, 6), date(2026, 9, 1), YearHere("05-15", "10-10"))[0]
    'Potted now: ready about 13 Oct 2026, 3 days after the first frost (10 Oct 2026): under cover, or wait. 0.5 m2 of bench from now on.'
    """
    if not (year.last_frost and year.first_frost):
        return [_("Type the first and last frost of your place on Lab; without them now or after winter is not told.")]
    ready = today + timedelta(weeks=standing.weeks_in_pot)
    first, last = next_after(year.first_frost, today), next_after(year.last_frost, today)
    if last < first:
        return [
            _(
                "The last frost is to come on {last}: no winter lies between, so pot now and keep them in until then.",
                last=dated(last),
            )
        ]
    apart = (ready - first).days
    where = (
        _("{n:day|days} before the first frost ({first})", n=-apart, first=dated(first))
        if apart < 0
        else _("{n:day|days} after the first frost ({first}): under cover, or wait", n=apart, first=dated(first))
    )
    weeks = (last - today).days // 7
    return [
        _("Potted now: ready about {ready}, {where}. {m2:.2g} m2 of bench from now on.", ready=dated(ready), where=where, m2=standing.m2_after),
        _(
            "Potted after the last frost ({last}): {weeks:week|weeks} more in their cells at {m2:.2g} m2, ready about {ready}.",
            last=dated(last), weeks=weeks, m2=standing.m2_now, ready=dated(last + timedelta(weeks=standing.weeks_in_pot)),
        ),
    ]  # fmt: skip
