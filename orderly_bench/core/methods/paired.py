"""Difference of two paired rates: Newcombe's interval (1998, Stat Med 17:2635, method 10) and Tango's (1998) by the score test."""

from __future__ import annotations

from math import sqrt

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.difference import Difference
from orderly_bench.core.methods.rates import Interval, normal_quantile, wilson


def newcombe_paired(both: int, first_only: int, second_only: int, neither: int, level: float = 0.95) -> Difference:
    """Rate of the first minus rate of the second of each pair.

    Published example: 36 both, 12 first only, 2 second only, 0 neither gives 0.0569 to 0.3404.

    Notes
    -----
    phi is corrected for continuity when positive, and 0 when a margin is 0. No pairs: no estimate.
    """
    method = _("paired hybrid score (Newcombe 1998)")
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


def tango(both: int, first_only: int, second_only: int, neither: int, level: float = 0.95) -> Difference:
    """Rate of the first minus rate of the second of each pair, with the score interval of Tango (1998, Stat Med 17:891).

    Notes
    -----
    The ends are the differences that the score test just does not reject; they never collapse. No pairs: no estimate.
    """
    from scipy.optimize import brentq

    method = _("paired score interval (Tango 1998)")
    n = both + first_only + second_only + neither
    if n == 0:
        return Difference(None, None, method)
    b, c, z = first_only, second_only, normal_quantile(level)
    d = (b - c) / n

    def score(delta: float) -> float:
        at = 2 * n
        bt = -b - c + (2 * n - b + c) * delta
        ct = -c * delta * (1 - delta)
        q = (sqrt(max(0.0, bt * bt - 4 * at * ct)) - bt) / (2 * at)
        variance = n * (2 * q + delta * (1 - delta))
        return (b - c - n * delta) / sqrt(max(variance, 1e-300))

    edge = 1 - 1e-10
    low = -1.0 if score(-edge) < z else float(brentq(lambda x: score(x) - z, -edge, d))
    high = 1.0 if score(edge) > -z else float(brentq(lambda x: score(x) + z, d, edge))
    return Difference(d, Interval(low, high, level), method)
