"""Air, moisture and light over the weeks of a trial, from a logger's readings.

Vapour pressure after Tetens (1930, Z Geophys 6:297). Each reading holds until the next, at most twice the usual interval; what lies
in no reading is not known and is in no sum.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from itertools import pairwise

import numpy as np

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.words import dated, tell

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

    >>> round(saturated(20), 3)
    2.338
    """
    return 0.6108 * np.exp(17.27 * celsius / (celsius + 237.3))  # type: ignore[no-any-return]


def conditions(readings: Sequence[Reading], low: float, high: float) -> Conditions:
    """Sum up a log; its order does not matter.

    Parameters
    ----------
    readings : sequence of Reading
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
            tell("the band {low:g} to {high:g} is none", low=low, high=high), tell("Put the lower end first: 18..24")
        )
    _refuse_another_scale(readings)
    kept = _once(readings)
    if len(kept) < 2:
        raise UnusableData(tell("there are fewer than two times"), tell("Give a log with a row for each reading"))
    good, between, usual = _read(kept)
    lasting = _lasting(good, between, usual)
    air = np.array([np.nan if one.air_c is None else one.air_c for one in good], float)
    rh = np.array([np.nan if one.rh is None else one.rh for one in good], float)
    below, above = np.nan_to_num(np.maximum(low - air, 0)), np.nan_to_num(np.maximum(air - high, 0))
    moist = ~np.isnan(air + rh)
    return Conditions(
        rows=len(readings),
        duplicates=len(readings) - len(kept),
        gaps=int((between > GAP * usual).sum()),
        spikes=len(kept) - len(good),
        known_hours=float(lasting[~np.isnan(air)].sum()),
        hours_below=float(lasting[below > 0].sum()),
        hours_above=float(lasting[above > 0].sum()),
        degree_hours_below=float(below @ lasting),
        degree_hours_above=float(above @ lasting),
        dli=_light(good, lasting),
        vpd_kpa_mean=float(np.average(lacking(air[moist], rh[moist]), weights=lasting[moist])) if moist.any() else None,
        cautions=tuple(_cautions(readings, good, between, usual)),
    )


def _once(readings: Sequence[Reading]) -> list[Reading]:
    """In order of time, the first of those that repeat one."""
    once: dict[float, Reading] = {}
    for reading in readings:
        once.setdefault(_stamp(reading.at), reading)
    return [once[at] for at in sorted(once)]


def _read(kept: list[Reading]) -> tuple[list[Reading], np.ndarray, float]:
    """Readings without spikes, seconds between them, and the usual interval."""
    good = _without_spikes(kept)
    return good, _seconds(good), float(np.median(_seconds(kept)))


def _lasting(good: Sequence[Reading], between: np.ndarray, usual: float) -> np.ndarray:
    """Hours that each holds."""
    hours: np.ndarray = np.append(np.minimum(between, HOLDS * usual), usual)[: len(good)] / 3_600
    return hours


def lasting_hours(readings: Sequence[Reading]) -> list[tuple[Reading, float]]:
    """Every reading that counts with the hours that it holds, in order of time; of fewer than two times, none."""
    kept = _once(readings)
    if len(kept) < 2:
        return []
    good, between, usual = _read(kept)
    return list(zip(good, _lasting(good, between, usual).tolist(), strict=True))


def lacking(air_c: np.ndarray, rh: np.ndarray) -> np.ndarray:
    """What air lacks to be saturated, kPa."""
    return saturated(air_c) * (1 - rh / 100)  # type: ignore[arg-type]


def _refuse_another_scale(readings: Sequence[Reading]) -> None:
    air = [one.air_c for one in readings if one.air_c is not None]
    if air and float(np.median(air)) > TOO_WARM:
        raise UnusableData(
            tell("half of the air lies above {most:g} °C, so it is hardly in Celsius", most=TOO_WARM),
            tell("Name the column air_f if it is in Fahrenheit"),
        )


def _seconds(readings: Sequence[Reading]) -> np.ndarray:
    """From each reading to the next."""
    return np.diff(np.array([_stamp(one.at) for one in readings]))


def _stamp(at: datetime) -> float:
    """Seconds that differ as time really passed; those of clock times without an offset as the clock says."""
    return at.timestamp() if at.tzinfo else (at - datetime(1970, 1, 1)) / timedelta(seconds=1)


def _without_spikes(readings: list[Reading]) -> list[Reading]:
    """Readings that air can have: inside the limits, and near one of their neighbours."""
    inside = [one for one in readings if one.air_c is None or LEAST_AIR <= one.air_c <= MOST_AIR]
    air = [one.air_c for one in inside]
    return [
        one
        for before, here, after, one in zip([None, *air[:-1]], air, [*air[1:], None], inside, strict=True)
        if before is None or here is None or after is None or min(abs(here - before), abs(here - after)) <= JUMP
    ]


def parts_by_day(start: datetime, hours: float) -> Iterator[tuple[date, float]]:
    """Hours of each day in a stretch of time, as time really passed: a day on which the clock is set has 23 or 25."""
    left = 3_600 * hours
    while left > 0:
        midnight = datetime.combine(start.date() + timedelta(days=1), datetime.min.time(), start.tzinfo)
        part = min(left, _stamp(midnight) - _stamp(start))
        yield start.date(), part / 3_600
        start, left = midnight, left - part


def light_in(ppfd: float, hours: float) -> float:
    """Light of so many µmol/m2/s over so many hours, mol/m2."""
    return ppfd * hours * 3_600 / 1e6


def _light(readings: Sequence[Reading], lasting: np.ndarray) -> dict[date, float]:
    """Light of each day, mol/m2; a reading that holds over midnight counts on both days."""
    found: dict[date, float] = {}
    for reading, hours in zip(readings, lasting.tolist(), strict=True):
        for day, part in parts_by_day(reading.at, hours) if reading.ppfd is not None else ():
            found[day] = found.get(day, 0.0) + light_in(reading.ppfd or 0.0, part)
    return found


def _cautions(readings: Sequence[Reading], good: Sequence[Reading], between: np.ndarray, usual: float) -> list[str]:
    """What a person should look at in the file."""
    said = []
    back = sum(_stamp(later.at) < _stamp(earlier.at) for earlier, later in pairwise(readings))
    if back:
        said.append(tell("{n} times a row is earlier than the one before: was the clock set back?", n=back))
    if len(between) and between.max() > GAP * usual:
        place = int(between.argmax())
        said.append(
            tell(
                "The longest gap is {days:.1f} days, from {day}: what was then is not known. Is the year right?"
                if between[place] > 180 * 86_400
                else "The longest gap is {days:.1f} days, from {day}: what was then is not known.",
                days=between[place] / 86_400,
                day=dated(good[place].at, "%-d %b %Y, %H:%M"),
            )
        )
    blank = sum(one.air_c is None for one in good)
    if blank:
        said.append(tell("{n} readings have no air temperature.", n=blank))
    return said
