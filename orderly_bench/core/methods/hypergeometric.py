"""Exact randomisation test for two arms of single cuttings, in any number of strata.

With the margins of every stratum fixed, the number rooted in arm A is hypergeometric; over blocks
the hypergeometrics are convolved. Two-sided: p = P(|T - E T| >= |t - E T|).
Fisher (1935), *The Design of Experiments*; Lehmann & Romano (2005), *Testing Statistical
Hypotheses*, ch. 5.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

TIE = 1e-9


def log_choose(n: int, k: np.ndarray | int) -> np.ndarray:
    """Logarithm of the binomial coefficient, by log-gamma."""
    from scipy.special import gammaln

    return np.asarray(gammaln(n + 1) - gammaln(np.asarray(k) + 1) - gammaln(n - np.asarray(k) + 1))


#: Of a distribution longer than this only what is above ``SLIGHT`` of its peak is kept: of a million cuttings in 20 blocks less
#: than 1e-33 is dropped, and a p below that is given as that.
LONG = 2_000
SLIGHT = 1e-40


def _trimmed(least: int, probability: np.ndarray) -> tuple[int, np.ndarray]:
    """A long distribution without its slightest ends."""
    if probability.size <= LONG:
        return least, probability
    kept = np.flatnonzero(probability > SLIGHT * probability.max())
    return least + int(kept[0]), probability[kept[0] : kept[-1] + 1]


@lru_cache(maxsize=4096)
def _one_stratum(rooted: int, stuck: int, stuck_a: int) -> tuple[int, np.ndarray]:
    """Least possible total in arm A and the probabilities from there on."""
    least = max(0, rooted - (stuck - stuck_a))
    most = min(rooted, stuck_a)
    k = np.arange(least, most + 1)
    log_ways = log_choose(stuck_a, k) + log_choose(stuck - stuck_a, rooted - k) - log_choose(stuck, rooted)
    return _trimmed(least, np.exp(log_ways))


def distribution_of_total(rooted: np.ndarray, stuck: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Randomisation distribution of the number rooted in the first arm.

    Parameters
    ----------
    rooted, stuck : ndarray of int, shape (strata, 2)
        Counts per stratum for the two arms.

    Returns
    -------
    totals, probability : ndarray
        Every possible total of arm A and its probability.
    """
    least, probability = 0, np.ones(1)
    for (k_a, k_b), (n_a, n_b) in zip(rooted.tolist(), stuck.tolist(), strict=True):
        start, here = _one_stratum(k_a + k_b, n_a + n_b, n_a)
        least += start
        least, probability = _trimmed(least, np.convolve(probability, here))
    return least + np.arange(probability.size), probability


def two_sided_p(rooted: np.ndarray, stuck: np.ndarray) -> float:
    """Two-sided exact p for two arms.

    Parameters
    ----------
    rooted, stuck : ndarray of int, shape (strata, 2)

    Notes
    -----
    All or none rooted in every stratum: nothing varies, p = 1. An arm absent from a stratum adds
    nothing there. Ties within 1e-9 count as hits.
    """
    totals, probability = distribution_of_total(rooted, stuck)
    # From the counts themselves: summed up from the probabilities it would be out by more than a tie may be.
    expected = float((rooted.sum(axis=1) * stuck[:, 0] / np.maximum(1, stuck.sum(axis=1))).sum())
    observed = float(rooted[:, 0].sum())
    hits = np.abs(totals - expected) >= abs(observed - expected) - TIE
    return float(min(1.0, max(SLIGHT, probability[hits].sum())))


def drawn_from(left: np.ndarray, wanted: int, rng: np.random.Generator) -> np.ndarray:
    """Draw ``wanted`` things without replacement from each row of counts per kind, shape of ``left`` (draws, kinds)."""
    drawn = np.zeros_like(left)
    remaining = np.full(left.shape[0], wanted)
    rest = left.sum(axis=1)
    for k in range(left.shape[1]):
        rest = rest - left[:, k]
        drawn[:, k] = rng.hypergeometric(left[:, k], rest, remaining)
        remaining = remaining - drawn[:, k]
    return drawn
