"""Root number: the ratio of two means by a negative binomial, on unit totals where cuttings share a unit."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from orderly_bench.core.compare import negative_binomial
from orderly_bench.core.compare import terms as factorial
from orderly_bench.core.compare.difference import Difference
from orderly_bench.core.compare.laid_out.layout import NO_MODEL
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.measured.measured import Measured, whole_design
from orderly_bench.core.compare.rate_effects import Effect
from orderly_bench.core.compare.rates import Interval, normal_quantile
from orderly_bench.core.messages.words import tell


class Number(Measured):
    """Means and their ratio; an arm without a root has no ratio."""

    @cached_property
    def fitted(self) -> tuple[negative_binomial.NegativeBinomial, list[int], int]:
        """The negative binomial of arms with a root, those arms, and the residual degrees of freedom."""
        units = self.o.layout.replicates
        rooting = [a for a in range(len(self.o.arms)) if units.total[units.arm == a].sum() > 0]
        kept = np.isin(units.arm, rooting)
        arm = np.searchsorted(rooting, units.arm[kept])
        model = negative_binomial.fit(units.total[kept], units.cuttings[kept], arm)
        return model, rooting, int(kept.sum()) - len(rooting)

    def between(self, a: int, b: int) -> Effect:
        """Ratio of means, t with units - arms degrees of freedom where cuttings share a unit."""
        return lambda level: self._ratio(a, b, level)

    def _ratio(self, a: int, b: int, level: float) -> Difference:
        from scipy.special import stdtrit

        method = tell("ratio of means (negative binomial)")
        units = self.o.layout.replicates
        if min(units.total[units.arm == arm].sum() for arm in (a, b)) == 0:
            return Difference(None, None, method)
        model, rooting, df = self.fitted
        if model.theta is None:
            method = tell("ratio of means (Poisson)")
        quantile = normal_quantile(level)
        if self.o.layout.shared:
            if df < 1:
                return Difference(None, None, method)
            quantile = float(stdtrit(df, 0.5 + level / 2))
        centre, low, high = negative_binomial.ratio(model, rooting.index(a), rooting.index(b), quantile)
        return Difference(centre, Interval(low, high, level), method)

    def model(self, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
        """Negative binomial on unit totals; an arm without a root has no place on its log scale."""
        units = self.o.units
        rooting = [a for a in range(len(self.o.arms)) if units.total[units.arm == a].sum() > 0]
        if len(rooting) < 2:
            return ModelTest("negative binomial", None, None, None)
        kept = np.isin(units.arm, rooting)
        arm = np.searchsorted(rooting, units.arm[kept])
        if whole_design(smaller, larger):
            return negative_binomial.likelihood_ratio(units.total[kept], units.cuttings[kept], arm)
        small, large = (factorial.independent(design[rooting])[arm] for design in (smaller, larger))
        if large.shape[1] == small.shape[1] or large.shape[0] <= large.shape[1]:
            return NO_MODEL  # what the arms with roots can't tell
        return negative_binomial.term_ratio(units.total[kept], units.cuttings[kept], small, large)

    @property
    def theta(self) -> float | None:
        """Dispersion of the negative binomial; None when nothing rooted, or it is a Poisson."""
        return self.fitted[0].theta if self.o.responses.sum() > 0 else None
