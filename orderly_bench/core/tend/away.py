"""Someone is away: what falls into those days, and how long what nobody covers would go undone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _

LONGEST_DAYS = 180


@dataclass(frozen=True)
class Care:
    """One kind of care of a trial: its days (planned, in order), and the last day it was done; None: never yet."""

    trial: str
    title: str
    due: tuple[date, ...]
    last_done: date | None


@dataclass(frozen=True)
class Uncovered:
    """Care that would go undone: from the last time before to the first after; ``missed`` times in between."""

    trial: str
    title: str
    missed: int
    days: int | None

    @property
    def words(self) -> str:
        """In one line."""
        if self.days is None:
            return _(
                "{trial}, {title}: {n:time|times} not done, and none planned after",
                trial=self.trial,
                title=self.title,
                n=self.missed,
            )
        return _(
            "{trial}, {title}: {n:time|times} not done, {days:day|days} without",
            trial=self.trial,
            title=self.title,
            n=self.missed,
            days=self.days,
        )


def check_away(first: date, last: date) -> None:
    """Days someone may be away.

    Raises
    ------
    InvalidInput
        They end before they begin, or are many.
    """
    if last < first:
        raise InvalidInput(_("last day away"), _("lies before the first"), dated(last))
    if (last - first).days >= LONGEST_DAYS:
        raise InvalidInput(_("last day away"), _("keep it within {n} days", n=str(LONGEST_DAYS)), dated(last))


def uncovered(care: Sequence[Care], first: date, last: date) -> list[Uncovered]:
    """What would go undone if nobody covers, the longest gap first; care that never was done counts from its last planned day before."""
    found = []
    for one in care:
        missed = [day for day in one.due if first <= day <= last]
        if not missed:
            continue
        before = [day for day in one.due if day < first]
        since = one.last_done or (before[-1] if before else None)
        after = next((day for day in one.due if day > last), None)
        days = (after - (since or missed[0])).days if after else None
        found.append(Uncovered(one.trial, one.title, len(missed), days))
    return sorted(found, key=lambda one: (-(one.days or LONGEST_DAYS), one.trial, one.title))
