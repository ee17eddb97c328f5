"""The curve of a rate over strength: described with its band, and a best strength only where the data carry one.

A quadratic on the logit of x = log(1 + strength / smallest strength above none), beside blocks and the other factors, by Firth's
penalised likelihood so that none or all rooted stays finite (Firth 1993, Biometrika 80:27). The band is pointwise, on the logit
(McCullagh & Nelder 1989, *Generalized Linear Models*, ch. 4), widened by the design effect where cuttings share units. The best
strength is the top of the curve; its interval is the percentile bootstrap's over whole units inside arm and block (Davison & Hinkley
1997, *Bootstrap Methods and their Application*, ch. 5).
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from math import expm1

import numpy as np

from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.measures import NOTHING_GIVEN, STRENGTH_NUMBER, STRENGTH_UNIT, strength_number
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import firth
from orderly_bench.core.methods import terms as factorial
from orderly_bench.core.methods.clusters import design_effects
from orderly_bench.core.methods.linear import dummies
from orderly_bench.core.methods.logistic import ModelTest, chi2_test
from orderly_bench.core.methods.rates import normal_quantile
from orderly_bench.core.observations.table import Observations

#: Strengths tried, none among them, below which a best one is not looked for.
FOUR = 4
#: Strengths, none among them, below which there is no curve.
LEAST = 3
#: Points at which the curve is worked out.
POINTS = 61
RESAMPLES = 200
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
    strength, rate, low, high : ndarray of float, shape (points,)
        From none or the least to the most tried; rates over blocks and other factors, with their 1 - alpha band.
    smallest : float
        Least strength above none: the unit of the axis.
    bend : ModelTest
        Of the quadratic term.
    best, best_low, best_high : float or None
        Top of the curve with its interval; None where the data don't carry one.
    saturated : bool
        Three strengths: the curve goes through each of them, and tells nothing of its own shape.
    """

    strength: np.ndarray
    rate: np.ndarray
    low: np.ndarray
    high: np.ndarray
    smallest: float
    bend: ModelTest
    best: float | None
    best_low: float | None
    best_high: float | None
    saturated: bool


def dose_curve(
    observations: Observations, factor: int, strengths: np.ndarray, alpha: float, rng: np.random.Generator
) -> DoseCurve | None:
    """The curve of a yes or no over the levels of one factor.

    Parameters
    ----------
    strengths : ndarray of float, shape (levels,)
        0 or more, in the order of the factor's levels.
    alpha : float
        The bend must be below it, and the band and interval have 1 - alpha.

    Returns
    -------
    DoseCurve or None
        None with fewer than three strengths, one below 0, or none above.
    """
    if strengths.size < LEAST or strengths.min() < 0 or strengths.max() <= 0:
        return None
    table = _Table(observations, factor, strengths)
    fitted = table.fit(table.rooted, table.stuck)
    spread = table.design_effect
    bend = table.bend(spread)
    saturated = strengths.size < FOUR
    found = None
    if not saturated and bend.p is not None and bend.p < alpha:
        found = _best(table, fitted.coefficients, alpha, rng)
    best, low, high = found or (None, None, None)
    grid = np.linspace(
        0.0 if strengths.min() == 0 else table.x_of(strengths.min()), table.x_of(strengths.max()), POINTS
    )
    rate, band = _band(table, fitted, grid, spread, alpha)
    return DoseCurve(
        table.smallest * np.expm1(grid), rate, band[0], band[1], table.smallest, bend, best, low, high, saturated
    )


