"""The model beside each randomisation test, chosen by response and layout."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.compare import (
    conditional_logistic,
    firth,
    linear,
    logistic,
    negative_binomial,
    quasi_binomial,
    time_to_root,
)
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.observations import Observations
from orderly_bench.core.compare.responses import Response

NO_MODEL = ModelTest("no model", None, None, None)


def at_the_end(observations: Observations) -> bool:
    """Whether an arm rooted fully or not at all."""
    k, n = observations.rooted.sum(axis=0), observations.stuck.sum(axis=0)
    return bool(((k == 0) | (k == n)).any())


def model_test(observations: Observations, response: Response, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
    """The layout's model of the columns that ``larger`` adds to ``smaller``.

    Parameters
    ----------
    smaller, larger : ndarray, shape (arms, columns)
        Designs of the arms with an intercept first.
    """
    if response is Response.ROOT_COUNT:
        return _counts(observations, smaller, larger)
    if response is Response.DAYS:
        return (
            time_to_root.hazard(time_to_root.lives_of(observations), observations.arm_of_known).test
            if _overall(smaller, larger)
            else NO_MODEL
        )
    if not response.binary:
        return NO_MODEL
    units = observations.units
    if observations.latin:
        firsts = [m[0] for m in units.members]
        groups = [
            observations.group_index(lambda r: r.row)[firsts],
            observations.group_index(lambda r: r.column)[firsts],
        ]
        return linear.fit_arms(units.mean, units.arm, groups).test if _overall(smaller, larger) else NO_MODEL
    if observations.clustered:
        block = [linear.dummies(units.stratum)] if observations.blocks else []
        small, large = (np.hstack([design[units.arm], *block]) for design in (smaller, larger))
        return quasi_binomial.f_test(units.total, units.cuttings, small, large)
    if observations.blocks:
        return conditional_logistic.likelihood_ratio(
            smaller[:, 1:], larger[:, 1:], observations.rooted, observations.stuck
        )
    k, n = observations.rooted.sum(axis=0), observations.stuck.sum(axis=0)
    if at_the_end(observations):
        tested = np.arange(larger.shape[1]) >= smaller.shape[1]
        return firth.likelihood_ratio(larger, tested, k.astype(float), n.astype(float))
    return logistic.likelihood_ratio("logistic", smaller, larger, k, n)


def _overall(smaller: np.ndarray, larger: np.ndarray) -> bool:
    return smaller.shape[1] == 1 and larger.shape[1] == larger.shape[0]


def _counts(observations: Observations, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
    if not _overall(smaller, larger):
        return NO_MODEL
    units = observations.units
    rooting = [a for a in range(len(observations.arms)) if units.total[units.arm == a].sum() > 0]
    if len(rooting) < 2:
        return ModelTest("negative binomial", None, None, None)
    kept = np.isin(units.arm, rooting)
    return negative_binomial.likelihood_ratio(
        units.total[kept], units.cuttings[kept], np.searchsorted(rooting, units.arm[kept])
    )
