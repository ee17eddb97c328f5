"""Photos as they are looked at: by day after sticking, arms side by side at equal days, one unit from all days at one scale."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.score.ruler import at_scale, pixels_per_mm
from orderly_bench.core.tend.schedule import das_in_words, days_after_sticking
from orderly_bench.trial.models import PhotoKept, PhotoLength, Trial
from orderly_bench.trial.photos import photos_of

#: Photos of one arm, day and kind that stand beside the verdict.
MOST_OF_AN_ARM = 3


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


@dataclass(frozen=True)
class Scaled:
    """Photos of one kind of a unit, the oldest first, each with the width to be shown at, in pixels; ``known`` where it has a scale."""

    shows: str
    photos: list[tuple[PhotoKept, int, bool]]


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


def side_by_side(session: Session, trial: Trial) -> list[SideBySide]:
    """Arms side by side, tops above roots, a few of each: for who may see what each arm did."""
    return [
        SideBySide(one.das, one.shows, {letter: own[-MOST_OF_AN_ARM:] for letter, own in one.of_arm.items()})
        for one in by_arm(trial, photos_of(session, trial))
    ]


def at_one_scale(session: Session, photos: Sequence[PhotoKept]) -> list[Scaled]:
    """One unit's photos from all days, tops and roots apart; those on which a length was clicked stand at one scale."""
    query = select(PhotoLength).where(PhotoLength.photo_id.in_([one.id for one in photos]), PhotoLength.withdrawn == "")
    scale = {one.photo_id: pixels_per_mm(one.scale, one.scale_mm) for one in session.scalars(query)} if photos else {}
    widths = at_scale({one.id: (one.width, scale.get(one.id)) for one in photos})
    kinds: dict[str, list[PhotoKept]] = {}
    for photo in sorted(photos, key=lambda one: (one.day, one.id)):
        kinds.setdefault(photo.shows, []).append(photo)
    return [
        Scaled(shows, [(one, widths[one.id], one.id in scale) for one in own])
        for shows, own in sorted(kinds.items(), reverse=True)
        if len({one.day for one in own}) > 1
    ]
