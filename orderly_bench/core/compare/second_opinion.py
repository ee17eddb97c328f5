"""The model beside each randomisation test, chosen by response and layout."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.compare import negative_binomial, time_to_root
from orderly_bench.core.compare import terms as factorial
from orderly_bench.core.compare.laid_out.layout import NO_MODEL
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.observations import Observations
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of


def model_test(observations: Observations, response: Response, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
    """The layout's model of the columns that ``larger`` adds to ``smaller``.

    Parameters
    ----------
    smaller, larger : ndarray, shape (arms, columns)
        Designs of the arms with an intercept first.
    """
    if observations.not_drawn and _overall(smaller, larger):
        return NO_MODEL
    if response is Response.ROOT_COUNT:
        return _counts(observations, smaller, larger)
    if response is Response.DAYS:
        return (
            time_to_root.hazard(time_to_root.lives_of(observations), observations.arm_of_known).test
            if _overall(smaller, larger)
            else NO_MODEL
        )
    if not kind_of(response).yes_no:
        return NO_MODEL
    return observations.layout.model(smaller, larger)


def term_model(observations: Observations, response: Response, term: factorial.Term) -> ModelTest:
    """Type II test of a main effect or interaction by the layout's model."""
    if set(term) & set(observations.not_drawn):
        return NO_MODEL
    return observations.layout.term_model(
        response, term, lambda smaller, larger: model_test(observations, response, smaller, larger)
    )


def _overall(smaller: np.ndarray, larger: np.ndarray) -> bool:
    return bool(smaller.shape[1] == 1 and larger.shape[1] == larger.shape[0])


def _counts(observations: Observations, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
    units = observations.units
    rooting = [a for a in range(len(observations.arms)) if units.total[units.arm == a].sum() > 0]
    if len(rooting) < 2:
        return ModelTest("negative binomial", None, None, None)
    kept = np.isin(units.arm, rooting)
    if not _overall(smaller, larger):
        # An arm without a root has no place on the log scale; what the others can't tell is no model.
        small, large = (
            factorial.independent(design[rooting])[np.searchsorted(rooting, units.arm[kept])]
            for design in (smaller, larger)
        )
        if large.shape[1] == small.shape[1] or large.shape[0] <= large.shape[1]:
            return NO_MODEL
        return negative_binomial.term_ratio(units.total[kept], units.cuttings[kept], small, large)
    return negative_binomial.likelihood_ratio(
        units.total[kept], units.cuttings[kept], np.searchsorted(rooting, units.arm[kept])
    )
