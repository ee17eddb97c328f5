"""Air, moisture and light over the weeks of a trial, from a logger's readings.

Vapour pressure after Tetens (1930, Z Geophys 6:297). Each reading holds until the next, at most twice the usual interval; what lies
in no reading is not known and is in no sum.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

import numpy as np

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _

#: No air of a greenhouse lies outside, °C; further than ``JUMP`` from both neighbours no reading of one does.
LEAST_AIR, MOST_AIR, JUMP = -30.0, 60.0, 15.0
#: A reading holds for so many usual intervals at most; more than ``GAP`` of them without one is a gap.
HOLDS, GAP = 2, 3
#: Half of all readings above it, °C, were taken in another scale.
TOO_WARM = 45.0


@dataclass(frozen=True)
class Reading:
    """One row: when (all with an offset, or none), air in °C, relative humidity in per cent, light in µmol/m2/s; None where blank."""

    at: datetime
    air_c: float | None
    rh: float | None = None
    ppfd: float | None = None


@dataclass(frozen=True)
class Conditions:
    """What a log says. Hours and degree-hours are of air outside the band; ``dli`` is mol/m2 by day; ``known_hours`` of air.

    ``vpd_kpa_mean`` is weighted by time, over what has both air and humidity; None where nothing has.
    """

    rows: int
    duplicates: int
    gaps: int
    spikes: int
    known_hours: float
    hours_below: float
    hours_above: float
    degree_hours_below: float
    degree_hours_above: float
    dli: dict[date, float]
    vpd_kpa_mean: float | None
    cautions: tuple[str, ...]


def saturated(celsius: float) -> float:
    """Vapour pressure of saturated air, kPa; an array gives an array.

    >>> float(saturated(20).round(3))
    2.338
    """
    return 0.6108 * np.exp(17.27 * celsius / (celsius + 237.3))  # type: ignore[no-any-return]


@dataclass(frozen=True)
class InOrder:
    """A log in order of time, the first of rows that repeat one, without spikes; blank cells are NaN.

    Attributes
    ----------
    readings : list of Reading
        Those that count.
    stamps, air, rh, ppfd : ndarray, shape (n,)
        Of them; ``stamps`` in seconds as time really passed.
    between : ndarray, shape (n - 1,)
        Seconds from each to the next.
    hours : ndarray, shape (n,)
        That each holds.
    usual : float
        Seconds between two rows, in the median; 0 with fewer than two times.
    rows, times, back : int
        Rows of the file, different times among them, rows that are earlier than the one before.
    centre : float
        Median of all air, NaN where none was read.
    """

    readings: list[Reading]
    stamps: np.ndarray
    air: np.ndarray
    rh: np.ndarray
    ppfd: np.ndarray
    between: np.ndarray
    hours: np.ndarray
    usual: float
    rows: int
    times: int
    back: int
    centre: float


def in_order(readings: Sequence[Reading] | InOrder) -> InOrder:
    """Readings ready to be summed up; what is ready stays as it is."""
    if isinstance(readings, InOrder):
        return readings
    stamps = _stamps(readings)
    air = np.array([np.nan if one.air_c is None else one.air_c for one in readings], float)
    _, first = np.unique(stamps, return_index=True)
    good = first[_near_a_neighbour(air[first])]
    between = np.diff(stamps[good])
    usual = float(np.median(np.diff(stamps[first]))) if first.size > 1 else 0.0
    counted = [readings[i] for i in good.tolist()]
    return InOrder(
        readings=counted,
        stamps=stamps[good],
        air=air[good],
        rh=np.array([np.nan if one.rh is None else one.rh for one in counted], float),
        ppfd=np.array([np.nan if one.ppfd is None else one.ppfd for one in counted], float),
        between=between,
        hours=np.append(np.minimum(between, HOLDS * usual), usual)[: good.size] / 3_600,
        usual=usual,
        rows=len(readings),
        times=int(first.size),
        back=int((np.diff(stamps) < 0).sum()),
        centre=float(np.nanmedian(air)) if not np.isnan(air).all() else float("nan"),
    )


def conditions(readings: Sequence[Reading] | InOrder, low: float, high: float) -> Conditions:
    """Sum up a log; its order does not matter.

    Parameters
    ----------
    readings : sequence of Reading, or InOrder
        At least two at different times.
    low, high : float
        The band of the air, °C.

    Raises
    ------
    UnusableData
        Too few readings, a band upside down, or air that must be in another scale.
    """
    if not low < high:
        raise UnusableData(
            _("the band {low:g} to {high:g} is none", low=low, high=high), _("Put the lower end first: 18..24")
        )
    log = in_order(readings)
    if log.centre > TOO_WARM:
        raise UnusableData(
            _("half of the air lies above {most:g} °C, so it is hardly in Celsius", most=TOO_WARM),
            _("Name the column air_f if it is in Fahrenheit"),
        )
    if log.times < 2:
        raise UnusableData(_("there are fewer than two times"), _("Give a log with a row for each reading"))
    below, above = np.nan_to_num(np.maximum(low - log.air, 0)), np.nan_to_num(np.maximum(log.air - high, 0))
    moist = ~np.isnan(log.air + log.rh)
    dry = np.average(lacking(log.air[moist], log.rh[moist]), weights=log.hours[moist]) if moist.any() else None
    return Conditions(
        rows=log.rows,
        duplicates=log.rows - log.times,
        gaps=int((log.between > GAP * log.usual).sum()),
        spikes=log.times - len(log.readings),
        known_hours=float(log.hours[~np.isnan(log.air)].sum()),
        hours_below=float(log.hours[below > 0].sum()),
        hours_above=float(log.hours[above > 0].sum()),
        degree_hours_below=float(below @ log.hours),
        degree_hours_above=float(above @ log.hours),
        dli=_light(log),
        vpd_kpa_mean=None if dry is None else float(dry),
        cautions=tuple(_cautions(log)),
    )


def _near_a_neighbour(air: np.ndarray) -> np.ndarray:
    """Places of readings that air can have: inside the limits, and near one of their neighbours inside them; blank ones stay."""
    inside = np.flatnonzero(np.isnan(air) | ((air >= LEAST_AIR) & (air <= MOST_AIR)))
    here = air[inside]
    before, after = np.append(np.nan, here[:-1]), np.append(here[1:], np.nan)
    alone = np.minimum(np.abs(here - before), np.abs(here - after)) > JUMP  # NaN where one is blank: not alone
    kept: np.ndarray = inside[~alone]
    return kept


def lacking(air_c: np.ndarray, rh: np.ndarray) -> np.ndarray:
    """What air lacks to be saturated, kPa."""
    return saturated(air_c) * (1 - rh / 100)  # type: ignore[arg-type]


def _stamps(readings: Sequence[Reading]) -> np.ndarray:
    """Seconds that differ as time really passed; those of clock times without an offset as the clock says."""
    if any(one.at.tzinfo is not None for one in readings):
        return np.array([_stamp(one.at) for one in readings], float)
    return np.array([one.at for one in readings], "datetime64[us]").astype(np.int64) / 1e6


def _stamp(at: datetime) -> float:
    return at.timestamp() if at.tzinfo else (at - datetime(1970, 1, 1)) / timedelta(seconds=1)


def parts_by_day(start: datetime, hours: float) -> Iterator[tuple[date, float]]:
    """Hours of each day in a stretch of time, as time really passed: a day on which the clock is set has 23 or 25."""
    left = 3_600 * hours
    while left > 0:
        midnight = datetime.combine(start.date() + timedelta(days=1), datetime.min.time(), start.tzinfo)
        part = min(left, _stamp(midnight) - _stamp(start))
        yield start.date(), part / 3_600
        start, left = midnight, left - part


@dataclass(frozen=True)
class Parts:
    """Readings parted at midnight: which reading, the ordinal of its day, and the hours it holds of that day; in order of time."""

    reading: np.ndarray
    day: np.ndarray
    hours: np.ndarray


#: Seconds before midnight in which a clock may be set, so that a day has 23 or 25 hours.
NEAR_MIDNIGHT = 7_200.0


def parted(log: InOrder) -> Parts:
    """Every reading in the days of its own clock; most lie in one day whole, the others are parted one by one."""
    ats = [one.at for one in log.readings]
    day = np.array([at.toordinal() for at in ats], dtype=np.int64)
    aware = any(at.tzinfo is not None for at in ats)
    past = (
        np.array([3_600 * at.hour + 60 * at.minute + at.second + at.microsecond / 1e6 for at in ats], float)
        if aware
        else log.stamps % 86_400
    )
    over = 3_600 * log.hours > 86_400 - past - (NEAR_MIDNIGHT if aware else 0.0)
    # A day on which the clock is set has other hours before midnight than it shows: it is parted one by one from its first hour on.
    found = [
        (i, part.toordinal(), hours)
        for i in np.flatnonzero(over).tolist()
        for part, hours in parts_by_day(ats[i], float(log.hours[i]))
    ]
    whole = np.flatnonzero(~over)
    reading = np.concatenate([whole, np.array([i for i, _, _ in found], dtype=np.int64)])
    order = np.argsort(reading, kind="stable")
    days = np.concatenate([day[whole], np.array([ordinal for _, ordinal, _ in found], dtype=np.int64)])
    hours = np.concatenate([log.hours[whole], np.array([held for _, _, held in found], float)])
    return Parts(reading[order], days[order], hours[order])


def light_in(ppfd: float, hours: float) -> float:
    """Light of so many µmol/m2/s over so many hours, mol/m2; arrays give an array."""
    return ppfd * hours * 3_600 / 1e6


def _light(log: InOrder) -> dict[date, float]:
    """Light of each day, mol/m2; a reading that holds over midnight counts on both days."""
    parts = parted(log)
    lit = ~np.isnan(log.ppfd[parts.reading])
    days, at = np.unique(parts.day[lit], return_inverse=True)
    light = np.bincount(at, light_in(log.ppfd[parts.reading][lit], parts.hours[lit]), minlength=days.size)
    return {date.fromordinal(day): found for day, found in zip(days.tolist(), light.tolist(), strict=True)}


def _cautions(log: InOrder) -> list[str]:
    """What a person should look at in the file."""
    said, between = [], log.between
    if log.back:
        said.append(_("{n} times a row is earlier than the one before: was the clock set back?", n=log.back))
    if len(between) and between.max() > GAP * log.usual:
        place = int(between.argmax())
        said.append(
            _(
                "The longest gap is {days:.1f} days, from {day}: what was then is not known. Is the year right?"
                if between[place] > 180 * 86_400
                else "The longest gap is {days:.1f} days, from {day}: what was then is not known.",
                days=between[place] / 86_400,
                day=dated(log.readings[place].at, "%-d %b %Y, %H:%M"),
            )
        )
    blank = int(np.isnan(log.air).sum())
    if blank:
        said.append(_("{n} readings have no air temperature.", n=blank))
    return said
