"""One question over several trials: differences of rates, combined with a variance between trials.

References
----------
Viechtbauer W (2005) J Educ Behav Stat 30:261-293, restricted maximum likelihood.
Hartung J & Knapp G (2001) Stat Med 20:3875-3889; the factor held to at least 1 after Röver, Knapp & Friede (2015).
Higgins JPT & Thompson SG (2002) Stat Med 21:1539-1558, I2 by the typical within variance.
Higgins JPT, Thompson SG & Spiegelhalter DJ (2009) J R Stat Soc A 172:137-159, the range for a next trial.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.difference import newcombe

#: A p of Q below this, as usual for so weak a test, is said to be a disagreement.
DISAGREE = 0.10
#: Below so many trials the variance between them is a guess.
FEW = 5


@dataclass(frozen=True)
class ArmOfTrial:
    """One arm of one trial: ``k`` of ``n`` came to it; ``n_effective`` what the units were worth as single cuttings."""

    k: int
    n: int
    n_effective: float | None = None

    @property
    def worth(self) -> float:
        """Cuttings that its rate rests on."""
        return float(self.n) if self.n_effective is None else self.n_effective


@dataclass(frozen=True)
class OneTrial:
    """A trial's difference with its variance, its weight in the mean (shares of 1), and whether halves were added."""

    name: str
    first: ArmOfTrial
    second: ArmOfTrial
    difference: float
    variance: float
    halves: bool
    weight: float

    @property
    def rates(self) -> tuple[float, float]:
        """As counted, nothing added."""
        return self.first.k / self.first.n, self.second.k / self.second.n


@dataclass(frozen=True)
class Combined:
    """First arm minus second over all trials, 0 to 1; ``i2`` in per cent. With one trial there is nothing between trials."""

    estimate: float
    ci_low: float
    ci_high: float
    tau2: float | None
    i2: float | None
    q: float
    q_p: float
    prediction_low: float | None
    prediction_high: float | None
    factor: float | None
    trials: tuple[OneTrial, ...]

    @property
    def disagree(self) -> bool:
        """Trials differ by more than their own chance, or point different ways where the mean's interval leaves zero out."""
        signs = {one.difference > 0 for one in self.trials if one.difference}
        return self.q_p < DISAGREE or (len(signs) > 1 and (self.ci_low > 0 or self.ci_high < 0))

    @property
    def cautions(self) -> list[str]:
        """What is to be minded with the mean, the weightiest first."""
        few = 1 < len(self.trials) < FEW
        single = any(arm.n_effective is None for one in self.trials for arm in (one.first, one.second))
        said = [
            (self.disagree, _("The trials disagree: what the mean says need not hold where the next one stands.")),
            (len(self.trials) == 1, _("One trial: nothing can be said of what varies between trials.")),
            (few, _("{n} trials: how much they vary is hardly known.", n=len(self.trials))),
            (
                any(one.halves for one in self.trials),
                _("Where an arm had none or all, 1/2 was added to each of the trial's four counts."),
            ),
            (single, _("Read as single cuttings: where cuttings share a pot or tray, give n_effective.")),
        ]
        return [words for holds, words in said if holds]


