"""Whose care it is today: one's own, that of whom one covers, and what nobody took on."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import date

from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _


@dataclass(frozen=True)
class Absence:
    """Days on which a person is away, and who covers (None: nobody); persons by id."""

    person: int
    first: date
    last: date
    cover: int | None


@dataclass(frozen=True)
class Whose:
    """Whether a trial's care falls to somebody today, and why it does; blank where it is simply theirs, or nobody's."""

    mine: bool
    why: str = ""


def whose_today(me: int, tenders: Mapping[int, str], absences: Collection[Absence], today: date) -> Whose:
    """Whether the care of a trial falls to ``me``.

    Parameters
    ----------
    tenders : mapping
        Who took the trial on: names by the person's id; none: it is everybody's.

    >>> whose_today(2, {1: "Ada"}, [Absence(1, date(2026, 5, 1), date(2026, 5, 9), 2)], date(2026, 5, 3))
    Whose(mine=True, why='you cover Ada')
    """
    if not tenders or me in tenders:
        return Whose(True)
    away = {one.person: one.cover for one in absences if one.first <= today <= one.last}
    covered = [name for person, name in tenders.items() if person in away and away[person] == me]
    if covered:
        return Whose(True, _("you cover {names}", names=all_of(covered)))
    gone = [name for person, name in tenders.items() if person in away]
    uncovered = [name for person, name in tenders.items() if person in away and away[person] is None]
    if len(gone) == len(tenders) and uncovered:
        return Whose(True, _("{names} {n:~is|are} away, and nobody covers", names=all_of(uncovered), n=len(uncovered)))
    return Whose(False, _("tended by {names}", names=all_of(tenders.values())))
