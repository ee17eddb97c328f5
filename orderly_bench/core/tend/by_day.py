"""A log day by day, and what the units of each arm lived through: only days on which both were read are compared.

Sums of a day follow `core/tend/conditions.py`; what lies in no reading is not known and in no sum.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from itertools import combinations
from statistics import fmean

import numpy as np

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.conditions import InOrder, Reading, in_order, lacking, light_in, parted

#: Arms that lived further apart than this are told: share of the light, °C of the air, kPa of its dryness.
LIGHT_APART, AIR_APART, DRY_APART = 0.10, 1.0, 0.15
#: A day counts as known when so many of its hours are.
LEAST_HOURS = 12.0


@dataclass(frozen=True)
class Day:
    """One day of a log. Hours known of air and of light; ``air`` is the mean in °C, ``light`` mol/m2, ``dry`` kPa; None where unknown."""

    day: date
    air_hours: float
    air: float | None
    low: float | None
    high: float | None
    hours_below: float
    hours_above: float
    light_hours: float
    light: float | None
    dry: float | None

    def merged(self, earlier: Day) -> Day:
        """The same day of two logs: air and light each as the one has them that knows more hours of them, else as this one."""
        air = self if self.air_hours >= earlier.air_hours else earlier
        lit = self if self.light_hours >= earlier.light_hours else earlier
        dry = next((one.dry for one in (air, self, earlier) if one.dry is not None), None)
        return replace(air, light_hours=lit.light_hours, light=lit.light, dry=dry)


@dataclass(frozen=True)
class Log:
    """What was read where some units stood."""

    units: frozenset[int]
    days: tuple[Day, ...]


def by_day(readings: Sequence[Reading] | InOrder, low: float, high: float) -> tuple[Day, ...]:
    """A log day by day; a reading that holds over midnight counts on both days, light of a part of a day is no light of the day.

    Parameters
    ----------
    readings : sequence of Reading, or InOrder
        In any order; days are those of their own clock. Of fewer than two times there is no day.
    low, high : float
        The band of the air, °C.
    """
    log = in_order(readings)
    if log.times < 2:
        return ()
    parts = parted(log)
    days, at = np.unique(parts.day, return_inverse=True)
    air, rh, ppfd = (values[parts.reading] for values in (log.air, log.rh, log.ppfd))

    def summed(weights: np.ndarray) -> np.ndarray:
        return np.bincount(at, np.nan_to_num(weights), minlength=days.size)

    known, moist, lit = ~np.isnan(air), ~np.isnan(air + rh), ~np.isnan(ppfd)
    least, most = np.full(days.size, np.inf), np.full(days.size, -np.inf)
    np.minimum.at(least, at[known], air[known])
    np.maximum.at(most, at[known], air[known])
    air_hours, light_hours, dry_hours = (summed(parts.hours * of) for of in (known, lit, moist))
    degrees, light = summed(parts.hours * air), summed(light_in(ppfd, parts.hours))  # type: ignore[arg-type]
    dry = summed(parts.hours * lacking(air, rh))
    below, above = summed(parts.hours * (air < low)), summed(parts.hours * (air > high))
    return tuple(
        Day(
            date.fromordinal(int(day)), float(air_hours[i]), float(degrees[i] / air_hours[i]) if air_hours[i] > 0 else None,
            float(least[i]) if air_hours[i] > 0 else None, float(most[i]) if air_hours[i] > 0 else None, float(below[i]), float(above[i]),
            float(light_hours[i]), float(light[i]) if light_hours[i] >= LEAST_HOURS else None,
            float(dry[i] / dry_hours[i]) if dry_hours[i] else None,
        )
        for i, day in enumerate(days)
    )  # fmt: skip


@dataclass(frozen=True)
class Lived:
    """What the units of one arm lived through, as means over them.

    Attributes
    ----------
    units : int
    days : int
        From sticking to the end, over all of its units.
    air_days, light_days, dry_days : int
        Of these, with a reading.
    air, light, dry : float or None
        °C, mol/m2 a day, kPa; None without a reading.
    hours_below, hours_above : float
        Outside the band, in one unit on average.
    """

    units: int
    days: int
    air_days: int
    light_days: int
    dry_days: int
    air: float | None
    light: float | None
    dry: float | None
    hours_below: float
    hours_above: float

    @property
    def known(self) -> bool:
        """Whether anything was read on any day."""
        return bool(self.air_days or self.light_days)

    @property
    def hours_outside(self) -> float | None:
        """Hours of air outside the band, in one unit on average; None where no air was read."""
        return self.hours_below + self.hours_above if self.air_days else None

    @property
    def days_read(self) -> str:
        """Days with a reading of the days there were, in one unit on average."""
        return _("{read:.0f} of {days:.0f}", read=self.air_days / self.units, days=self.days / self.units)


@dataclass(frozen=True)
class Unit:
    """A unit: its arm's letter, its id, and the days from sticking to the end, both included."""

    arm: str
    id: int
    first: date
    last: date

    @property
    def days(self) -> int:
        """How many."""
        return max(0, (self.last - self.first).days + 1)


