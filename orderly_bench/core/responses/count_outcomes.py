"""Root number: the ratio of two means by a negative binomial, with a term for each stratum; totals where cuttings share a unit."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.layouts.layout import NO_MODEL
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import negative_binomial
from orderly_bench.core.methods import terms as factorial
from orderly_bench.core.methods.difference import Difference
from orderly_bench.core.methods.linear import dummies
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.methods.negative_binomial import LogLinear
from orderly_bench.core.methods.rates import Interval, normal_quantile
from orderly_bench.core.responses.outcomes import Effect, Outcomes


@dataclass(frozen=True)
class _Fit:
    """A model of a frame: the labels with a root, the units kept, their design with the labels' columns last.

    Where labels never meet in a stratum, such as arms of different whole plots, the strata tell them apart and only contrasts inside
    are estimable.
    """

    model: LogLinear
    labels: np.ndarray
    kept: np.ndarray
    design: np.ndarray
    rank: int

    @property
    def df(self) -> int:
        """Residual degrees of freedom."""
        return int(self.design.shape[0]) - self.rank

    @property
    def covariates(self) -> np.ndarray:
        """Its columns but those of the labels."""
        return self.design[:, : self.design.shape[1] - (self.labels.size - 1)]

    def contrast(self, a: int, b: int) -> np.ndarray:
        """Log mean of a minus that of b."""
        return np.concatenate([np.zeros(self.covariates.shape[1]), self.columns(a) - self.columns(b)])

    def columns(self, label: int) -> np.ndarray:
        """The label's own columns."""
        return np.asarray(self.labels[1:] == label, dtype=float)

    def estimable(self, contrast: np.ndarray) -> bool:
        """Whether the units tell the contrast: it lies in the rows of their design (Searle 1971, Linear Models, ch. 5)."""
        if self.rank == self.design.shape[1]:
            return True
        return int(np.linalg.matrix_rank(np.vstack([self.design, contrast]))) == self.rank


