"""Quadratics over strength: of a rate on the logit, of a value by the means of what was drawn.

Both stand beside the strata and the other factors on x = log(1 + strength / smallest strength above none). A rate is fitted by Firth's
penalised likelihood, so that none or all rooted stays finite (Firth 1993, Biometrika 80:27), its covariance widened by the design effect
where cuttings share units. Means are fitted by least squares; their covariance allows for arms that spread differently (HC3 of MacKinnon
& White 1985, Journal of Econometrics 29:305; Long & Ervin 2000, The American Statistician 54:217).
"""

from __future__ import annotations

from abc import ABC, abstractmethod

import numpy as np

from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import firth
from orderly_bench.core.methods import terms as factorial
from orderly_bench.core.methods.clusters import design_effects
from orderly_bench.core.methods.linear import NO_VARIANCE, dummies
from orderly_bench.core.methods.logistic import ModelTest, chi2_test
from orderly_bench.core.methods.rates import normal_quantile
from orderly_bench.core.observations.table import Observations


class Quadratic(ABC):
    """A fitted quadratic over strength, its two own coefficients the last.

    Attributes
    ----------
    smallest, most : float
        Least strength above none, and the most.
    middle : ndarray of float, shape (columns - 2,)
        What stands beside the curve, as it was stuck.
    coefficients, covariance : ndarray of float, shapes (columns,) and (columns, columns)
    bend, misfit : ModelTest
        Of the quadratic term; of what the strengths' own values add to the quadratic.
    of_rates : bool
        Whether it is fitted on the logit.
    told : bool
        Whether anything is left to tell how sure it is.
    """

    of_rates: bool
    told: bool = True
    middle: np.ndarray
    coefficients: np.ndarray
    covariance: np.ndarray
    bend: ModelTest
    misfit: ModelTest

    def __init__(self, strengths: np.ndarray) -> None:
        self.smallest, self.most = float(strengths[strengths > 0].min()), float(strengths.max())

    def x_of(self, strength: float | np.ndarray) -> np.ndarray:
        """Strength on the curve's own scale."""
        return np.asarray(np.log1p(np.asarray(strength) / self.smallest))

    @abstractmethod
    def quantile(self, level: float) -> float:
        """Half width of the two-sided interval of a coefficient, in its standard errors."""

    @abstractmethod
    def drawn(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """Slope and square drawn from the fit's own distribution, shape (draws, 2)."""

    def at(self, grid: np.ndarray, level: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """The curve at each x, on its own scale, and the ends of its pointwise band."""
        rows = np.hstack([np.tile(self.middle, (grid.size, 1)), grid[:, None], grid[:, None] ** 2])
        height = rows @ self.coefficients
        half = self.quantile(level) * np.sqrt(np.einsum("ij,jk,ik->i", rows, self.covariance, rows))
        return height, height - half, height + half


class OfRates(Quadratic):
    """Of a yes or no, on the logit.

    Parameters
    ----------
    observations : Observations
    factor : int
    strengths : ndarray of float, shape (levels,)
        In the order of the factor's levels.
    """

    of_rates = True

    def __init__(self, observations: Observations, factor: int, strengths: np.ndarray) -> None:
        super().__init__(strengths)
        o = observations
        strata, arms = o.stuck.shape
        index = np.column_stack([np.repeat(np.arange(strata), arms), np.tile(np.arange(arms), strata)])
        kept = o.stuck.ravel() > 0
        stratum, arm = index[kept].T
        rooted, stuck = o.rooted.ravel()[kept].astype(float), o.stuck.ravel()[kept].astype(float)
        x = self.x_of(strengths[o.level_index[:, factor]])[arm]
        others: list[factorial.Term] = [(f,) for f in range(len(o.factors)) if f != factor]
        beside = factorial.design(o.level_index, others, intercept=False)[arm]
        base = np.hstack([np.ones((x.size, 1)), beside, dummies(stratum)])
        columns, whole = _independent(_powers(x, 2), base), _independent(_powers(x, strengths.size - 1), base)
        effects = design_effects(layout_of(o).replicates, arms) if layout_of(o).shared else [1.0]
        spread = max(1.0, float(np.mean(effects)))
        fitted = firth.fit(columns, rooted, stuck)
        self.coefficients, self.covariance = fitted.coefficients, spread * fitted.covariance
        self.middle = np.average(columns[:, :-2], axis=0, weights=stuck)

        def of_last(design: np.ndarray, tested: int, name: str) -> ModelTest:
            """Penalised likelihood ratio of the last columns, divided by the design effect."""
            last = np.arange(design.shape[1]) >= design.shape[1] - tested
            ratio = firth.likelihood_ratio(design, last, rooted, stuck) if tested else None
            return chi2_test(name, (ratio.chi2 or 0.0) / spread, tested) if ratio else ModelTest(name)

        self.bend = of_last(columns, 1, _("bend of the curve"))
        self.misfit = of_last(whole, whole.shape[1] - columns.shape[1], _("misfit of the curve"))

    def quantile(self, level: float) -> float:
        """Of the normal distribution."""
        return normal_quantile(level)

    def drawn(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """From the normal distribution of the penalised estimates."""
        return rng.multivariate_normal(self.coefficients[-2:], self.covariance[-2:, -2:], draws)


class OfMeans(Quadratic):
    """Of any value, by the means of the things that were drawn, inside the strata of their draw.

    Parameters
    ----------
    values : ndarray of float, shape (things,)
    strength : ndarray of float, shape (things,)
    stratum : ndarray of int, shape (things,)
    """

    of_rates = False

    def __init__(self, values: np.ndarray, strength: np.ndarray, stratum: np.ndarray) -> None:
        super().__init__(strength)
        x = self.x_of(strength)
        base = np.hstack([np.ones((x.size, 1)), dummies(stratum)])
        columns = _independent(_powers(x, 2), base)
        whole = _independent(_powers(x, np.unique(strength).size - 1), base)
        self.coefficients, self.covariance = _least_squares(columns, values)
        self.middle, self.df = columns[:, :-2].mean(axis=0), values.size - columns.shape[1]
        self.told = self.df > 0
        self.bend = _wald(_("bend of the curve"), self.coefficients, self.covariance, 1, self.df)
        added = whole.shape[1] - columns.shape[1]
        self.misfit = _wald(_("misfit of the curve"), *_least_squares(whole, values), added, self.df - added)

    def quantile(self, level: float) -> float:
        """Of Student's t."""
        from scipy.special import stdtrit

        return float(stdtrit(self.df, 0.5 + level / 2))

    def drawn(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """From the multivariate t of the estimates."""
        normal = rng.multivariate_normal(np.zeros(2), self.covariance[-2:, -2:], draws)
        scale = np.sqrt(self.df / rng.chisquare(self.df, draws))
        found: np.ndarray = self.coefficients[-2:] + normal * scale[:, None]
        return found


def _powers(x: np.ndarray, most: int) -> np.ndarray:
    """x, x squared and on, each of a size that keeps them apart in the arithmetic."""
    scaled = x / (float(np.abs(x).max()) or 1.0)
    return np.column_stack([x, x**2, *(scaled**power for power in range(3, most + 1))])


def _least_squares(columns: np.ndarray, values: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Coefficients with their HC3 covariance."""
    solved = np.linalg.pinv(columns)
    coefficients = solved @ values
    leverage = np.einsum("ij,ji->i", columns, solved)
    # What its own column alone describes has no residual of its own.
    own = np.where(leverage < 1 - 1e-9, (values - columns @ coefficients) / np.maximum(1 - leverage, 1e-9), 0.0)
    return coefficients, (solved * own**2) @ solved.T


def _wald(name: str, coefficients: np.ndarray, covariance: np.ndarray, tested: int, df: int) -> ModelTest:
    """F of the last coefficients; no p where nothing is tested, or no spread is left to test it against."""
    from scipy.special import fdtrc

    if tested < 1 or df < 1 or np.linalg.matrix_rank(covariance[-tested:, -tested:], tol=NO_VARIANCE) < tested:
        return ModelTest(name)
    own = coefficients[-tested:]
    f = float(own @ np.linalg.solve(covariance[-tested:, -tested:], own)) / tested
    return ModelTest(name, p=float(fdtrc(tested, df, f)), f=f, df1=tested, df2=df)


def _independent(curve: np.ndarray, base: np.ndarray) -> np.ndarray:
    """The base without the columns that others, or the curve, give already; the curve last."""
    kept: list[np.ndarray] = []
    for column in base.T:
        trial = np.column_stack([*kept, column, curve])
        if np.linalg.matrix_rank(trial) == trial.shape[1]:
            kept.append(column)
    return np.column_stack([*kept, curve])
