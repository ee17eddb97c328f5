"""Days to root with death as a competing event.

Aalen & Johansen (1978, Scand J Stat 5:141) cumulative proportion rooted; steps at the checks, never past the last one.
Mean rooted-days inside the horizon is the area under it. Intervals of differences of areas by pseudo-values (Andersen, Klein &
Rosthoj 2003, Biometrika 90:15). Discrete cause-specific hazard ratio: complementary log-log on cuttings at checks, one intercept per
check that saw a rooting (Prentice & Gloeckler 1978, Biometrics 34:57).
"""

from __future__ import annotations

import warnings
from dataclasses import dataclass, replace
from math import exp

import numpy as np

from orderly_bench.core.compare.logistic import ModelTest, chi2_test
from orderly_bench.core.compare.observations import Observations, Row
from orderly_bench.core.messages.words import tell
from orderly_bench.core.randomise.hypergeometric import TIE, drawn_from
from orderly_bench.core.randomise.randomisation import NOTHING_RANDOMISED, RandomisationTest, monte_carlo_p
from orderly_bench.core.randomise.shuffled import ShuffledWithin

ROOTED, DEAD, CENSORED = 0, 1, 2
#: A log hazard ratio or its half interval beyond this has no finite estimate (separation).
DIVERGED = 12.0


@dataclass(frozen=True)
class Lives:
    """Cuttings as (what happened, at which check).

    Attributes
    ----------
    checks : ndarray of float, shape (checks,)
        Days of all checks of the file.
    kind : ndarray of int, shape (cuttings,)
        0 rooted, 1 dead, 2 censored.
    at : ndarray of int, shape (cuttings,)
        Index of the check of the event; of the last check still followed for censored ones (-1: none).
    """

    checks: np.ndarray
    kind: np.ndarray
    at: np.ndarray

    def categories(self) -> np.ndarray:
        """One-hot of kind x check, shape (cuttings, 3 x (checks + 1)); censored before any check come first."""
        width = self.checks.size + 1
        table = np.zeros((self.kind.size, 3 * width))
        table[np.arange(self.kind.size), self.kind * width + self.at + 1] = 1
        return table


def lives_of(observations: Observations) -> Lives:
    """Cuttings of the observations, events at the check that found them."""
    rows = observations.known
    days = {d for row in rows for d in (row.last_without_day, row.first_with_day) if d is not None and d > 0}
    checks = np.array(sorted(days))
    kinds = np.array([("rooted", "dead", "censored").index(row.outcome) for row in rows])
    at = np.array([_place(row, checks) for row in rows])
    return Lives(checks, kinds, at)


def looked_apart(observations: Observations, a: int, b: int) -> float | None:
    """A day on which one arm was looked at while the other, not yet settled, was not; None when there is none.

    An arm was looked at on the days its rows name. A day it does not name is known to be missed only where one of its cuttings
    went unseen from before that day until after it.
    """
    rows = [[row for row in observations.known if row.levels == observations.arms[arm]] for arm in (a, b)]
    looked = [{d for row in of for d in (row.last_without_day, row.first_with_day) if d} for of in rows]
    for one, other in ((0, 1), (1, 0)):
        for day in sorted(looked[one] - looked[other]):
            if any(
                (row.last_without_day or 0.0) < day < row.first_with_day
                for row in rows[other]
                if row.first_with_day is not None
            ):
                return day
    return None


def _place(row: Row, checks: np.ndarray) -> int:
    """Index of the check of the event, or of the last check a censored cutting was followed to."""
    if row.outcome == "censored":
        return int(np.searchsorted(checks, row.last_without_day or 0.0, side="right")) - 1
    return int(np.searchsorted(checks, row.first_with_day or 0.0))


def incidence(counts: np.ndarray, checks: int) -> np.ndarray:
    """Aalen-Johansen cumulative proportion rooted.

    Parameters
    ----------
    counts : ndarray, shape (..., 3 x (checks + 1))
        Cuttings by category, any leading shape.
    checks : int

    Returns
    -------
    ndarray, shape (..., checks)
    """
    width = checks + 1
    rooted, dead, censored = (counts[..., k * width : (k + 1) * width] for k in range(3))
    at_risk = counts.sum(axis=-1) - censored[..., 0]
    event_free = np.ones_like(at_risk)
    cumulative = np.zeros_like(at_risk)
    out = np.empty((*counts.shape[:-1], checks))
    for t in range(checks):
        safe = np.maximum(at_risk, 1e-300)
        cumulative = cumulative + event_free * rooted[..., t + 1] / safe
        event_free = event_free * np.where(at_risk > 0, 1 - (rooted[..., t + 1] + dead[..., t + 1]) / safe, 1.0)
        at_risk = at_risk - rooted[..., t + 1] - dead[..., t + 1] - censored[..., t + 1]
        out[..., t] = cumulative
    return out


