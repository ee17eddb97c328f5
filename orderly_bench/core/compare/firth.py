"""Firth's penalised logistic fit, for arms at 0 or 100 %.

Firth (1993), Biometrika 80:27; Heinze & Schemper (2002), Stat Med 21:2409. In the likelihood-ratio
test the null fit keeps the full design's penalty, otherwise the result depends on the coding.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orderly_bench.core.compare.logistic import ModelTest, chi2_test


@dataclass(frozen=True)
class FirthFit:
    """Coefficients, their covariance (inverse information) and the penalised log-likelihood."""

    coefficients: np.ndarray
    covariance: np.ndarray
    log_likelihood: float


def fit(design: np.ndarray, rooted: np.ndarray, stuck: np.ndarray, free: np.ndarray | None = None) -> FirthFit:
    """Maximise the penalised likelihood.

    Parameters
    ----------
    design : ndarray, shape (groups, columns)
        Full column rank.
    rooted, stuck : ndarray, shape (groups,)
    free : ndarray of bool, shape (columns,), optional
        Coefficients that may differ from 0; the penalty is always the full design's.
    """
    from scipy.optimize import minimize

    columns = design.shape[1]
    free = np.ones(columns, dtype=bool) if free is None else free

    def information(beta: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        chance = 1 / (1 + np.exp(-(design @ beta)))
        return design.T @ ((stuck * chance * (1 - chance))[:, None] * design), chance

    def minus(b: np.ndarray) -> tuple[float, np.ndarray]:
        beta = np.zeros(columns)
        beta[free] = b
        eta = design @ beta
        info, chance = information(beta)
        sign, log_det = np.linalg.slogdet(info)
        if sign <= 0:
            return 1e10, np.zeros(b.size)
        value = float(rooted @ eta - stuck @ np.logaddexp(0, eta)) + 0.5 * log_det
        leverage = stuck * chance * (1 - chance) * np.einsum("ij,jk,ik->i", design, np.linalg.inv(info), design)
        score = design.T @ (rooted - stuck * chance + leverage * (0.5 - chance))
        return -value, -score[free]

    found = minimize(minus, np.zeros(int(free.sum())), jac=True, method="BFGS", options={"gtol": 1e-9})
    beta = np.zeros(columns)
    beta[free] = found.x
    return FirthFit(beta, np.linalg.inv(information(beta)[0]), -float(found.fun))


def likelihood_ratio(design: np.ndarray, tested: np.ndarray, rooted: np.ndarray, stuck: np.ndarray) -> ModelTest:
    """Penalised likelihood-ratio test of the ``tested`` columns (bool mask) of the design."""
    kept = stuck > 0
    full = fit(design[kept], rooted[kept], stuck[kept])
    null = fit(design[kept], rooted[kept], stuck[kept], ~tested)
    gain = 2 * (full.log_likelihood - null.log_likelihood)
    return chi2_test("Firth penalised logistic", gain, int(tested.sum()))
