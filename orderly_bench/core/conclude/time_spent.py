"""Minutes of work as they were written down or read off the marks, shared out over cuttings: of all arms, and of some alone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum
from itertools import pairwise
from statistics import median

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _

MOST_MINUTES = 10_000.0
#: A longer stop between two marks is no work on this; a shorter step is of pieces that were sent together.
PAUSE, TOGETHER = timedelta(minutes=10), timedelta(seconds=1)


class Work(StrEnum):
    """What was done."""

    PREPARING = "preparing"
    STICKING = "sticking"
    CARE = "care"
    CHECK = "a check"
    POTTING = "potting on"
    OTHER = "other work"


@dataclass(frozen=True)
class Spent:
    """Minutes of one sitting; ``arms`` are letters, none for all."""

    work: Work
    minutes: float
    arms: tuple[str, ...] = ()


def check_minutes(minutes: float) -> float:
    """Refuse none, and more than a week.

    Raises
    ------
    InvalidInput
    """
    if not 0 < minutes <= MOST_MINUTES:
        raise InvalidInput(
            _("minutes"), _("must be more than 0 and at most {most:g}", most=MOST_MINUTES), f"{minutes:g}"
        )
    return minutes


def off_the_marks(moments: Sequence[datetime]) -> float | None:
    """Minutes of one person's sitting, from the moments at which pieces were noted; None where they are of one moment.

    Steps between them are added up, a longer stop than ``PAUSE`` and what was sent together left out; the first piece takes the median step.

    >>> off_the_marks([datetime(2026, 5, 12, 9, 0), datetime(2026, 5, 12, 9, 2), datetime(2026, 5, 12, 11, 0), datetime(2026, 5, 12, 11, 2)])
    6.0
    """
    each = sorted(set(moments))
    steps = [
        (after - before).total_seconds() / 60 for before, after in pairwise(each) if TOGETHER <= after - before <= PAUSE
    ]
    return round(sum(steps) + median(steps), 1) or None if steps else None


def for_a_cutting(spent: Sequence[Spent], stuck: Mapping[str, int]) -> dict[str, float]:
    """Minutes for a cutting: under a blank key those of all arms, under its letter what an arm took beyond them.

    Minutes of some arms are shared by cuttings, whichever of those arms they are of.

    Parameters
    ----------
    stuck : mapping of str to int
        Cuttings by arm.

    >>> for_a_cutting([Spent(Work.STICKING, 60), Spent(Work.CARE, 30, ("B",))], {"A": 20, "B": 10})
    {'': 2.0, 'A': 0.0, 'B': 3.0}
    """
    everyone = sum(stuck.values())
    found = {"": sum(one.minutes for one in spent if not one.arms) / everyone if everyone else 0.0}
    for letter in stuck:
        own = 0.0
        for one in spent:
            sharing = sum(stuck.get(arm, 0) for arm in one.arms)
            own += one.minutes / sharing if letter in one.arms and sharing else 0.0
        found[letter] = own
    return found


def by_work(spent: Sequence[Spent]) -> list[tuple[Work, float]]:
    """Minutes of each kind of work, in their order."""
    return [(work, total) for work in Work if (total := sum(one.minutes for one in spent if one.work is work))]
