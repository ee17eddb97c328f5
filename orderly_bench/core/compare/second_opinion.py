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
from orderly_bench.core.compare import terms as factorial
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.observations import Observations
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of

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
    if observations.grouped:
        return term_model(observations, response, (0,)) if len(observations.factors) == 1 else NO_MODEL
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


def term_model(observations: Observations, response: Response, term: factorial.Term) -> ModelTest:
    """Type II test of a main effect or interaction by the layout's model.

    With whole plots or waves: what is constant within them by a quasi-binomial F test on them, the rest conditional on them.
    """
    if set(term) & set(observations.not_drawn):
        return NO_MODEL
    if not observations.grouped:
        smaller, larger = factorial.type_two(observations.level_index, term, True)
        return model_test(observations, response, smaller, larger) if larger.shape[1] > smaller.shape[1] else NO_MODEL
    if not kind_of(response).yes_no:
        return NO_MODEL
    level, group = observations.level_index[observations.arm_of_known], observations.group_of_known
    constant = [
        f for f in range(level.shape[1]) if all(np.unique(level[group == g, f]).size == 1 for g in np.unique(group))
    ]
    if set(term) <= set(constant):
        return _between_groups(observations, tuple(constant.index(f) for f in term), constant)
    return _within_groups(observations, term, constant)


def _between_groups(observations: Observations, term: factorial.Term, constant: list[int]) -> ModelTest:
    """Quasi-binomial F on whole plots or waves."""
    group = observations.group_of_known
    firsts = np.unique(group, return_index=True)[1]
    rooted, stuck = np.bincount(group, observations.responses), np.bincount(group).astype(float)
    smaller, larger = factorial.type_two(observations.level_index[:, constant], term, True)
    arm = observations.arm_of_known[firsts]
    return quasi_binomial.f_test(rooted, stuck, smaller[arm], larger[arm])


def _within_groups(observations: Observations, term: factorial.Term, constant: list[int]) -> ModelTest:
    """Conditional logistic given whole plots or waves; with several cuttings per unit quasi-binomial with those as blocks."""
    index, group = observations.level_index, observations.group_of_known
    terms = factorial.all_terms(index.shape[1])
    others = [t for t in terms if not set(term) <= set(t) and not set(t) <= set(constant)]
    smaller, larger = factorial.design(index, others, False), factorial.design(index, [*others, term], False)
    if larger.shape[1] == smaller.shape[1]:
        return NO_MODEL
    if observations.clustered:
        units = observations.units
        own = group[[m[0] for m in units.members]]
        base = np.hstack([np.ones((own.size, 1)), linear.dummies(own)])
        small, large = (np.hstack([base, design[units.arm]]) for design in (smaller, larger))
        return quasi_binomial.f_test(units.total, units.cuttings, small, large)
    shape = (int(group.max()) + 1, index.shape[0])
    rooted, stuck = np.zeros(shape, dtype=int), np.zeros(shape, dtype=int)
    np.add.at(stuck, (group, observations.arm_of_known), 1)
    np.add.at(rooted, (group, observations.arm_of_known), observations.responses.astype(int))
    return conditional_logistic.likelihood_ratio(smaller, larger, rooted, stuck)


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