def areas(counts: np.ndarray, checks: np.ndarray) -> np.ndarray:
    """Mean rooted-days up to the last check."""
    steps = np.diff(checks)
    return incidence(counts, checks.size)[..., :-1] @ steps


def possible_gap(observations: Observations, a: int, b: int) -> tuple[float, float]:
    """Ends of the difference of mean rooted-days of two arms, by the first and the last day on which each cutting could have rooted.

    The first is the day after the last look without roots, the last that of the look that found them. The low end has arm a at
    its last days and arm b at its first, the high end the reverse; both run to the last check of all.
    """
    horizon = float(lives_of(observations).checks[-1])
    first_a, first_b = (_area_of(observations, arm, True, horizon) for arm in (a, b))
    last_a, last_b = (_area_of(observations, arm, False, horizon) for arm in (a, b))
    return last_a - first_b, first_a - last_b


def _area_of(observations: Observations, arm: int, first: bool, horizon: float) -> float:
    """Mean rooted-days of one arm up to a day."""
    alone = observations.only([arm])
    rows = tuple(_at_first(row) for row in alone.rows) if first else alone.rows
    lives = lives_of(replace(alone, rows=rows))
    if not lives.checks.size:
        return 0.0
    cumulative = incidence(lives.categories().sum(axis=0), lives.checks.size)
    return float(cumulative @ np.diff(np.append(lives.checks, horizon)))


def _at_first(row: Row) -> Row:
    """The same cutting, found on the first day on which it could have been."""
    if row.outcome != "rooted" or row.first_with_day is None:
        return row
    return replace(row, first_with_day=min(row.first_with_day, (row.last_without_day or 0.0) + 1.0))


def median_day(cumulative: np.ndarray, checks: np.ndarray) -> float | None:
    """First check at which at least half had rooted; None when not reached."""
    reached = np.flatnonzero(cumulative >= 0.5 - 1e-12)
    return float(checks[reached[0]]) if reached.size else None


def pseudo_values(categories: np.ndarray, checks: np.ndarray) -> np.ndarray:
    """Each cutting's part in its arm's area: n theta - (n - 1) theta without it."""
    total = categories.sum(axis=0)
    n = categories.shape[0]
    found: np.ndarray = n * areas(total, checks) - (n - 1) * areas(total - categories, checks)
    return found


def drawn_areas(
    categories: np.ndarray,
    sizes: list[int],
    rng: np.random.Generator,
    draws: int,
    checks: np.ndarray,
    strata: list[np.ndarray],
) -> np.ndarray:
    """Areas per arm of random assignments of whole cuttings inside strata, shape (draws, arms).

    Parameters
    ----------
    strata : list of ndarray of int
        For each stratum, arm labels of its cuttings in the order of ``categories``' rows given by ``sizes``.
    """
    arms = max(int(labels.max()) for labels in strata) + 1
    totals = np.zeros((draws, arms, categories.shape[1]))
    start = 0
    for size, labels in zip(sizes, strata, strict=True):
        here = categories[start : start + size].sum(axis=0).astype(int)
        kinds = np.flatnonzero(here)
        left = np.tile(here[kinds], (draws, 1))
        for arm in range(arms):
            wanted = int((labels == arm).sum())
            drawn = left if wanted == left[0].sum() else drawn_from(left, wanted, rng)
            totals[:, arm, kinds] += drawn
            left = left - drawn
        start += size
    return areas(totals, checks)


