"""Agreement of two scorers: Cohen's kappa, weighted for ordered scales (Cohen 1960, Educ Psychol Meas 20:37; 1968, Psychol Bull 70:213)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.table import natural_key

WEIGHTS = ("none", "linear", "quadratic")


@dataclass(frozen=True)
class Crossed:
    """What two scorers said of the same cuttings: ``counts[i, j]`` of class i by the first and j by the second, classes in natural order."""

    classes: tuple[str, ...]
    counts: np.ndarray
    left_out: int

    @property
    def alike(self) -> int:
        """Cuttings of which both said the same."""
        return int(np.trace(self.counts))


def crossed(first: Sequence[str], second: Sequence[str]) -> Crossed:
    """Both scores of each cutting, counted; where one is blank the cutting is left out.

    >>> crossed(["2", "3", "", "3"], ["2", "2", "1", "3"]).counts.tolist()
    [[1, 0], [1, 1]]
    """
    both = [(a.strip(), b.strip()) for a, b in zip(first, second, strict=True)]
    known = [pair for pair in both if all(pair)]
    classes = sorted({said for pair in known for said in pair}, key=natural_key)
    counts = np.zeros((len(classes), len(classes)), dtype=int)
    for a, b in known:
        counts[classes.index(a), classes.index(b)] += 1
    return Crossed(tuple(classes), counts, len(both) - len(known))


def kappa(table: np.ndarray, weights: str = "none") -> float | None:
    """Kappa of a square table of counts, first scorer by rows.

    Returns
    -------
    float or None
        1 is full agreement, 0 what chance would give; None when chance alone agrees fully (one class used).
    """
    counts = np.asarray(table, dtype=float)
    if counts.ndim != 2 or counts.shape[0] != counts.shape[1] or counts.shape[0] < 2:
        raise InvalidInput("table", _("must be square with two classes or more: '20,5;10,15'"), str(counts.shape))
    if (counts < 0).any() or (counts != np.floor(counts)).any() or counts.sum() == 0:
        raise InvalidInput("table", _("must hold whole counts from 0 up, not all 0"))
    if weights not in WEIGHTS:
        raise InvalidInput("weights", _("must be {names}", names=", ".join(WEIGHTS)), weights)
    r = counts.shape[0]
    away = np.abs(np.arange(r)[:, None] - np.arange(r)[None, :]) / (r - 1)
    agreement = {"none": (away == 0).astype(float), "linear": 1 - away, "quadratic": 1 - away**2}[weights]
    share = counts / counts.sum()
    observed = float((agreement * share).sum())
    expected = float((agreement * np.outer(share.sum(axis=1), share.sum(axis=0))).sum())
    return None if expected >= 1 - 1e-15 else (observed - expected) / (1 - expected)
