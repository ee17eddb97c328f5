"""The curve of a response over strength: described with its band, and a best strength only where the data carry one.

A quadratic (`dose_fits.py`); the band is pointwise, for rates on the logit (McCullagh & Nelder 1989, *Generalized Linear Models*, ch. 4).
The best strength is the top of the curve; its interval is the percentile one of a parametric bootstrap: curves are drawn from the
distribution of the fit (Davison & Hinkley 1997, *Bootstrap Methods and their Application*, ch. 2 and 5). So it holds where each block has
one tray of each strength, where drawing whole trays again would give the same trays.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from math import expm1

import numpy as np

from orderly_bench.core.judgement.dose_fits import Quadratic
from orderly_bench.core.measures import NOTHING_GIVEN, STRENGTH_NUMBER, STRENGTH_UNIT, strength_number
from orderly_bench.core.methods.logistic import ModelTest

#: Strengths tried, none among them, below which a best one is not looked for.
FOUR = 4
#: Strengths, none among them, below which there is no curve.
LEAST = 3
#: Points at which the curve is worked out.
POINTS = 61
#: Curves drawn for the interval of the best strength.
DRAWN = 2_000
NONE = frozenset({*NOTHING_GIVEN, "0"})
STRENGTH = re.compile(
    rf"(?P<what>.*?)\s*(?P<number>{STRENGTH_NUMBER})\s*(?P<unit>{STRENGTH_UNIT}|mm|um|µm)?(?P<rest>.*)", re.I
)


def strengths_of(levels: Sequence[str]) -> list[float] | None:
    """Levels as strengths of one thing in one unit, none as 0; None where they are no such levels.

    >>> strengths_of(["none", "IBA 1000 ppm", "IBA 3000 ppm"])
    [0.0, 1000.0, 3000.0]
    >>> strengths_of(["none", "IBA 1000 ppm", "NAA 1000 ppm"]) is None
    True
    >>> strengths_of(["none", "1000"]) is None
    True
    """
    found: list[float] = []
    things: set[tuple[str, ...]] = set()
    for level in levels:
        if level.strip().casefold() in NONE:
            found.append(0.0)
            continue
        match = STRENGTH.fullmatch(level.strip())
        if match is None:
            return None
        found.append(strength_number(match["number"], match["unit"] or ""))
        things.add(tuple((match[part] or "").strip().casefold() for part in ("what", "unit", "rest")))
    words = any(level.strip().casefold() in NONE - {"0"} for level in levels)
    bare = things == {("", "", "")}  # a word beside bare numbers: nobody said that it is their 0
    return found if len(things) == 1 and len(set(found)) == len(found) and not (words and bare) else None


def dose_factor(levels: dict[str, list[str]]) -> str | None:
    """The first factor that is a dose: three or more levels, strengths of one thing in one unit; by factor its levels."""
    return next((f for f, names in levels.items() if len(names) >= LEAST and strengths_of(names)), None)


@dataclass(frozen=True)
class DoseCurve:
    """The curve over strength.

    Attributes
    ----------
    strength, height, low, high : ndarray of float, shape (points,)
        From none or the least to the most tried; rates or means over blocks and other factors, with their 1 - alpha band.
    of_rates : bool
        Whether heights are rates, the quadratic being on their logit.
    smallest : float
        Least strength above none: the unit of the axis.
    bend, misfit : ModelTest
        Of the quadratic term; of what the strengths' own values add to the quadratic.
    turns : bool
        It bends, the values follow it, and its top or bottom surely lies inside the strengths tried.
    best, best_low, best_high : float or None
        Top of the curve with its interval; None where the data don't carry one.
    saturated : bool
        Three strengths: the curve goes through each of them, and tells nothing of its own shape.
    """

    strength: np.ndarray
    height: np.ndarray
    low: np.ndarray
    high: np.ndarray
    of_rates: bool
    smallest: float
    bend: ModelTest
    misfit: ModelTest
    turns: bool
    best: float | None
    best_low: float | None
    best_high: float | None
    saturated: bool


def has_curve(strengths: np.ndarray) -> bool:
    """Whether there are three strengths or more, none below 0 and one above."""
    return strengths.size >= LEAST and strengths.min() >= 0 and strengths.max() > 0


def dose_curve(fitted: Quadratic, strengths: np.ndarray, alpha: float, rng: np.random.Generator) -> DoseCurve:
    """The curve over the levels of one factor.

    Parameters
    ----------
    strengths : ndarray of float, shape (levels,)
        Such as `has_curve`.
    alpha : float
        The bend must be below it, and the band and interval have 1 - alpha.
    """
    saturated, found, turns = strengths.size < FOUR, None, False
    follows = fitted.misfit.p is not None and fitted.misfit.p >= alpha
    if not saturated and follows and fitted.bend.p is not None and fitted.bend.p < alpha:
        drawn = fitted.drawn(rng, DRAWN)
        turns, found = _turns(fitted, drawn, float(strengths.min()), alpha), _best(fitted, drawn, alpha)
    best, low, high = found or (None, None, None)
    grid = np.linspace(float(fitted.x_of(strengths.min())), float(fitted.x_of(strengths.max())), POINTS)
    height, band_low, band_high = (_rates(line) if fitted.of_rates else line for line in fitted.at(grid, 1 - alpha))
    return DoseCurve(
        strength=fitted.smallest * np.expm1(grid),
        height=height,
        low=band_low,
        high=band_high,
        of_rates=fitted.of_rates,
        smallest=fitted.smallest,
        bend=fitted.bend,
        misfit=fitted.misfit,
        turns=turns,
        best=best,
        best_low=low,
        best_high=high,
        saturated=saturated,
    )


def _rates(logit: np.ndarray) -> np.ndarray:
    found: np.ndarray = 1 / (1 + np.exp(-np.clip(logit, -30, 30)))
    return found


def _turns(fitted: Quadratic, drawn: np.ndarray, least: float, alpha: float) -> bool:
    """Whether all but alpha of the curves drawn have their top, or their bottom, inside the strengths tried."""
    slope, square = drawn.T
    at = -slope / np.where(np.abs(square) > 1e-9, 2 * square, np.nan)
    inside = (at > fitted.x_of(least)) & (at < fitted.x_of(fitted.most))
    return bool(inside.mean() >= 1 - alpha)


def _best(fitted: Quadratic, drawn: np.ndarray, alpha: float) -> tuple[float, float, float] | None:
    """The top of the curve and its interval, where both lie inside the strengths tried above none."""
    (top,) = _tops(fitted.coefficients[None, -2:])
    low, high = np.quantile(_tops(drawn), [alpha / 2, 1 - alpha / 2], method="inverted_cdf").tolist()
    least, most = float(fitted.x_of(fitted.smallest)), float(fitted.x_of(fitted.most))
    if not (least <= low <= top <= high <= most):
        return None
    best, lower, upper = (fitted.smallest * expm1(x) for x in (float(top), low, high))
    return best, lower, upper


def _tops(own: np.ndarray) -> np.ndarray:
    """Where each curve of slope and square turns down; without end where it does not."""
    slope, square = own.T
    down = square < -1e-9
    return np.where(down, -slope / (2 * np.where(down, square, -1.0)), np.inf)
