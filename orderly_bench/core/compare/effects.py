"""How big: the effect between two arms with its interval, per response and layout; no interval collapses."""

from __future__ import annotations

from collections.abc import Callable
from math import sqrt

import numpy as np

from orderly_bench.core.compare import negative_binomial, time_to_root
from orderly_bench.core.compare.clusters import design_effects, rate_interval
from orderly_bench.core.compare.difference import Difference
from orderly_bench.core.compare.hodges_lehmann import shift, stratified_shift
from orderly_bench.core.compare.linear import ArmFit, fit_arms
from orderly_bench.core.compare.observations import Observations
from orderly_bench.core.compare.rates import Interval, normal_quantile
from orderly_bench.core.compare.superiority import clustered_superiority, stratified_superiority, superiority
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of

Effect = Callable[[float], Difference]
NO_VARIANCE = 1e-12


class Effects:
    """Effects between the arms of one set of observations; models are fitted once.

    Parameters
    ----------
    observations : Observations
    response : Response
    """

    def __init__(self, observations: Observations, response: Response) -> None:
        self.observations, self.response = observations, response
        self._linear: ArmFit | None = None
        self._counts: tuple[negative_binomial.NegativeBinomial, list[int], int] | None = None
        self._lives: time_to_root.Lives | None = None

    @property
    def shared(self) -> bool:
        """Whether several cuttings make one replicate."""
        return self.observations.layout.shared

    def between(self, a: int, b: int) -> Effect:
        """The effect of arm a against arm b, at any confidence level."""
        if self.response is Response.ROOT_COUNT:
            return lambda level: self._ratio(a, b, level)
        if self.response is Response.DAYS:
            return lambda level: self._area(a, b, level)
        if self.response is Response.LONGEST or kind_of(self.response).graded:
            return lambda level: self._ranked(a, b, level)
        return self.observations.layout.difference(self, a, b)

    def adjusted(self, a: int, b: int) -> tuple[float, float] | None:
        """Both rates adjusted for where they stood: their difference is the estimate. None where they are not compared inside."""
        return self.observations.layout.adjusted(self, a, b)

    def least_squares(self, a: int, b: int) -> tuple[float, float]:
        """Least-squares means of two arms."""
        return self.linear().mean(a), self.linear().mean(b)

    def means(self, a: int, b: int) -> tuple[float, float]:
        """Mean proportions of the replicates of two arms."""
        r = self.observations.layout.replicates
        return float(r.mean[r.arm == a].mean()), float(r.mean[r.arm == b].mean())

    def linear(self) -> ArmFit:
        """The linear model on unit proportions, with the layout's groups."""
        if self._linear is None:
            units = self.observations.units
            self._linear = fit_arms(units.mean, units.arm, self.observations.layout.groupings())
        return self._linear

    def of_replicates(self, a: int, b: int, level: float, method: str) -> Difference:
        """Means of replicates, two-sample t interval; none when an arm has a single one."""
        r = self.observations.layout.replicates
        kept = np.isin(r.arm, [a, b])
        estimate = float(r.mean[r.arm == a].mean() - r.mean[r.arm == b].mean())
        if min((r.arm == a).sum(), (r.arm == b).sum()) < 2:
            return Difference(estimate, None, method)
        fitted = fit_arms(r.mean[kept], (r.arm[kept] == b).astype(int), [])
        return self._t_interval(fitted, (0, 1), (a, b), estimate, level, f"{method}, t interval")

    def inside(self, a: int, b: int, groups: list[np.ndarray], level: float) -> Difference:
        """Units inside groups of them, linear model with those beside the arms."""
        units = self.observations.units
        fitted = fit_arms(units.mean, units.arm, groups)
        estimate = fitted.difference(a, b)[0]
        return self._t_interval(fitted, (a, b), (a, b), estimate, level, "linear model within groups, t interval")

    def _t_interval(
        self,
        fitted: ArmFit,
        columns: tuple[int, int],
        arms: tuple[int, int],
        estimate: float,
        level: float,
        method: str,
    ) -> Difference:
        half = fitted.t_half_width(*columns, level)
        if half is None or fitted.variance <= NO_VARIANCE:
            return self.squared_and_added(*arms, estimate, level)
        low, high = max(-1.0, estimate - half), min(1.0, estimate + half)
        return Difference(max(-1.0, min(1.0, estimate)), Interval(low, high, level), method)

    def of_units(self, a: int, b: int, level: float) -> Difference:
        """Means of units; in the linear model with the layout's groupings."""
        o, units, fitted = self.observations, self.observations.units, self.linear()
        method = "linear model on unit means, t interval"
        if o.layout.adjusts:
            estimate = fitted.difference(a, b)[0]
        else:
            estimate = float(units.mean[units.arm == a].mean() - units.mean[units.arm == b].mean())
        if min((units.arm == a).sum(), (units.arm == b).sum()) < 2:
            return Difference(estimate, None, method)
        return self._t_interval(fitted, (a, b), (a, b), estimate, level, method)

    def squared_and_added(self, a: int, b: int, estimate: float, level: float) -> Difference:
        """No unit varies: Newcombe's square-and-add of the arms' Rao-Scott limits.

        Around the difference of k/n; where the estimate is adjusted for blocks, whole plots or waves, around that.
        """
        o, units = self.observations, self.observations.layout.replicates
        effects = design_effects(units, len(o.arms))
        ends = [rate_interval(units, arm, effects, level) for arm in (a, b)]
        if ends[0] is None or ends[1] is None:
            return Difference(estimate, None, "square-and-add")
        p = [float(units.total[units.arm == arm].sum() / units.cuttings[units.arm == arm].sum()) for arm in (a, b)]
        centre = estimate if o.layout.adjusts else p[0] - p[1]
        low = centre - sqrt((p[0] - ends[0].low) ** 2 + (ends[1].high - p[1]) ** 2)
        high = centre + sqrt((ends[0].high - p[0]) ** 2 + (p[1] - ends[1].low) ** 2)
        return Difference(
            max(-1.0, min(1.0, estimate)),
            Interval(max(-1.0, low), min(1.0, high), level),
            "square-and-add of Rao-Scott limits (Newcombe 1998)",
        )

    def counts(self) -> tuple[negative_binomial.NegativeBinomial, list[int], int]:
        """The negative binomial of arms with a root, those arms, and the residual degrees of freedom."""
        if self._counts is None:
            units = self.observations.layout.replicates
            rooting = [a for a in range(len(self.observations.arms)) if units.total[units.arm == a].sum() > 0]
            kept = np.isin(units.arm, rooting)
            arm = np.searchsorted(rooting, units.arm[kept])
            model = negative_binomial.fit(units.total[kept], units.cuttings[kept], arm)
            self._counts = model, rooting, int(kept.sum()) - len(rooting)
        return self._counts

    def _ratio(self, a: int, b: int, level: float) -> Difference:
        from scipy.special import stdtrit

        method = "ratio of means (negative binomial)"
        units = self.observations.layout.replicates
        totals = [units.total[units.arm == arm].sum() for arm in (a, b)]
        if min(totals) == 0:
            return Difference(None, None, method)
        model, rooting, df = self.counts()
        if model.theta is None:
            method = "ratio of means (Poisson)"
        quantile = normal_quantile(level)
        if self.shared:
            if df < 1:
                return Difference(None, None, method)
            quantile = float(stdtrit(df, 0.5 + level / 2))
        centre, low, high = negative_binomial.ratio(model, rooting.index(a), rooting.index(b), quantile)
        return Difference(centre, Interval(low, high, level), method)

    def _ranked(self, a: int, b: int, level: float) -> Difference:
        o = self.observations
        if self.shared:
            return self._ranked_by_replicate(a, b, level)
        x, y = (o.responses[o.arm_of_known == arm] for arm in (a, b))
        strata_x, strata_y = (o.stratum_of_known[o.arm_of_known == arm] for arm in (a, b))
        if self.response is Response.LONGEST:
            return stratified_shift(x, y, strata_x, strata_y, level) if o.blocks else shift(x, y, level)
        return stratified_superiority(x, y, strata_x, strata_y, level) if o.blocks else superiority(x, y, level)

    def _ranked_by_replicate(self, a: int, b: int, level: float) -> Difference:
        """Shift of replicate means; superiority of cuttings with its variance between replicates."""
        o, r = self.observations, self.observations.layout.replicates
        here = [r.arm == arm for arm in (a, b)]
        if self.response is Response.LONGEST:
            x, y = (r.mean[h] for h in here)
            if min(x.size, y.size) < 2:
                return Difference(float(np.median(np.subtract.outer(x, y))), None, "shift of unit means")
            if o.layout.ranks_inside:
                return stratified_shift(x, y, r.stratum[here[0]], r.stratum[here[1]], level)
            return shift(x, y, level)
        x, y = ([o.responses[r.members[i]] for i in np.flatnonzero(h).tolist()] for h in here)
        return clustered_superiority(x, y, level)

    def _quantile(self, df: int, level: float) -> float:
        """Normal for single cuttings; t where several make one replicate."""
        from scipy.special import stdtrit

        return float(stdtrit(max(1, df), 0.5 + level / 2)) if self.shared else normal_quantile(level)

    def lives(self) -> time_to_root.Lives:
        """Days to root of all cuttings."""
        if self._lives is None:
            self._lives = time_to_root.lives_of(self.observations)
        return self._lives

    def _area(self, a: int, b: int, level: float) -> Difference:
        o, lives = self.observations, self.lives()
        method = "difference of mean rooted-days, pseudo-values"
        if lives.checks.size < 2:
            return Difference(None, None, method)
        categories = lives.categories()
        r = o.layout.replicates
        estimates, variances, sizes = [], [], []
        for arm in (a, b):
            known = o.arm_of_known == arm
            estimates.append(float(time_to_root.areas(categories[known].sum(axis=0), lives.checks)))
            pseudo = np.zeros(known.size)
            pseudo[known] = time_to_root.pseudo_values(categories[known], lives.checks)
            means = np.array([pseudo[m].mean() for m, who in zip(r.members, r.arm, strict=True) if who == arm])
            sizes.append(means.size)
            variances.append(float(means.var(ddof=1)) / means.size if means.size > 1 else 0.0)
        d, half = estimates[0] - estimates[1], self._quantile(sum(sizes) - 2, level) * sqrt(sum(variances))
        if half <= 0 or (self.shared and min(sizes) < 2):
            return Difference(d, None, method)
        return Difference(d, Interval(d - half, d + half, level), method)
