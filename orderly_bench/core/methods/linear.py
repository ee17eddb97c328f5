"""Linear models on unit means: F test of the arms and t intervals of their differences.

Scheffe (1959), *The Analysis of Variance*. Used for intervals when cuttings share units, in Latin squares and in
incomplete blocks; the randomisation test stands beside it.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

import numpy as np

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.logistic import ModelTest

NO_VARIANCE = 1e-12


def dummies(codes: np.ndarray) -> np.ndarray:
    """Indicator columns without the first level."""
    found: np.ndarray = (codes[:, None] == np.unique(codes)[None, 1:]).astype(float)
    return found


@dataclass(frozen=True)
class ArmFit:
    """lm(value ~ groups + arm): coefficients of arms 1.., their covariance factor, residual variance and df.

    ``groups`` is what the groups add to each arm: the mean over those that hold arms it can be told apart from, each counting alike;
    ``aligned`` the values less the groups' effects, centred; ``estimable`` tells which arms the groups do not part, shape (arms, arms).
    """

    effects: np.ndarray
    unscaled: np.ndarray
    variance: float
    df: int
    test: ModelTest
    groups: np.ndarray
    aligned: np.ndarray
    estimable: np.ndarray

    def mean(self, arm: int) -> float:
        """Least-squares mean of an arm: over all groups that a comparison of it reaches, each counting alike.

        Of a split-plot those are the whole plots of its own level: nobody saw it in the others.
        """
        return float(self.groups[arm] + self.effects[arm])

    def difference(self, a: int, b: int) -> tuple[float, float]:
        """Estimate of arm a minus arm b and its standard error."""
        contrast = np.zeros(self.effects.size)
        contrast[a] += 1
        contrast[b] -= 1
        return float(contrast @ self.effects), sqrt(
            max(0.0, float(contrast @ self.unscaled @ contrast)) * self.variance
        )

    def t_half_width(self, a: int, b: int, level: float) -> float | None:
        """Half width of the t interval; None without residual degrees of freedom."""
        from scipy.special import stdtrit

        if self.df < 1:
            return None
        return float(stdtrit(self.df, 0.5 + level / 2)) * self.difference(a, b)[1]


def fit_arms(values: np.ndarray, arm: np.ndarray, groups: list[np.ndarray]) -> ArmFit:
    """Fit arms beside groupings.

    Parameters
    ----------
    values : ndarray, shape (units,)
    arm : ndarray of int, shape (units,)
    groups : list of ndarray of int
        Blocks; or rows and columns.
    """
    from scipy.special import fdtrc

    base = np.hstack([np.ones((values.size, 1)), *[dummies(g) for g in groups]])
    full = np.hstack([base, dummies(arm)])
    solved = np.linalg.pinv(full)
    beta = solved @ values
    residual = float(((values - full @ beta) ** 2).sum())
    smaller = float(((values - base @ (np.linalg.pinv(base) @ values)) ** 2).sum())
    rank = int(np.linalg.matrix_rank(full))
    df1, df2 = rank - int(np.linalg.matrix_rank(base)), values.size - rank
    variance = residual / df2 if df2 > 0 else 0.0
    arms, start = int(arm.max()) + 1, base.shape[1]
    present = np.unique(arm)[1:]
    effects, unscaled = np.zeros(arms), np.zeros((arms, arms))
    effects[present] = beta[start:]
    unscaled[np.ix_(present, present)] = np.linalg.pinv(full.T @ full)[start:, start:]
    f = (smaller - residual) / df1 / variance if variance > NO_VARIANCE and df1 else None
    p = float(fdtrc(df1, df2, f)) if f is not None else None
    told, at = _told_apart(full, solved, start, present, arms), 1
    over_groups, beside = np.full(arms, float(beta[0])), np.zeros(values.size)
    for group in groups:
        levels, code = np.unique(group, return_inverse=True)
        own = np.concatenate([[0.0], beta[at : at + levels.size - 1]])
        over_groups += [own[np.unique(code[told[a][arm]])].mean() if told[a][arm].any() else 0.0 for a in range(arms)]
        beside += own[code] - own.mean()
        at += levels.size - 1
    test = ModelTest(_("linear model on unit means"), p=p, f=f, df1=df1, df2=df2)
    return ArmFit(effects, unscaled, variance, df2, test, over_groups, _tied(values - beside), told)


def _tied(values: np.ndarray) -> np.ndarray:
    """Without the rounding errors that would part what is equal."""
    return np.round(values, 9 - int(np.ceil(np.log10(max(1.0, float(np.abs(values).max()))))))


def _told_apart(full: np.ndarray, solved: np.ndarray, start: int, present: np.ndarray, arms: int) -> np.ndarray:
    """Which differences of arms lie among the model's rows (Searle 1971, *Linear Models*, ch. 5), shape (arms, arms)."""
    contrast = np.zeros((arms, full.shape[1]))
    contrast[present, start:] = np.eye(present.size)
    between = (contrast[:, None, :] - contrast[None, :, :]).reshape(-1, full.shape[1])
    lies = np.abs(between @ (solved @ full) - between).max(axis=1) < 1e-6
    return np.asarray(lies.reshape(arms, arms))