def areas_test(lives: Lives, layout: ShuffledWithin, rng: np.random.Generator, draws: int) -> RandomisationTest:
    """Permute whole cuttings within strata, the Aalen-Johansen areas recomputed each time."""
    categories, arm, stratum = lives.categories(), layout.arm, layout.stratum
    if not any(np.unique(arm[stratum == s]).size > 1 for s in np.unique(stratum)):
        return NOTHING_RANDOMISED
    order = np.argsort(stratum, kind="stable")
    sizes = [int((stratum == s).sum()) for s in np.unique(stratum)]
    strata = [arm[stratum == s] for s in np.unique(stratum)]
    arms = int(arm.max()) + 1
    observed = areas(np.stack([categories[arm == a].sum(axis=0) for a in range(arms)]), lives.checks)
    drawn = drawn_areas(categories[order], sizes, rng, draws, lives.checks, strata)
    if arms == 2:
        statistic = abs(float(observed[0] - observed[1]))
        return monte_carlo_p(int((np.abs(drawn[:, 0] - drawn[:, 1]) >= statistic - TIE).sum()), draws, statistic)
    share = np.bincount(arm) / arm.size
    spread = float((share * (observed - share @ observed) ** 2).sum())
    all_spread = (share * (drawn - (drawn @ share)[:, None]) ** 2).sum(axis=1)
    return monte_carlo_p(int((all_spread >= spread - TIE).sum()), draws, spread)


def _person_checks(lives: Lives, arm: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Cuttings at checks that saw a rooting: rooted there, which check, which arm."""
    seen = np.unique(lives.at[lives.kind == ROOTED])
    y, check, who = [], [], []
    for i in range(lives.kind.size):
        followed = seen[seen <= lives.at[i]]
        y += [float(lives.kind[i] == ROOTED and t == lives.at[i]) for t in followed]
        check += followed.tolist()
        who += [int(arm[i])] * followed.size
    return np.array(y), np.array(check, dtype=int), np.array(who, dtype=int)


@dataclass(frozen=True)
class HazardFit:
    """Log hazard of arms 1.. against arm 0 with covariance, and the likelihood-ratio test; None without a finite fit."""

    effects: np.ndarray
    covariance: np.ndarray
    test: ModelTest

    def ratio(self, a: int, b: int, quantile: float) -> tuple[float, float, float] | None:
        """Hazard of a over hazard of b with its Wald interval; None without a finite fit."""
        if self.effects.size == 0:
            return None
        contrast = np.zeros(self.effects.size)
        contrast[a] += 1
        contrast[b] -= 1
        centre = float(contrast @ self.effects)
        half = quantile * float(np.sqrt(contrast @ self.covariance @ contrast))
        if not np.isfinite(half) or half > DIVERGED:
            return None
        return exp(centre), exp(centre - half), exp(centre + half)


def hazard(lives: Lives, arm: np.ndarray) -> HazardFit:
    """Fit the discrete-time cause-specific hazard of rooting."""
    from statsmodels.genmod.families import Binomial, links
    from statsmodels.genmod.generalized_linear_model import GLM

    name = tell("discrete-time hazard (complementary log-log)")
    arms = int(arm.max()) + 1
    y, check, who = _person_checks(lives, arm)
    rooting = np.array([y[who == a].sum() for a in range(arms)]) if y.size else np.zeros(arms)
    if (rooting == 0).any():
        return HazardFit(np.zeros(0), np.zeros((0, 0)), ModelTest(name, None, arms - 1, None))
    base = (check[:, None] == np.unique(check)[None, :]).astype(float)
    design = np.hstack([base, (who[:, None] == np.arange(1, arms)[None, :]).astype(float)])
    family = Binomial(link=links.CLogLog())
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # a check at which all rooted has no finite intercept; the arms still do
        full, null = (GLM(y, d, family=family).fit(tol=1e-10, maxiter=200) for d in (design, base))
    start = base.shape[1]
    if not np.isfinite(full.params).all() or np.abs(full.params[start:]).max() > DIVERGED:
        return HazardFit(np.zeros(0), np.zeros((0, 0)), ModelTest(name, None, arms - 1, None))
    covariance = np.zeros((arms, arms))
    covariance[1:, 1:] = np.linalg.pinv(_information(design, full.params, y))[start:, start:]
    return HazardFit(
        np.concatenate([[0.0], full.params[start:]]),
        covariance,
        chi2_test(name, float(null.deviance - full.deviance), arms - 1),
    )


def _information(design: np.ndarray, beta: np.ndarray, _y: np.ndarray) -> np.ndarray:
    """Expected information of the complementary log-log model."""
    eta = np.clip(design @ beta, -30, 5)
    hazard_ = np.exp(eta)
    chance = -np.expm1(-hazard_)
    weight = hazard_**2 * np.exp(-hazard_) / np.maximum(chance, 1e-300)
    found: np.ndarray = design.T @ (weight[:, None] * design)
    return found
