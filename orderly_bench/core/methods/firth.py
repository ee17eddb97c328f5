"""Firth's penalised logistic fit, for arms at 0 or 100 %.

Firth (1993), Biometrika 80:27; Heinze & Schemper (2002), Stat Med 21:2409. In the likelihood-ratio
test the null fit keeps the full design's penalty, otherwise the result depends on the coding. Found by Fisher's scoring with steps
halved where they lose: a general optimiser takes twenty times as long, which the resamples of a curve would feel.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.logistic import LARGEST_LOGIT, ModelTest, chi2_test

MOST_STEPS = 200
#: On the logit; longer steps overshoot near none and all.
LARGEST_STEP = 4.0
SMALLEST_STEP = 1e-10


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
    columns = design.shape[1]
    free = np.ones(columns, dtype=bool) if free is None else free
    beta, now = np.zeros(columns), -np.inf
    at = _At(design, rooted, stuck, beta)
    for _step in range(MOST_STEPS):
        now = at.log_likelihood
        step = np.zeros(columns)
        step[free] = np.linalg.solve(at.information[np.ix_(free, free)], at.score[free])
        step *= min(1.0, LARGEST_STEP / max(LARGEST_STEP, float(np.abs(step).max())))
        while (ahead := _At(design, rooted, stuck, beta + step)).log_likelihood < now - 1e-13 * (1 + abs(now)):
            step /= 2
            if np.abs(step).max() < SMALLEST_STEP:
                return FirthFit(beta, np.linalg.inv(at.information), now)
        beta, at = beta + step, ahead
        if np.abs(step).max() < SMALLEST_STEP:
            break
    return FirthFit(beta, np.linalg.inv(at.information), at.log_likelihood)


class _At:
    """Penalised log-likelihood, its score and the information at some coefficients.

    Parameters
    ----------
    design, rooted, stuck, beta : ndarray
        As the fit takes them.
    """

    def __init__(self, design: np.ndarray, rooted: np.ndarray, stuck: np.ndarray, beta: np.ndarray) -> None:
        eta = design @ beta
        chance = 1 / (1 + np.exp(-np.clip(eta, -LARGEST_LOGIT, LARGEST_LOGIT)))
        weight = stuck * chance * (1 - chance)
        self.information = (design * weight[:, None]).T @ design
        sign, log_det = np.linalg.slogdet(self.information)
        self.log_likelihood = (
            float(rooted @ eta - stuck @ np.logaddexp(0, eta)) + 0.5 * float(log_det) if sign > 0 else -np.inf
        )
        leverage = (
            weight * np.einsum("ij,ij->i", design, np.linalg.solve(self.information, design.T).T)
            if sign > 0
            else weight
        )
        self.score = design.T @ (rooted - stuck * chance + leverage * (0.5 - chance))


def likelihood_ratio(design: np.ndarray, tested: np.ndarray, rooted: np.ndarray, stuck: np.ndarray) -> ModelTest:
    """Penalised likelihood-ratio test of the ``tested`` columns (bool mask) of the design."""
    kept = stuck > 0
    full = fit(design[kept], rooted[kept], stuck[kept])
    null = fit(design[kept], rooted[kept], stuck[kept], ~tested)
    gain = 2 * (full.log_likelihood - null.log_likelihood)
    return chi2_test(_("Firth penalised logistic"), gain, int(tested.sum()))
