"""Several looks at each cutting, one after another: what the last of them counts, and between which days it rooted."""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise


@dataclass(frozen=True)
class Look:
    """One look at a cutting.

    Parameters
    ----------
    day : float
        After sticking, or any other number that grows from look to look.
    rooted : bool or None
        None where nothing was seen of it.
    dead : bool
    """

    day: float
    rooted: bool | None
    dead: bool = False


@dataclass(frozen=True)
class Days:
    """Between which days a cutting rooted or died, the first of the two; ``outcome`` is rooted, dead or censored."""

    last_without: float | None
    first_with: float | None
    outcome: str


def days_to_root(looks: Iterable[Look]) -> Days:
    """From the looks at one cutting, in order of their days; what comes after the first with roots, or dead, does not count.

    >>> days_to_root([Look(14, False), Look(21, None), Look(28, True), Look(35, False)])
    Days(last_without=14, first_with=28, outcome='rooted')
    """
    last: float | None = None
    for look in looks:
        if look.dead:
            return Days(last, look.day, "dead")
        if look.rooted:
            return Days(last, look.day, "rooted")
        if look.rooted is False:
            last = look.day
    return Days(last, None, "censored")


@dataclass(frozen=True)
class Followed:
    """What several looks at one cutting come to.

    Parameters
    ----------
    counts : int
        Place of the look that counts: the last at which something was seen.
    days : Days
    unseen : bool
        Alive and without roots when last seen, and not seen at the last check: unknown there.
    vanished, risen : bool
        It had roots, then none; it was dead, then not: one of the two is a slip.
    """

    counts: int
    days: Days
    unseen: bool
    vanished: bool
    risen: bool


def followed(looks: Sequence[Look], last_check_began: float) -> Followed:
    """What the looks at one cutting, in order of their days, come to at the last check of all."""
    seen = [i for i, look in enumerate(looks) if look.dead or look.rooted is not None]
    counts, days = max(seen, default=len(looks) - 1), days_to_root(looks)
    after = list(pairwise(looks[i] for i in seen))
    return Followed(
        counts,
        days,
        looks[counts].day < last_check_began and days.outcome == "censored",
        any(earlier.rooted and later.rooted is False and not later.dead for earlier, later in after),
        any(earlier.dead and not later.dead for earlier, later in after),
    )


def checks(seen: Iterable[tuple[float, Hashable]]) -> list[list[float]]:
    """The days of each check: back from the last day, as far as no cutting was looked at twice, and so on from there.

    A check of many cuttings takes several days, and one that takes them out looks at each once.

    Parameters
    ----------
    seen : iterable of (day, cutting)

    >>> checks([(14, 1), (14, 2), (21, 1), (22, 2)])
    [[14], [21, 22]]
    """
    of_day: dict[float, set[Hashable]] = {}
    for day, cutting in seen:
        of_day.setdefault(day, set()).add(cutting)
    found: list[list[float]] = []
    met = set[Hashable]()
    for day in sorted(of_day, reverse=True):
        if not found or met & of_day[day]:
            found.insert(0, [])
            met = set()
        found[0].insert(0, day)
        met |= of_day[day]
    return found
