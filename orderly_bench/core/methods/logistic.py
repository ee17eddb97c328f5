"""Logistic likelihood-ratio tests on counts, the second opinion for single cuttings without blocks.

McCullagh & Nelder (1989), *Generalized Linear Models*, ch. 4; type II tests after Fox (2016),
*Applied Regression Analysis*, ch. 15.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite

import numpy as np

MOST_STEPS = 100
LARGEST_LOGIT = 30.0


@dataclass(frozen=True)
class ModelTest:
    """A model's test of one term. ``p`` None: no finite fit; a caution says why.

    Likelihood-ratio tests fill ``chi2`` and ``df``; F tests fill ``f``, ``df1`` and ``df2``.
    """

    name: str
    chi2: float | None = None
    df: int | None = None
    p: float | None = None
    f: float | None = None
    df1: int | None = None
    df2: int | None = None

    def __post_init__(self) -> None:
        """A fit that did not come out finite has no p: that is what None means here."""
        for name in ("chi2", "p", "f"):
            value = getattr(self, name)
            if value is not None and not isfinite(value):
                object.__setattr__(self, name, None)

    def as_dict(self) -> dict[str, object]:
        """Keys as the headless command prints them."""
        if self.df1 is not None:
            return {"name": self.name, "F": self.f, "df1": self.df1, "df2": self.df2, "p": self.p}
        return {"name": self.name, "chi2": self.chi2, "df": self.df, "p": self.p}


def chi2_test(name: str, statistic: float, df: int) -> ModelTest:
    """A likelihood-ratio statistic with its chi-square p; tiny negative rounding counts as 0."""
    from scipy.special import chdtrc

    statistic = max(0.0, statistic)
    return ModelTest(name, statistic, df, float(chdtrc(df, statistic)) if df > 0 else None)


def deviance(design: np.ndarray, rooted: np.ndarray, stuck: np.ndarray) -> float:
    """Residual deviance of the binomial fit, by Newton's steps: so small a fit is not worth loading a package for (half a second).

    Parameters
    ----------
    design : ndarray, shape (groups, columns)
    rooted, stuck : ndarray, shape (groups,)
    """
    kept = stuck > 0
    x, k, n = design[kept], rooted[kept].astype(float), stuck[kept].astype(float)
    beta = before = np.zeros(x.shape[1])
    last = np.inf
    for _ in range(MOST_STEPS):
        rate = 1 / (1 + np.exp(-np.clip(x @ beta, -LARGEST_LOGIT, LARGEST_LOGIT)))
        now = _deviance(k, n, rate)
        if abs(last - now) <= 1e-12 * (1 + abs(now)):
            break
        if now > last:  # too far: half way back
            beta = (beta + before) / 2
            continue
        last, before = now, beta
        weight = n * rate * (1 - rate)
        beta = beta + np.linalg.pinv((x * weight[:, None]).T @ x, hermitian=True) @ (x.T @ (k - n * rate))
    return now


def _deviance(rooted: np.ndarray, stuck: np.ndarray, rate: np.ndarray) -> float:
    from scipy.special import xlogy

    failed = stuck - rooted
    fitted, lost = stuck * rate, stuck * (1 - rate)
    return float(2 * (xlogy(rooted, rooted / fitted) + xlogy(failed, failed / lost)).sum())


def likelihood_ratio(
    name: str, smaller: np.ndarray, larger: np.ndarray, rooted: np.ndarray, stuck: np.ndarray
) -> ModelTest:
    """Twice the gain in log-likelihood from the smaller to the larger design; df from their ranks."""
    df = int(np.linalg.matrix_rank(larger) - np.linalg.matrix_rank(smaller))
    return chi2_test(name, deviance(smaller, rooted, stuck) - deviance(larger, rooted, stuck), df)