def combine(trials: Sequence[tuple[str, ArmOfTrial, ArmOfTrial]], level: float = 0.95) -> Combined:
    """Combine differences, first arm minus second.

    Parameters
    ----------
    trials : sequence of (name, first arm, second arm)
        At least one; the order does not matter.
    level : float
        Of the intervals.

    Returns
    -------
    Combined
        Random effects by restricted maximum likelihood; interval by Hartung and Knapp with t on trials - 1, its factor at least 1.
        One trial: Newcombe's interval.

    Raises
    ------
    UnusableData
        No trial, or a name that comes twice.
    """
    from scipy.stats import chi2, t

    if not trials:
        raise UnusableData(_("there is no trial"), _("Give a row for each arm of each trial"))
    names = [name for name, _, _ in trials]
    if len(set(names)) < len(names):
        twice = next(name for name in names if names.count(name) > 1)
        raise UnusableData(_("trial {name} comes twice", name=twice), _("Name every trial once"))
    if len(trials) == 1:
        return _alone(*trials[0], level)
    found = [_difference(first, second) for _, first, second in trials]
    y, v = np.array([one[0] for one in found]), np.array([one[1] for one in found])
    between = _reml(y, v)
    weights = 1 / (v + between)
    mean, more = float(weights @ y / weights.sum()), len(y) - 1
    factor = max(1.0, float(weights @ (y - mean) ** 2) / more)
    se = sqrt(factor / weights.sum())
    fixed = 1 / v
    q = float(fixed @ (y - fixed @ y / fixed.sum()) ** 2)
    typical = more * fixed.sum() / (fixed.sum() ** 2 - (fixed**2).sum())
    reach = float(t.ppf((1 + level) / 2, more))
    ahead = reach * sqrt(between + se**2)
    told = tuple(
        OneTrial(name, first, second, difference, variance, halves, float(weight / weights.sum()))
        for (name, first, second), (difference, variance, halves), weight in zip(trials, found, weights, strict=True)
    )
    return Combined(
        mean, mean - reach * se, mean + reach * se, between, float(100 * between / (between + typical)), q,
        float(chi2.sf(q, more)), mean - ahead, mean + ahead, factor, told,
    )  # fmt: skip


def _alone(name: str, first: ArmOfTrial, second: ArmOfTrial, level: float) -> Combined:
    rates = first.k / first.n, second.k / second.n
    alone = newcombe(rates[0] * first.worth, first.worth, rates[1] * second.worth, second.worth, level).interval
    assert alone is not None
    variance = sum(rate * (1 - rate) / arm.worth for rate, arm in zip(rates, (first, second), strict=True))
    one = OneTrial(name, first, second, rates[0] - rates[1], variance, False, 1.0)
    return Combined(one.difference, alone.low, alone.high, None, None, 0.0, 1.0, None, None, None, (one,))


def _difference(first: ArmOfTrial, second: ArmOfTrial) -> tuple[float, float, bool]:
    """Difference, its variance, and whether 1/2 was added to each of the four counts: done where an arm has none or all."""
    halves = any(arm.k in (0, arm.n) for arm in (first, second))
    more = 0.5 if halves else 0.0
    worth = [arm.worth + 2 * more for arm in (first, second)]
    rates = [(arm.k / arm.n * arm.worth + more) / n for arm, n in zip((first, second), worth, strict=True)]
    variance = sum(rate * (1 - rate) / n for rate, n in zip(rates, worth, strict=True))
    return rates[0] - rates[1], variance, halves


def _reml(y: np.ndarray, v: np.ndarray) -> float:
    """Variance between trials that makes the restricted likelihood largest; 0 where it only falls."""
    from scipy.optimize import minimize_scalar

    # The top is flat, so where it is found hangs on the last digit of the sums: they are taken in one order, however the trials come.
    order = np.lexsort((np.abs(y), v))
    y, v = y[order], v[order]

    def against(tau2: float) -> float:
        weights = 1 / (v + tau2)
        mean = weights @ y / weights.sum()
        return float(0.5 * (-np.log(weights).sum() + np.log(weights.sum()) + weights @ (y - mean) ** 2))

    most = float(np.ptp(y) ** 2 + v.max())
    steps = np.concatenate([[0.0], np.geomspace(most * 1e-8, most, 400)])
    best = int(np.argmin([against(step) for step in steps]))
    low, high = steps[max(0, best - 1)], steps[min(len(steps) - 1, best + 1)]
    found = minimize_scalar(against, bounds=(low, high), method="bounded", options={"xatol": 1e-12})
    return float(found.x) if found.fun < against(0.0) else 0.0