def days_of(units: Iterable[Unit], logs: Sequence[Log]) -> dict[int, dict[date, Day]]:
    """What was read where each unit stood, by its id and day; a logger of air and one of light go together."""
    found: dict[int, dict[date, Day]] = {}
    for unit in units:
        here: dict[date, Day] = {}
        for log in logs:
            for one in log.days if unit.id in log.units else ():
                if unit.first <= one.day <= unit.last:
                    here[one.day] = one.merged(here[one.day]) if one.day in here else one
        found[unit.id] = here
    return found


def lived(units: Sequence[Unit], logs: Sequence[Log]) -> dict[str, Lived]:
    """By arm, what its units lived through."""
    read = days_of(units, logs)
    found = {}
    for arm in dict.fromkeys(unit.arm for unit in units):
        own = [unit for unit in units if unit.arm == arm]
        days = [day for unit in own for day in read[unit.id].values()]
        air = [day for day in days if day.air is not None and day.air_hours >= LEAST_HOURS]
        light, dry = [d.light for d in days if d.light is not None], [d.dry for d in air if d.dry is not None]
        found[arm] = Lived(
            len(own), sum(unit.days for unit in own), len(air), len(light), len(dry), _mean([d.air for d in air if d.air is not None]), _mean(light),
            _mean(dry), sum(d.hours_below for d in days) / len(own), sum(d.hours_above for d in days) / len(own),
        )  # fmt: skip
    return found


def _mean(values: Sequence[float]) -> float | None:
    return fmean(values) if values else None


@dataclass(frozen=True)
class Apart:
    """Two arms that lived apart in one thing, on the days on which both were read: ``less`` had less of it."""

    of: str
    less: str
    more: str
    low: float
    high: float
    days: int

    @property
    def words(self) -> str:
        """With its figures."""
        told = {"less": self.less, "more": self.more, "low": self.low, "high": self.high, "days": self.days}
        if self.of == "light":
            return _(
                "{less} got {percent:.0f} % less light than {more}: {low:.1f} against {high:.1f} mol/m² a day on {days:day|days}",
                percent=100 * (1 - self.low / self.high), **told,
            )  # fmt: skip
        if self.of == "air":
            return _("{less} stood colder than {more}: {low:.1f} against {high:.1f} °C on {days:day|days}", **told)
        return _(
            "{less} stood moister than {more}: the air lacked {low:.2f} against {high:.2f} kPa on {days:day|days}",
            **told,
        )


def apart(units: Sequence[Unit], logs: Sequence[Log]) -> list[Apart]:
    """In light, air and dryness, the two arms that lived furthest apart, where that is far enough to tell."""
    read = days_of(units, logs)
    arms = list(dict.fromkeys(unit.arm for unit in units))
    found = []
    for of in ("light", "air", "dry"):
        by_arm = {arm: by_date(of, [read[unit.id] for unit in units if unit.arm == arm]) for arm in arms}
        pairs = [
            one for a, b in combinations(arms, 2) if (one := _pair(of, (a, by_arm[a]), (b, by_arm[b]))) is not None
        ]
        far = [one for one in pairs if _far(one)]
        found += [max(far, key=lambda one: one.high - one.low)] if far else []
    return found


def by_date(of: str, units: Sequence[Mapping[date, Day]]) -> dict[date, float]:
    """The mean over an arm's units, of the days on which any of them was read."""
    values: dict[date, list[float]] = {}
    for days in units:
        for day, one in days.items():
            value = getattr(one, of)
            if value is not None and (of == "light" or one.air_hours >= LEAST_HOURS):
                values.setdefault(day, []).append(value)
    return {day: fmean(found) for day, found in values.items()}


def _pair(of: str, a: tuple[str, Mapping[date, float]], b: tuple[str, Mapping[date, float]]) -> Apart | None:
    both = sorted(a[1].keys() & b[1].keys())
    if not both:
        return None
    first, second = (a[0], fmean(a[1][day] for day in both)), (b[0], fmean(b[1][day] for day in both))
    less, more = sorted((first, second), key=lambda one: one[1])
    return Apart(of, less[0], more[0], less[1], more[1], len(both))


def _far(one: Apart) -> bool:
    if one.of == "light":
        return one.high > 0 and 1 - one.low / one.high >= LIGHT_APART
    return one.high - one.low >= (AIR_APART if one.of == "air" else DRY_APART)
