"""Difference of two paired rates: Newcombe's paired interval (1998, Stat Med 17:2635, method 10)."""

from __future__ import annotations

from math import sqrt

from orderly_bench.core.compare.difference import Difference
from orderly_bench.core.compare.rates import Interval, wilson
from orderly_bench.core.messages.words import tell


def newcombe_paired(both: int, first_only: int, second_only: int, neither: int, level: float = 0.95) -> Difference:
    """Rate of the first minus rate of the second of each pair.

    Published example: 36 both, 12 first only, 2 second only, 0 neither gives 0.0569 to 0.3404.

    Notes
    -----
    phi is corrected for continuity when positive, and 0 when a margin is 0. No pairs: no estimate.
    """
    method = tell("paired hybrid score (Newcombe 1998)")
    n = both + first_only + second_only + neither
    if n == 0:
        return Difference(None, None, method)
    a, b = wilson(both + first_only, n, level), wilson(both + second_only, n, level)
    assert a is not None and b is not None
    p1, p2 = (both + first_only) / n, (both + second_only) / n
    product = (both + first_only) * (second_only + neither) * (both + second_only) * (first_only + neither)
    cross = both * neither - first_only * second_only
    corrected = max(cross - n / 2, 0.0) if cross > 0 else float(cross)
    phi = corrected / sqrt(product) if product else 0.0
    d = p1 - p2
    down, up = p1 - a.low, b.high - p2
    low = d - sqrt(max(0.0, down**2 - 2 * phi * down * up + up**2))
    rise, fall = a.high - p1, p2 - b.low
    high = d + sqrt(max(0.0, rise**2 - 2 * phi * rise * fall + fall**2))
    return Difference(d, Interval(max(-1.0, low), min(1.0, high), level), method)
