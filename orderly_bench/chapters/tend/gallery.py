"""Photos as they are looked at: by day after sticking, and arms side by side at equal days."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from orderly_bench.core.tend.schedule import das_in_words, days_after_sticking
from orderly_bench.trial.models import PhotoKept, Trial


@dataclass(frozen=True)
class Day:
    """Photos of one day; ``words`` is the day after sticking, blank before it."""

    day: date
    words: str
    photos: list[PhotoKept]


@dataclass(frozen=True)
class SideBySide:
    """One day after sticking: what is shown, and by arm's letter its photos."""

    das: int
    shows: str
    of_arm: dict[str, list[PhotoKept]]


def by_day(trial: Trial, photos: Sequence[PhotoKept]) -> list[Day]:
    """The newest day first."""
    found: dict[date, list[PhotoKept]] = {}
    for photo in photos:
        found.setdefault(photo.day, []).append(photo)
    zero = trial.day_zero
    return [Day(day, das_in_words(day, zero) if zero else "", own) for day, own in sorted(found.items(), reverse=True)]


def by_arm(trial: Trial, photos: Sequence[PhotoKept]) -> list[SideBySide]:
    """Days on which units of two arms or more were photographed alike, the newest first."""
    letters = {arm.id: arm.letter for arm in trial.arms}
    found: dict[tuple[int, str], dict[str, list[PhotoKept]]] = {}
    for photo in photos:
        if photo.unit is not None and trial.day_zero is not None:
            at = days_after_sticking(photo.day, trial.day_zero), photo.shows
            found.setdefault(at, {}).setdefault(letters[photo.unit.arm_id], []).append(photo)
    order = [arm.letter for arm in trial.arms]
    return [
        SideBySide(das, shows, {letter: own[letter] for letter in order if letter in own})
        for (das, shows), own in sorted(found.items(), reverse=True)
        if len(own) > 1
    ]
