"""Each arm against the control by the studentised maximum over the layout's redraws (Westfall & Young 1993, *Resampling-Based
Multiple Testing*, ch. 2).

One redraw serves all comparisons, so that how they hang together through the control is used, where Holm's correction must not. The
differences are studentised by each arm's own variance: with one arm like the control among strong ones the false alarms stayed
below 5 % in simulation (five arms of 20; control of 40), so it may be planned in Holm's place.
"""

from __future__ import annotations

import numpy as np

from orderly_bench.core.methods.hypergeometric import TIE
from orderly_bench.core.randomise.shuffled import ShuffledWithin

CHUNK = 4_000_000


def adjusted(
    values: np.ndarray, layout: ShuffledWithin, control: int, rng: np.random.Generator, draws: int
) -> dict[int, float]:
    """Adjusted p of every other arm against the control, (1 + hits) / (1 + draws).

    Parameters
    ----------
    values : ndarray of float, shape (units,)
        Means of the units.
    layout : ShuffledWithin
        Labels shuffled within blocks.
    control : int
        The control's label.
    """
    observed = _studentised(values, layout.arm[None, :], control)[0]
    others = [arm for arm in range(observed.size) if arm != control]
    hits = np.zeros(len(others))
    step = max(1, CHUNK // values.size)
    for start in range(0, draws, step):
        drawn = _studentised(values, layout.redraw(rng, min(step, draws - start)), control)
        most = drawn[:, others].max(axis=1)
        hits += (most[:, None] >= observed[others] - TIE).sum(axis=0)
    return {arm: float((1 + h) / (1 + draws)) for arm, h in zip(others, hits, strict=True)}


def _studentised(values: np.ndarray, labels: np.ndarray, control: int) -> np.ndarray:
    """|difference of means| over its standard error, shape (draws, arms).

    An arm whose units are all alike borrows a little spread: half a unit's worth of the whole spread, so that none is 0.
    """
    arms = int(labels.max()) + 1
    spread = float(values.var())
    is_arm = (labels[:, :, None] == np.arange(arms)).astype(float)
    counts = is_arm.sum(axis=1)
    totals, squares = (np.einsum("u,dua->da", of, is_arm) for of in (values, values**2))
    means = (totals + values.mean() / 2) / (counts + 0.5)
    variance = (np.maximum(0.0, squares - totals**2 / counts) + spread / 2) / counts
    error = np.sqrt(variance / counts + (variance / counts)[:, [control]])
    with np.errstate(invalid="ignore", divide="ignore"):
        found = np.abs(means - means[:, [control]]) / error
    return np.where(error > 0, found, 0.0)
