"""Difference between two rooting rates, with an interval that never collapses.

Single cuttings: Newcombe's hybrid score interval (1998, Stat Med 17:873, method 10). Blocked:
Mantel-Haenszel difference with Klingenberg's interval (2014, Stat Med 33:2968), which inverts the score statistic that
Sato's variance (1989, Biometrics 45:1323) belongs to; where that variance is 0, the stratified Newcombe interval
(Yan & Su 2010, Stat Biopharm Res 2:482).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np

from orderly_bench.core.errors import finite
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.rates import Interval, normal_quantile, wilson

NO_VARIANCE = 1e-12


@dataclass(frozen=True)
class Difference:
    """Rate(a) - rate(b) as a proportion; ``interval`` None when an arm is empty."""

    estimate: float | None
    interval: Interval | None
    method: str

    def __post_init__(self) -> None:
        finite("difference", self.estimate)


def _clipped(low: float, high: float, level: float) -> Interval:
    return Interval(max(-1.0, low), min(1.0, high), level)


def newcombe(rooted_a: float, stuck_a: float, rooted_b: float, stuck_b: float, level: float = 0.95) -> Difference:
    """Hybrid score difference of two independent rates.

    Published example: 56 of 70 against 48 of 80 gives 0.0524 to 0.3339.
    """
    method = _("hybrid score (Newcombe 1998)")
    a, b = wilson(rooted_a, stuck_a, level), wilson(rooted_b, stuck_b, level)
    if a is None or b is None:
        return Difference(None, None, method)
    p_a, p_b = rooted_a / stuck_a, rooted_b / stuck_b
    d = p_a - p_b
    low = d - sqrt((p_a - a.low) ** 2 + (b.high - p_b) ** 2)
    high = d + sqrt((a.high - p_a) ** 2 + (p_b - b.low) ** 2)
    return Difference(d, _clipped(low, high, level), method)


def mantel_haenszel(rooted: np.ndarray, stuck: np.ndarray, level: float = 0.95) -> Difference:
    """Mantel-Haenszel difference over strata with Klingenberg's interval.

    Parameters
    ----------
    rooted, stuck : ndarray of int, shape (strata, 2)

    Notes
    -----
    A stratum that lacks an arm has no weight. None shared: no estimate. The ends solve (d - x)^2 = z^2 (x P + Q) / W^2 in x:
    the variance is taken at the end, not at the estimate, so they are not symmetric.
    """
    method = _("Mantel-Haenszel (Klingenberg 2014)")
    k_a, k_b, n_a, n_b = (x.astype(float) for x in (rooted[:, 0], rooted[:, 1], stuck[:, 0], stuck[:, 1]))
    shared = (n_a > 0) & (n_b > 0)
    if not shared.any():
        return Difference(None, None, method)
    k_a, k_b, n_a, n_b = k_a[shared], k_b[shared], n_a[shared], n_b[shared]
    total = n_a + n_b
    weight = n_a * n_b / total
    d = float(((k_a * n_b - k_b * n_a) / total).sum() / weight.sum())
    p_part = float(((n_a**2 * k_b - n_b**2 * k_a + n_a * n_b * (n_b - n_a) / 2) / total**2).sum())
    q_part = float(((k_a * (n_b - k_b) + k_b * (n_a - k_a)) / (2 * total)).sum())
    squared = float(weight.sum()) ** 2
    if (d * p_part + q_part) / squared < NO_VARIANCE:
        return stratified_newcombe(np.column_stack([k_a, k_b]), np.column_stack([n_a, n_b]), level)
    z = normal_quantile(level)
    middle = d + z**2 * p_part / (2 * squared)
    half = sqrt(max(0.0, middle**2 - d**2 + z**2 * q_part / squared))
    return Difference(d, _clipped(middle - half, middle + half, level), method)


def standardised(rooted: np.ndarray, stuck: np.ndarray) -> tuple[float, float] | None:
    """Both rates over the strata that hold both arms, with the Mantel-Haenszel weights: their difference is that estimate.

    Parameters
    ----------
    rooted, stuck : ndarray of int, shape (strata, 2)
    """
    shared = (stuck > 0).all(axis=1)
    if not shared.any():
        return None
    k, n = rooted[shared].astype(float), stuck[shared].astype(float)
    weight = n.prod(axis=1) / n.sum(axis=1)
    a, b = (weight @ (k / n) / weight.sum()).tolist()
    return a, b


def _stratified_wilson(rooted: np.ndarray, stuck: np.ndarray, weight: np.ndarray, z: float) -> tuple[float, float]:
    rate = rooted / stuck
    variance = rate * (1 - rate) / stuck
    if (variance == 0).all():
        variance = 1 / stuck
    z_star = z * sqrt(float((weight**2 * variance).sum())) / float((weight * np.sqrt(variance)).sum())
    ends = [wilson(k, n, quantile=z_star) for k, n in zip(rooted.tolist(), stuck.tolist(), strict=True)]
    low = sum(w * e.low for w, e in zip(weight, ends, strict=True) if e)
    high = sum(w * e.high for w, e in zip(weight, ends, strict=True) if e)
    return float(low), float(high)


def stratified_newcombe(rooted: np.ndarray, stuck: np.ndarray, level: float = 0.95) -> Difference:
    """Stratified hybrid score interval around the Mantel-Haenszel difference (Yan & Su 2010).

    Parameters
    ----------
    rooted, stuck : ndarray, shape (strata, 2)
        Every stratum holds both arms.
    """
    n_a, n_b = stuck[:, 0], stuck[:, 1]
    weight = n_a * n_b / (n_a + n_b)
    weight = weight / weight.sum()
    z = normal_quantile(level)
    d = float((weight * (rooted[:, 0] / n_a - rooted[:, 1] / n_b)).sum())
    low_a, high_a = _stratified_wilson(rooted[:, 0], n_a, weight, z)
    low_b, high_b = _stratified_wilson(rooted[:, 1], n_b, weight, z)
    spread_a, spread_b = float((weight**2 / n_a).sum()), float((weight**2 / n_b).sum())
    # Limits are weighted sums and may pass 0 or 1 by a rounding, where the spread is none.
    low_a, high_a, low_b, high_b = (min(1.0, max(0.0, limit)) for limit in (low_a, high_a, low_b, high_b))
    low = d - z * sqrt(spread_a * low_a * (1 - low_a) + spread_b * high_b * (1 - high_b))
    high = d + z * sqrt(spread_a * high_a * (1 - high_a) + spread_b * low_b * (1 - low_b))
    return Difference(d, _clipped(low, high, level), _("stratified hybrid score (Yan & Su 2010)"))


def odds_ratio(rooted_a: int, stuck_a: int, rooted_b: int, stuck_b: int) -> float | None:
    """Odds of a over odds of b; None when an arm is empty, at 0 or at 100 %."""
    failed_a, failed_b = stuck_a - rooted_a, stuck_b - rooted_b
    if 0 in (rooted_a, failed_a, rooted_b, failed_b):
        return None
    return rooted_a * failed_b / (failed_a * rooted_b)
