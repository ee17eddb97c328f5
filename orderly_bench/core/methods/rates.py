"""Intervals for one rooting rate: Wilson (1927) and Clopper-Pearson (1934)."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

from orderly_bench.core.errors import InvalidInput, finite
from orderly_bench.core.messages.translation import gettext as _


@dataclass(frozen=True)
class Interval:
    """A two-sided interval; ``level`` is its confidence, such as 0.95."""

    low: float
    high: float
    level: float

    def __post_init__(self) -> None:
        finite("interval", self.low, self.high)

    @property
    def width(self) -> float:
        """High minus low."""
        return self.high - self.low


def normal_quantile(level: float) -> float:
    """Two-sided standard normal quantile: 1.959964 at level 0.95."""
    from scipy.special import ndtri

    return float(ndtri(0.5 + level / 2))


def _check(rooted: float, stuck: float) -> None:
    if not 0 <= rooted <= stuck:
        raise InvalidInput("rooted", _("must lie between 0 and the {stuck} stuck", stuck=stuck), rooted)


def wilson(rooted: float, stuck: float, level: float = 0.95, quantile: float | None = None) -> Interval | None:
    """Score interval (Wilson 1927, J Am Stat Assoc 22:209).

    Parameters
    ----------
    rooted, stuck : float
        Counts, or effective counts when cuttings share units.
    quantile : float, optional
        Replaces the normal quantile (a t quantile when units are few).

    Returns
    -------
    Interval or None
        None when nothing was stuck. At 0 or all rooted one end is exactly 0 or 1.
    """
    _check(rooted, stuck)
    if stuck == 0:
        return None
    z = normal_quantile(level) if quantile is None else quantile
    rate = rooted / stuck
    centre = (rate + z * z / (2 * stuck)) / (1 + z * z / stuck)
    half = z / (1 + z * z / stuck) * sqrt(rate * (1 - rate) / stuck + z * z / (4 * stuck * stuck))
    low = 0.0 if rooted == 0 else max(0.0, centre - half)
    high = 1.0 if rooted == stuck else min(1.0, centre + half)
    return Interval(low, high, level)


def clopper_pearson(rooted: int, stuck: int, level: float = 0.95) -> Interval | None:
    """Exact interval (Clopper & Pearson 1934, Biometrika 26:404), by beta quantiles."""
    from scipy.special import betaincinv

    _check(rooted, stuck)
    if stuck == 0:
        return None
    tail = (1 - level) / 2
    low = 0.0 if rooted == 0 else float(betaincinv(rooted, stuck - rooted + 1, tail))
    high = 1.0 if rooted == stuck else float(betaincinv(rooted + 1, stuck - rooted, 1 - tail))
    return Interval(low, high, level)


def bound_of_none(stuck: float) -> float | None:
    """Exact one-sided upper 95 % bound on a rate when none of ``stuck`` rooted: 1 - 0.05^(1/n).

    Clopper & Pearson (1934), one-sided; what the rule of three, 3/n, approximates (Hanley & Lippman-Hand 1983, JAMA 249:1743).
    None when fewer than 1 was stuck.

    >>> round(1 - bound_of_none(3), 2)
    0.37
    """
    return 1 - 0.05 ** (1 / stuck) if stuck >= 1 else None