class CountOutcomes(Outcomes):
    """Means and their ratio; a side without a root has no ratio."""

    def _model(self, frame: Frame, by_pearson: bool) -> _Fit | None:
        """All labels that made a root, in the strata that hold one; fitted once."""
        key = id(frame), by_pearson
        if key not in self._models:
            self._models[key] = frame, _fit(self.o.responses, frame, by_pearson)
        return self._models[key][1]

    @cached_property
    def _models(self) -> dict[tuple[int, bool], tuple[Frame, _Fit | None]]:
        return {}

    def effect(self, frame: Frame, a: int, b: int) -> Effect:
        """Ratio of means; t where cuttings share a unit, or strata hold one unit of a side."""
        return lambda level: self._ratio(frame, a, b, level)

    def _ratio(self, frame: Frame, a: int, b: int, level: float) -> Difference:
        from scipy.special import stdtrit

        method = _("ratio of means (negative binomial)")
        values = self.o.responses[frame.rows]
        label = frame.label[frame.unit_of_rows]
        if min(values[label == side].sum() for side in (a, b)) == 0:
            return Difference(None, None, method)
        lone = lone_in_strata(frame, a, b)
        found = self._model(frame, lone)
        if found is None or not found.estimable(wanted := found.contrast(a, b)):
            return Difference(None, None, method)
        if lone:
            poisson = found.model.theta is None
            method = _("ratio of means (Poisson, dispersion by Pearson)") if poisson else _("ratio of means (negative binomial, dispersion by Pearson)")  # fmt: skip
        elif found.model.theta is None:
            method = _("ratio of means (Poisson)")
        quantile = normal_quantile(level)
        if not frame.single or lone:
            if found.df < 1:
                alone = found.model.ratio(wanted, 0.0)
                return Difference(alone[0] if alone else None, None, method)
            quantile = float(stdtrit(found.df, 0.5 + level / 2))
        ends = found.model.ratio(wanted, quantile)
        if ends is None:
            return Difference(None, None, method)
        centre, low, high = ends
        return Difference(centre, Interval(low, high, level), method)

    def adjusted(self, frame: Frame, a: int, b: int) -> tuple[float, float] | None:
        """The model's mean of each side where either of them stood, weighted by the cuttings there; raw where nothing parts them.

        A stratum in which nothing made a root tells of no ratio, so that the model leaves it out; the mean of each side there is 0.
        """
        if not frame.stratified:
            return super().adjusted(frame, a, b)
        found = self._model(frame, lone_in_strata(frame, a, b))
        if found is None or not {a, b} <= {*found.labels.tolist()} or not found.estimable(found.contrast(a, b)):
            means = frame.stratum_means(frame.means(self.o.responses), a, b)
            return means or super().adjusted(frame, a, b)
        here = np.isin(frame.label[found.kept], [a, b])
        weight = frame.sizes[found.kept][here]
        all_there = frame.sizes[np.isin(frame.label, [a, b])].sum()
        own = found.covariates.shape[1]
        log_mean = found.covariates[here] @ found.model.coefficients[:own]
        both = [log_mean + found.columns(side) @ found.model.coefficients[own:] for side in (a, b)]
        first, second = (float(weight @ np.exp(side) / all_there) for side in np.minimum(both, 30.0))
        return first, second

    def model(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """Negative binomial on unit totals beside the strata.

        An arm without a root has no place on its log scale: then there is no second opinion, rather than one of the other arms.
        """
        units, arms = self.o.units, len(self.o.arms)
        if any(units.total[units.arm == a].sum() <= 0 for a in range(arms)):
            return ModelTest("negative binomial", None, None, None)
        groupings = self.layout.groupings()
        kept = np.ones(units.arm.size, dtype=bool)
        for group in groupings:
            kept &= np.isin(group, group[units.total > 0])
        covariates = np.hstack([np.zeros((int(kept.sum()), 0)), *[dummies(g[kept]) for g in groupings]])
        small = np.hstack([smaller[units.arm[kept]], covariates])
        large = np.hstack([larger[units.arm[kept]], covariates])
        if np.linalg.matrix_rank(large) < large.shape[1]:
            small, large = factorial.independent(small), factorial.independent(np.hstack([small, large]))
        if large.shape[1] == small.shape[1] or large.shape[0] <= large.shape[1]:
            return NO_MODEL  # what the units can't tell
        return negative_binomial.likelihood_ratio(units.total[kept], units.cuttings[kept], small, large)

    @property
    def theta(self) -> float | None:
        """Dispersion of the negative binomial of all arms; None when nothing rooted, or it is a Poisson."""
        if self.o.responses.sum() <= 0:
            return None
        found = self._model(self._whole, False)
        return found.model.theta if found else None

    @cached_property
    def _whole(self) -> Frame:
        return self.layout.frame(0, 1)


def lone_in_strata(frame: Frame, a: int, b: int) -> bool:
    """Whether strata hold a single unit of a side: the likelihood then overstates how little units vary."""
    if frame.modelled or not frame.stratified:
        return False
    counts = frame.counts(a, b)
    both = counts[(counts > 0).all(axis=1)]
    return bool(both.size and both.min() < 2)


def _fit(values: np.ndarray, frame: Frame, by_pearson: bool) -> _Fit | None:
    totals = frame.means(values) * frame.sizes
    labels = np.array([x for x in np.unique(frame.label) if totals[frame.label == x].sum() > 0])
    kept = np.isin(frame.label, labels)
    for group in frame.groupings:
        kept &= np.isin(group, group[totals > 0])
    if labels.size < 1 or not kept.any():
        return None
    covariates = np.hstack([np.ones((int(kept.sum()), 1)), *[dummies(g[kept]) for g in frame.groupings]])
    covariates = covariates[:, _independent(covariates)] if len(frame.groupings) > 1 else covariates
    own = (frame.label[kept][:, None] == labels[None, 1:]).astype(float)
    design = np.hstack([covariates, own])
    rank = int(np.linalg.matrix_rank(design))
    if by_pearson and design.shape[0] <= rank:
        return None
    model = negative_binomial.fit(totals[kept], frame.sizes[kept], design, by_pearson)
    return _Fit(model, labels, np.flatnonzero(kept), design, rank)


def _independent(matrix: np.ndarray) -> list[int]:
    kept: list[int] = []
    for column in range(matrix.shape[1]):
        if np.linalg.matrix_rank(matrix[:, [*kept, column]]) > len(kept):
            kept.append(column)
    return kept
