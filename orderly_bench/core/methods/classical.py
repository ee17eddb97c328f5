"""Other lenses: the textbook tests (Agresti 2013, *Categorical Data Analysis*; Hollander, Wolfe & Chicken 2014)."""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite

import numpy as np

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.hodges_lehmann import exact_p
from orderly_bench.core.methods.hypergeometric import log_choose
from orderly_bench.core.methods.quadratic_form import cmh_statistic
from orderly_bench.core.methods.superiority import block_scores, mid_ranks


@dataclass(frozen=True)
class Classical:
    """A textbook test; ``chi2`` None where it has none."""

    chi2: float | None
    p: float | None

    def __post_init__(self) -> None:
        """A statistic that did not come out finite is none: that is what None means here."""
        for name in ("chi2", "p"):
            value = getattr(self, name)
            if value is not None and not isfinite(value):
                object.__setattr__(self, name, None)


def fisher(rooted: np.ndarray, stuck: np.ndarray) -> Classical:
    """Fisher's exact test of two arms, ordered by point probability (relative tolerance 1e-7)."""
    (k_a, k_b), (n_a, n_b) = rooted.tolist(), stuck.tolist()
    total = k_a + k_b
    k = np.arange(max(0, total - n_b), min(total, n_a) + 1)
    chance = np.exp(log_choose(n_a, k) + log_choose(n_b, total - k) - log_choose(n_a + n_b, total))
    observed = chance[k == k_a][0]
    return Classical(None, float(min(1.0, chance[chance <= observed * (1 + 1e-7)].sum())))


#: Beyond this many an arm the search over the nuisance rate takes long and gives what the others give.
MOST_UNCONDITIONAL = 100


def boschloo(rooted: np.ndarray, stuck: np.ndarray) -> Classical | None:
    """Boschloo's unconditional exact test of two arms (1970, Stat Neerl 24:1); None beyond 100 an arm or when nothing varies.

    It supposes two independent samples, where the draw fixes who could have rooted; so it is a lens and not the test.
    """
    from scipy.stats import boschloo_exact

    if stuck.max() > MOST_UNCONDITIONAL or rooted.sum() in (0, stuck.sum()):
        return None
    return Classical(None, float(boschloo_exact(np.array([rooted, stuck - rooted])).pvalue))


def pearson(rooted: np.ndarray, stuck: np.ndarray) -> Classical:
    """Pearson's chi-square without continuity correction; None when all or none rooted."""
    from scipy.special import chdtrc

    rate = rooted.sum() / stuck.sum()
    if rate in (0.0, 1.0):
        return Classical(None, None)
    chi2 = float(((rooted - rate * stuck) ** 2 / (rate * (1 - rate) * stuck)).sum())
    return Classical(chi2, float(chdtrc(rooted.size - 1, chi2)))


def mcnemar(rooted: np.ndarray, stuck: np.ndarray) -> dict[str, Classical]:
    """McNemar's chi-square of pairs, without and with the continuity correction (McNemar 1947, Psychometrika 12:153; Edwards 1948).

    Only pairs in which one rooted and the other did not speak; none of those, no test.
    """
    from scipy.special import chdtrc

    whole = (stuck == 1).all(axis=1)
    first, second = (int(((rooted[whole, i] == 1) & (rooted[whole, 1 - i] == 0)).sum()) for i in (0, 1))
    if first + second == 0:
        return {}
    found = {}
    for name, correction in (
        (_("mcnemar, chi-square"), 0),
        (_("mcnemar, chi-square with continuity correction"), 1),
    ):
        chi2 = max(0, abs(first - second) - correction) ** 2 / (first + second)
        found[name] = Classical(chi2, float(chdtrc(1, chi2)))
    return found


def cmh(rooted: np.ndarray, stuck: np.ndarray) -> Classical:
    """Cochran-Mantel-Haenszel without continuity correction, any number of arms; None when nothing varies."""
    from scipy.special import chdtrc

    chi2, df = cmh_statistic(rooted, stuck)
    if df < 1 or (not chi2 > 0 and rooted.sum() in (0, stuck.sum())):
        return Classical(None, None)
    return Classical(chi2, float(chdtrc(df, chi2)))


def kruskal(values: np.ndarray, arm: np.ndarray) -> Classical:
    """Kruskal-Wallis, tie corrected; None when all values are alike."""
    from scipy.special import chdtrc

    ranks = mid_ranks(values)
    n = values.size
    spread = float(((ranks - (n + 1) / 2) ** 2).sum())
    if spread == 0:
        return Classical(None, None)
    arms = int(arm.max()) + 1
    between = sum(float((arm == a).sum() * (ranks[arm == a].mean() - (n + 1) / 2) ** 2) for a in range(arms))
    chi2 = between / (spread / (n - 1))
    return Classical(chi2, float(chdtrc(arms - 1, chi2)))


def wilcoxon(a: np.ndarray, b: np.ndarray) -> Classical:
    """Wilcoxon rank sum of two arms: exact without ties below 50 a side, else normal, tie and continuity corrected."""
    from scipy.special import ndtr

    both = np.concatenate([a, b])
    if np.unique(both).size == both.size and max(a.size, b.size) < 50:
        return Classical(None, exact_p(a, b))
    ranks = mid_ranks(both)
    w = float(ranks[: a.size].sum()) - a.size * (a.size + 1) / 2
    _, counts = np.unique(both, return_counts=True)
    n = both.size
    variance = a.size * b.size / 12 * ((n + 1) - float((counts**3 - counts).sum()) / (n * (n - 1)))
    if variance <= 0:
        return Classical(None, None)
    z = w - a.size * b.size / 2
    z = (z - np.sign(z) * 0.5) / np.sqrt(variance)
    return Classical(None, float(min(1.0, 2 * ndtr(-abs(z)))))


def van_elteren(values: np.ndarray, arm: np.ndarray, strata: np.ndarray) -> Classical:
    """Stratified rank test with van Elteren's weights, no continuity correction; any number of arms."""
    from scipy.special import chdtrc

    from orderly_bench.core.methods.permutation import form

    arms = int(arm.max()) + 1
    observed, expected, inverse = form(block_scores(values, strata), arm, strata, arms)
    away = observed - expected
    chi2 = float(away @ inverse @ away)
    return Classical(chi2, float(chdtrc(arms - 1, chi2)))
