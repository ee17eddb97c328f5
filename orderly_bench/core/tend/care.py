"""Care over the weeks: what was done, what was missed, and the longest stretch without."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from enum import StrEnum
from itertools import pairwise

from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _

#: A stretch without care is a gap from so many usual intervals on.
GAP_FROM = 2


class CareState(StrEnum):
    """What became of one care job."""

    DONE = "done"
    SKIPPED = "skipped"
    MISSED = "missed"
    TO_COME = "to come"


@dataclass(frozen=True)
class CareDay:
    """One care job: the day it was due, the last day of its window, the day it was done on; ``skipped`` says why it was not to be."""

    title: str
    due: date
    until: date
    done: date | None = None
    skipped: str = ""

    def state(self, today: date) -> CareState:
        """Where it stands."""
        if self.done is not None:
            return CareState.DONE
        if self.skipped:
            return CareState.SKIPPED
        return CareState.MISSED if today > self.until else CareState.TO_COME


@dataclass(frozen=True)
class Care:
    """One kind of care so far.

    Attributes
    ----------
    due, done, skipped : int
        Jobs whose window is over or that were done; of these done; left out for a reason.
    gap_days : int
        The longest stretch without, in days: from sticking, between two, or up to today where what came after the last was left out or missed.
    gap_from : date
        Its beginning.
    usual_days : int
        Days from one job to the next as planned; 0 with fewer than two.
    next : date or None
        The next that is to come.
    """

    title: str
    due: int
    done: int
    skipped: int
    gap_days: int
    gap_from: date
    usual_days: int
    next: date | None

    @property
    def gap(self) -> bool:
        """Whether there was a stretch without that is a gap."""
        return self.usual_days > 0 and self.gap_days >= GAP_FROM * self.usual_days and self.done < self.due

    @property
    def words(self) -> str:
        """``Mist: 12 of 14 done, longest gap 9 days from 3 May``."""
        words = _("{title}: {done} of {due} done", title=self.title, done=self.done, due=self.due)
        if self.skipped:
            words += _(", {n} left out for a reason", n=self.skipped)
        if self.gap:
            words += _(
                ", longest gap {days:day|days} from {first}", days=self.gap_days, first=dated(self.gap_from, "%-d %b")
            )
        return words


def summed(days: Iterable[CareDay], stuck: date, today: date) -> list[Care]:
    """Each kind of care up to today, in order of its first day.

    Parameters
    ----------
    stuck : date
        Day 0, from which the first stretch counts.
    """
    by_title: dict[str, list[CareDay]] = {}
    for one in sorted(days, key=lambda one: one.due):
        by_title.setdefault(one.title, []).append(one)
    return [_summed(title, found, stuck, today) for title, found in by_title.items()]


def _summed(title: str, days: Sequence[CareDay], stuck: date, today: date) -> Care:
    states = [(one, one.state(today)) for one in days]
    over = [one for one, state in states if state is not CareState.TO_COME]
    done = sorted(one.done for one in days if one.done is not None)
    last = done[-1] if done else stuck
    lacking = (CareState.MISSED, CareState.SKIPPED)  # a reason is no water
    ends = [today] if any(state in lacking and one.due > last for one, state in states) else []
    gaps = [((b - a).days, a) for a, b in pairwise(sorted({stuck, *done, *ends}))]
    longest = max(gaps, default=(0, stuck))
    between = sorted((b.due - a.due).days for a, b in pairwise(days))
    return Care(
        title, len(over), len(done), sum(state is CareState.SKIPPED for _, state in states), longest[0], longest[1],
        between[len(between) // 2] if between else 0,
        next((one.due for one, state in states if state is CareState.TO_COME), None),
    )  # fmt: skip
