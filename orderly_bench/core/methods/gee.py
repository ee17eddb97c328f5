"""The robust Wald test of a GEE with exchangeable correlation (Liang & Zeger 1986, Biometrika 73:13).

Anticonservative with few units (Mancl & DeRouen 2001, Biometrics 57:126): shown, never decides.
"""

from __future__ import annotations

import warnings

import numpy as np

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.observations.table import Observations


def robust_wald(observations: Observations) -> ModelTest:
    """Wald chi-square of the arms; no p when an arm is at 0 or 100 % or the fit fails."""
    from scipy.special import chdtrc
    from statsmodels.genmod.cov_struct import Exchangeable
    from statsmodels.genmod.families import Binomial
    from statsmodels.genmod.generalized_estimating_equations import GEE

    arms = len(observations.arms)
    name = _("GEE, exchangeable, robust")
    k, n = observations.rooted.sum(axis=0), observations.stuck.sum(axis=0)
    if ((k == 0) | (k == n)).any():
        return ModelTest(name, None, arms - 1, None)
    arm = observations.arm_of_known
    design = np.hstack([np.ones((arm.size, 1)), (arm[:, None] == np.arange(1, arms)[None, :]).astype(float)])
    groups = np.empty(arm.size, dtype=int)
    for g, members in enumerate(observations.units.members):
        groups[members] = g
    order = np.argsort(groups, kind="stable")
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        fitted = GEE(
            observations.responses[order],
            design[order],
            groups=groups[order],
            family=Binomial(),
            cov_struct=Exchangeable(),
        ).fit(maxiter=200, ctol=1e-10)
    beta, covariance = np.asarray(fitted.params)[1:], np.asarray(fitted.cov_robust)[1:, 1:]
    try:
        chi2 = float(beta @ np.linalg.solve(covariance, beta))
    except np.linalg.LinAlgError:
        return ModelTest(name, None, arms - 1, None)
    if not np.isfinite(chi2) or chi2 < 0:
        return ModelTest(name, None, arms - 1, None)
    return ModelTest(name, chi2, arms - 1, float(chdtrc(arms - 1, chi2)))
