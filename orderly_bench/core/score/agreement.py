"""Agreement of two scorers: Cohen's kappa, weighted for ordered scales (Cohen 1960, Educ Psychol Meas 20:37; 1968, Psychol Bull 70:213)."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _

WEIGHTS = ("none", "linear", "quadratic")


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
