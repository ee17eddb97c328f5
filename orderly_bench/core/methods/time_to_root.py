"""Days to root with death as a competing event.

Aalen & Johansen (1978, Scand J Stat 5:141) cumulative proportion rooted; steps at the checks, never past the last one.
Mean rooted-days inside the horizon is the area under it. Intervals of differences of areas by pseudo-values (Andersen, Klein &
Rosthoj 2003, Biometrika 90:15). Discrete cause-specific hazard ratio: complementary log-log on cuttings at checks, one intercept per
check that saw a rooting (Prentice & Gloeckler 1978, Biometrics 34:57).
"""

from __future__ import annotations

import warnings
from collections.abc import Callable
from dataclasses import dataclass
from math import exp

import numpy as np

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import permutation
from orderly_bench.core.methods.hypergeometric import TIE, drawn_from
from orderly_bench.core.methods.logistic import ModelTest, chi2_test
from orderly_bench.core.methods.randomisation import NOTHING_RANDOMISED, RandomisationTest, monte_carlo_p
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


#: Assignments x units worked on at once.
CHUNK = 2_000_000


def areas_test(lives: Lives, layout: ShuffledWithin, rng: np.random.Generator, draws: int) -> RandomisationTest:
    """Permute whole cuttings within strata, the areas worked out anew inside each.

    Two arms: T is the difference of their areas inside the strata, weighted by n_a n_b / (n_a + n_b), less its mean over the draw,
    which those who leave early move. More: the sum of squares of the arms' totals about theirs.

    Notes
    -----
    Nobody leaves before the last check: each cutting has its own rooted-days, and their sums are counted out. Else up to 200,000
    assignments are listed, the means being those of the list; beyond, of the draws.
    """
    arm, stratum = layout.arm, layout.stratum
    mixed = [s for s in np.unique(stratum) if np.unique(arm[stratum == s]).size > 1]
    if not mixed:
        return NOTHING_RANDOMISED
    if not ((lives.kind == CENSORED) & (lives.at < lives.checks.size - 1)).any():
        own = np.where(lives.kind == ROOTED, lives.checks[-1] - lives.checks[np.maximum(0, lives.at)], 0.0)
        return permutation.test(own, layout, rng, draws)
    kept = np.isin(stratum, mixed)
    categories, arm = lives.categories()[kept], arm[kept]
    inside = ShuffledWithin(arm, np.searchsorted(mixed, stratum[kept]))
    totals = _WeightedAreas(categories, inside, lives.checks)
    observed = totals.of_labels(arm[None, :])[0]
    every = inside.every()
    if every is None:
        drawn = totals.drawn(rng, draws)
    else:
        step = max(1, CHUNK // arm.size)
        drawn = np.concatenate([totals.of_labels(every[k : k + step]) for k in range(0, every.shape[0], step)])
    away, all_away = observed - drawn.mean(axis=0), drawn - drawn.mean(axis=0)
    if observed.size == 1:
        statistic, found = abs(float(away[0])), np.abs(all_away[:, 0])
        direction = float(away[0])
    else:
        sizes = np.bincount(arm)
        statistic, found, direction = float((away**2 / sizes).sum()), (all_away**2 / sizes).sum(axis=1), None
    hits = int((found >= statistic - TIE).sum())
    if every is not None:
        return RandomisationTest(hits / found.size, True, None, statistic, direction)
    return monte_carlo_p(hits, draws, statistic, direction)


class _WeightedAreas:
    """Areas inside strata under any assignment: of two arms their weighted difference, of more each arm's total.

    Parameters
    ----------
    categories : ndarray, shape (cuttings, categories)
    layout : ShuffledWithin
        Every stratum holds two arms at least.
    checks : ndarray
    """

    def __init__(self, categories: np.ndarray, layout: ShuffledWithin, checks: np.ndarray) -> None:
        self.categories, self.checks = categories, checks
        self.counts = layout.counts
        self.members = [np.flatnonzero(layout.stratum == s) for s in range(self.counts.shape[0])]

    def of_labels(self, labels: np.ndarray) -> np.ndarray:
        """Of assignments given by the arm of each cutting, shape (assignments, cuttings)."""

        def held(stratum: int, arm: int) -> np.ndarray:
            here = self.members[stratum]
            counted: np.ndarray = (labels[:, here] == arm).astype(float) @ self.categories[here]
            return counted

        return self._together(labels.shape[0], held)

    def drawn(self, rng: np.random.Generator, draws: int) -> np.ndarray:
        """Of random assignments: how many of each category an arm gets is hypergeometric."""
        kept: dict[tuple[int, int], np.ndarray] = {}
        for s, here in enumerate(self.members):
            whole = self.categories[here].sum(axis=0).astype(int)
            kinds = np.flatnonzero(whole)
            left = np.tile(whole[kinds], (draws, 1))
            for arm, wanted in enumerate(self.counts[s].tolist()):
                taken = left if wanted == left[0].sum() else drawn_from(left, wanted, rng)
                kept[s, arm] = np.zeros((draws, whole.size))
                kept[s, arm][:, kinds] = taken
                left = left - taken
        return self._together(draws, lambda s, arm: kept[s, arm])

    def _together(self, assignments: int, held: Callable[[int, int], np.ndarray]) -> np.ndarray:
        arms = self.counts.shape[1]
        if arms == 2:
            weight = self.counts.prod(axis=1) / self.counts.sum(axis=1)
            found = np.zeros((assignments, 1))
            for s in np.flatnonzero(weight > 0).tolist():
                found[:, 0] += weight[s] * (areas(held(s, 0), self.checks) - areas(held(s, 1), self.checks))
            return np.asarray(found / weight.sum())
        found = np.zeros((assignments, arms))
        for s, arm in np.argwhere(self.counts > 0).tolist():
            found[:, arm] += self.counts[s, arm] * areas(held(s, arm), self.checks)
        return found


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

    name = _("discrete-time hazard (complementary log-log)")
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
