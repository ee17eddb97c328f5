"""Quasi-binomial F test on units (McCullagh & Nelder 1989, ch. 4): Pearson dispersion of the larger model."""

from __future__ import annotations

import warnings

import numpy as np

from orderly_bench.core.methods.logistic import ModelTest

NAME = "quasi-binomial"
#: A linear predictor beyond this has no finite fit (separation).
DIVERGED = 12.0


def f_test(rooted: np.ndarray, stuck: np.ndarray, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
    """F test of the columns ``larger`` has beyond ``smaller``; p None when separated or without residual df.

    Parameters
    ----------
    rooted, stuck : ndarray, shape (units,)
    smaller, larger : ndarray, shape (units, columns)
    """
    from scipy.special import fdtrc
    from statsmodels.genmod.families import Binomial
    from statsmodels.genmod.generalized_linear_model import GLM

    counts = np.column_stack([rooted, stuck - rooted])
    df1 = int(np.linalg.matrix_rank(larger) - np.linalg.matrix_rank(smaller))
    df2 = int(rooted.size - np.linalg.matrix_rank(larger))
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # separation is looked for below
        null, full = (
            GLM(counts, design, family=Binomial()).fit(tol=1e-12, maxiter=200) for design in (smaller, larger)
        )
    if df2 < 1 or df1 < 1 or np.abs(larger @ full.params).max() > DIVERGED:
        return ModelTest(NAME, None, None, None, None, df1, df2)
    dispersion = float(full.pearson_chi2) / df2
    if dispersion <= 0:
        return ModelTest(NAME, None, None, None, None, df1, df2)
    f = max(0.0, float(null.deviance - full.deviance) / df1 / dispersion)
    return ModelTest(NAME, None, None, float(fdtrc(df1, df2, f)), f, df1, df2)