class _Table:
    """Counts by arm and stratum with the design of the curve.

    Parameters
    ----------
    observations : Observations
    factor : int
    strengths : ndarray of float, shape (levels,)
    """

    def __init__(self, observations: Observations, factor: int, strengths: np.ndarray) -> None:
        o = observations
        self.smallest, self.most = float(strengths[strengths > 0].min()), float(strengths.max())
        strata, arms = o.stuck.shape
        index = np.column_stack([np.repeat(np.arange(strata), arms), np.tile(np.arange(arms), strata)])
        kept = o.stuck.ravel() > 0
        self.stratum, self.arm = index[kept].T
        self.rooted, self.stuck = o.rooted.ravel()[kept].astype(float), o.stuck.ravel()[kept].astype(float)
        x = self.x_of(strengths[o.level_index[:, factor]])[self.arm]
        others: list[factorial.Term] = [(f,) for f in range(len(o.factors)) if f != factor]
        beside = factorial.design(o.level_index, others, intercept=False)[self.arm]
        base = np.hstack([np.ones((x.size, 1)), beside, dummies(self.stratum)])
        curve = np.column_stack([x, x**2])
        self.columns = _independent(curve, base)
        self.base = self.columns.shape[1] - 2
        units = layout_of(o).replicates
        self.design_effect = max(1.0, float(np.mean(design_effects(units, arms)))) if layout_of(o).shared else 1.0
        cell = {(int(s), int(a)): i for i, (s, a) in enumerate(zip(self.stratum, self.arm, strict=True))}
        self.cell_of_unit = np.array([cell[int(s), int(a)] for s, a in zip(units.stratum, units.arm, strict=True)])
        self.units = units

    def x_of(self, strength: float | np.ndarray) -> np.ndarray:
        """Strength on the curve's own scale."""
        return np.asarray(np.log1p(np.asarray(strength) / self.smallest))

    def fit(self, rooted: np.ndarray, stuck: np.ndarray) -> firth.FirthFit:
        """The curve of some counts of the cells."""
        kept = stuck > 0
        return firth.fit(self.columns[kept], rooted[kept], stuck[kept])

    def bend(self, spread: float) -> ModelTest:
        """Penalised likelihood ratio of the quadratic term, divided by the design effect."""
        tested = np.arange(self.columns.shape[1]) == self.columns.shape[1] - 1
        whole = firth.likelihood_ratio(self.columns, tested, self.rooted, self.stuck)
        return chi2_test(_("bend of the curve"), (whole.chi2 or 0.0) / spread, 1)

    def again(self, rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
        """Counts of the cells with their whole units drawn again, with replacement."""
        drawn = np.empty(self.cell_of_unit.size, dtype=int)
        for cell in np.unique(self.cell_of_unit):
            own = np.flatnonzero(self.cell_of_unit == cell)
            drawn[own] = rng.choice(own, own.size)
        cells, size = self.cell_of_unit[drawn], self.stuck.size
        return np.bincount(cells, self.units.total[drawn], size), np.bincount(cells, self.units.cuttings[drawn], size)


def _independent(curve: np.ndarray, base: np.ndarray) -> np.ndarray:
    """The base without the columns that others, or the curve, give already; the curve last."""
    kept: list[np.ndarray] = []
    for column in base.T:
        trial = np.column_stack([*kept, column, curve])
        if np.linalg.matrix_rank(trial) == trial.shape[1]:
            kept.append(column)
    return np.column_stack([*kept, curve])


def _best(
    table: _Table, coefficients: np.ndarray, alpha: float, rng: np.random.Generator
) -> tuple[float, float, float] | None:
    """The top of the curve and its interval, where both lie inside the strengths tried above none."""
    top = _top(coefficients)
    if top is None:
        return None
    tops = [_top(table.fit(*table.again(rng)).coefficients) for _ in range(RESAMPLES)]
    reached = np.array([np.inf if one is None else one for one in tops])
    low, high = np.quantile(reached, [alpha / 2, 1 - alpha / 2], method="inverted_cdf").tolist()
    least, most = float(table.x_of(table.smallest)), float(table.x_of(table.most))
    if not (least <= low and high <= most and low <= top <= high):
        return None
    best, lower, upper = (table.smallest * expm1(x) for x in (top, low, high))
    return best, lower, upper


def _top(coefficients: np.ndarray) -> float | None:
    """Where a curve turns down; None where it does not."""
    slope, square = coefficients[-2:].tolist()
    return -slope / (2 * square) if square < -1e-9 else None


def _band(
    table: _Table, fitted: firth.FirthFit, grid: np.ndarray, spread: float, alpha: float
) -> tuple[np.ndarray, tuple[np.ndarray, np.ndarray]]:
    """Rate and its pointwise band at each x, blocks and other factors as they were stuck."""
    middle = np.average(table.columns[:, : table.base], axis=0, weights=table.stuck)
    rows = np.hstack([np.tile(middle, (grid.size, 1)), grid[:, None], grid[:, None] ** 2])
    logit = rows @ fitted.coefficients
    half = normal_quantile(1 - alpha) * np.sqrt(spread * np.einsum("ij,jk,ik->i", rows, fitted.covariance, rows))
    rate, low, high = (1 / (1 + np.exp(-np.clip(at, -30, 30))) for at in (logit, logit - half, logit + half))
    return rate, (low, high)
