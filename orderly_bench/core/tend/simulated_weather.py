"""A stand-in for a weather service: nights to come that go with the season of a place, the same for the same day, and no forecast at all."""

from __future__ import annotations

from datetime import date, timedelta
from math import cos, pi

import numpy as np

from orderly_bench.core.lab import Hemisphere
from orderly_bench.core.tend.forecast import Night

#: Of a cool coast: mean of the lowest over the year, and how far it swings, °C.
MEAN_C, SWING_C = 6.0, 8.0
#: Half a year, days.
HALF = 182


def simulated_nights(first: date, nights: int, hemisphere: Hemisphere = Hemisphere.NORTH) -> list[Night]:
    """So many nights from a day on.

    >>> [night.low for night in simulated_nights(date(2026, 1, 10), 2)] == [night.low for night in simulated_nights(date(2026, 1, 10), 2)]
    True
    """
    found = []
    for number in range(nights):
        day = first + timedelta(days=number)
        turn = (day.timetuple().tm_yday - 25 + (HALF if hemisphere is Hemisphere.SOUTH else 0)) / 365.25
        rng = np.random.default_rng(day.toordinal())
        low = MEAN_C - SWING_C * cos(2 * pi * turn) + float(rng.normal(0, 2.5))
        found.append(Night(day, round(low, 1), round(low + float(rng.uniform(5, 11)), 1), 0.0, "simulated"))
    return found
