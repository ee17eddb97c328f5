"""How big: the effect between two arms with its interval, per response and layout; no interval collapses."""

from __future__ import annotations

from collections.abc import Callable
from math import sqrt

import numpy as np

from orderly_bench.core.compare import negative_binomial, time_to_root
from orderly_bench.core.compare.clusters import design_effects, rate_interval
from orderly_bench.core.compare.difference import Difference, mantel_haenszel, newcombe
from orderly_bench.core.compare.hodges_lehmann import shift, stratified_shift
from orderly_bench.core.compare.linear import ArmFit, fit_arms
from orderly_bench.core.compare.observations import Observations
from orderly_bench.core.compare.paired import newcombe_paired
from orderly_bench.core.compare.rates import Interval, normal_quantile
from orderly_bench.core.compare.responses import Response
from orderly_bench.core.compare.superiority import stratified_superiority, superiority

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

    def between(self, a: int, b: int) -> Effect:
        """The effect of arm a against arm b, at any confidence level."""
        if self.response is Response.ROOT_COUNT:
            return lambda level: self._ratio(a, b, level)
        if self.response is Response.DAYS:
            return lambda level: self._area(a, b, level)
        if self.response in (Response.LONGEST, Response.QUALITY):
            return lambda level: self._ranked(a, b, level)
        return self._rate_difference(a, b)

    def _rate_difference(self, a: int, b: int) -> Effect:
        o = self.observations
        if o.latin or o.incomplete or o.clustered or o.split:
            return lambda level: self._unit_difference(a, b, level)
        both = [a, b]
        rooted, stuck = o.rooted[:, both], o.stuck[:, both]
        if o.paired:
            return lambda level: _paired(rooted, stuck, level)
        if o.blocks:
            return lambda level: mantel_haenszel(rooted, stuck, level)
        (k_a, k_b), (n_a, n_b) = rooted.sum(axis=0).tolist(), stuck.sum(axis=0).tolist()
        return lambda level: newcombe(k_a, n_a, k_b, n_b, level)

    def linear(self) -> ArmFit:
        """The linear model on unit proportions, with the layout's groups."""
        if self._linear is None:
            o, units = self.observations, self.observations.units
            firsts = [m[0] for m in units.members]
            groups = [units.stratum] if o.blocks else []
            if o.latin:
                groups = [o.group_index(lambda r: r.row)[firsts], o.group_index(lambda r: r.column)[firsts]]
            if o.split:
                return self._split_fit(o.group_index(lambda r: r.whole_plot)[firsts])
            self._linear = fit_arms(units.mean, units.arm, groups)
        return self._linear

    def _split_fit(self, plot: np.ndarray) -> ArmFit:
        """Arm means of whole plots: between-plot variation is in the residual, so intervals are wide rather than false."""
        units = self.observations.units
        keys = np.unique(np.column_stack([plot, units.arm]), axis=0)
        means = np.array([units.mean[(plot == p) & (units.arm == a)].mean() for p, a in keys])
        self._linear = fit_arms(means, keys[:, 1], [])
        return self._linear

    def _unit_difference(self, a: int, b: int, level: float) -> Difference:
        o, units, fitted = self.observations, self.observations.units, self.linear()
        method = "linear model on unit means, t interval"
        if o.latin or o.incomplete:
            estimate = fitted.difference(a, b)[0]
        else:
            estimate = float(units.mean[units.arm == a].mean() - units.mean[units.arm == b].mean())
        if min((units.arm == a).sum(), (units.arm == b).sum()) < 2:
            return Difference(estimate, None, method)
        half = fitted.t_half_width(a, b, level)
        if half is None or fitted.variance <= NO_VARIANCE:
            return self._squared_and_added(a, b, estimate, level)
        low, high = max(-1.0, estimate - half), min(1.0, estimate + half)
        return Difference(max(-1.0, min(1.0, estimate)), Interval(low, high, level), method)

    def _squared_and_added(self, a: int, b: int, estimate: float, level: float) -> Difference:
        """No unit varies: Newcombe's square-and-add of the arms' Rao-Scott limits, around the difference of k/n."""
        units = self.observations.units
        effects = design_effects(units, len(self.observations.arms))
        ends = [rate_interval(units, arm, effects, level) for arm in (a, b)]
        if ends[0] is None or ends[1] is None:
            return Difference(estimate, None, "square-and-add")
        p = [float(units.total[units.arm == arm].sum() / units.cuttings[units.arm == arm].sum()) for arm in (a, b)]
        d = p[0] - p[1]
        low = d - sqrt((p[0] - ends[0].low) ** 2 + (ends[1].high - p[1]) ** 2)
        high = d + sqrt((ends[0].high - p[0]) ** 2 + (p[1] - ends[1].low) ** 2)
        return Difference(
            estimate,
            Interval(max(-1.0, low), min(1.0, high), level),
            "square-and-add of Rao-Scott limits (Newcombe 1998)",
        )

    def counts(self) -> tuple[negative_binomial.NegativeBinomial, list[int], int]:
        """The negative binomial of arms with a root, those arms, and the residual degrees of freedom."""
        if self._counts is None:
            units = self.observations.units
            rooting = [a for a in range(len(self.observations.arms)) if units.total[units.arm == a].sum() > 0]
            kept = np.isin(units.arm, rooting)
            arm = np.searchsorted(rooting, units.arm[kept])
            model = negative_binomial.fit(units.total[kept], units.cuttings[kept], arm)
            self._counts = model, rooting, int(kept.sum()) - len(rooting)
        return self._counts

    def _ratio(self, a: int, b: int, level: float) -> Difference:
        from scipy.special import stdtrit

        method = "ratio of means (negative binomial)"
        totals = [self.observations.units.total[self.observations.units.arm == arm].sum() for arm in (a, b)]
        if min(totals) == 0:
            return Difference(None, None, method)
        model, rooting, df = self.counts()
        if model.theta is None:
            method = "ratio of means (Poisson)"
        quantile = normal_quantile(level)
        if self.observations.clustered:
            if df < 1:
                return Difference(None, None, method)
            quantile = float(stdtrit(df, 0.5 + level / 2))
        centre, low, high = negative_binomial.ratio(model, rooting.index(a), rooting.index(b), quantile)
        return Difference(centre, Interval(low, high, level), method)

    def _ranked(self, a: int, b: int, level: float) -> Difference:
        o = self.observations
        if o.clustered and self.response is Response.LONGEST:
            return shift(o.units.mean[o.units.arm == a], o.units.mean[o.units.arm == b], level)
        x, y = (o.responses[o.arm_of_known == arm] for arm in (a, b))
        strata_x, strata_y = (o.stratum_of_known[o.arm_of_known == arm] for arm in (a, b))
        if self.response is Response.LONGEST:
            return stratified_shift(x, y, strata_x, strata_y, level) if o.blocks else shift(x, y, level)
        return stratified_superiority(x, y, strata_x, strata_y, level) if o.blocks else superiority(x, y, level)

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
        estimates, variances = [], []
        for arm in (a, b):
            here = categories[o.arm_of_known == arm]
            estimates.append(float(time_to_root.areas(here.sum(axis=0), lives.checks)))
            pseudo = time_to_root.pseudo_values(here, lives.checks)
            variances.append(float(pseudo.var(ddof=1)) / pseudo.size if pseudo.size > 1 else 0.0)
        d, half = estimates[0] - estimates[1], normal_quantile(level) * sqrt(sum(variances))
        if half <= 0:
            return Difference(d, None, method)
        return Difference(d, Interval(d - half, d + half, level), method)


def _paired(rooted: np.ndarray, stuck: np.ndarray, level: float) -> Difference:
    whole = (stuck == 1).all(axis=1)
    first, second = rooted[whole, 0] == 1, rooted[whole, 1] == 1
    both, neither = int((first & second).sum()), int((~first & ~second).sum())
    return newcombe_paired(both, int((first & ~second).sum()), int((~first & second).sum()), neither, level)
