"""A stand-in for a logger: air, moisture and light of a bench, hour by hour, as the CSV file a logger would give."""

from __future__ import annotations

from datetime import date, datetime, time, timedelta
from math import cos, exp, pi

import numpy as np


def readings_csv(
    first: date, days: int, seed: int, *, air_c: float = 20.0, light: float = 220.0, cold: tuple[int, ...] = ()
) -> bytes:
    """A file with columns time, air_c, rh and ppfd, a row an hour.

    Parameters
    ----------
    first : date
        Its first day.
    days : int
    seed : int
    air_c : float
        Around which the air swings, °C.
    light : float
        At noon of a mean day, µmol/m2/s.
    cold : tuple of int
        Days, counted from 0, on which the heating failed.
    """
    rng = np.random.default_rng(seed)
    rows = ["time,air_c,rh,ppfd"]
    for day in range(days):
        sky, warmth = float(rng.uniform(0.55, 1.25)), float(rng.normal(0, 0.8)) - (5.0 if day in cold else 0.0)
        for hour in range(24):
            at = datetime.combine(first + timedelta(days=day), time(hour))
            air = air_c + warmth - 2.4 * cos((hour - 3) / 24 * 2 * pi) + float(rng.normal(0, 0.3))
            sun = max(0.0, -cos(hour / 24 * 2 * pi)) * light * sky
            rh = 100 - 22 * (1 - exp(-max(0.0, air - 14) / 8)) - float(rng.uniform(0, 5))
            rows.append(f"{at:%Y-%m-%d %H:%M},{air:.1f},{rh:.0f},{sun:.0f}")
    return ("\n".join(rows) + "\n").encode()
