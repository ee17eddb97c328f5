"""Looks before the end that were planned: they share alpha, so that looking often makes no false alarms.

Look j of K may spend up to the O'Brien-Fleming share of alpha at j/K, 2 - 2 Phi(z / sqrt(j/K)) (Lan & DeMets 1983, Biometrika 70:659).
The critical values come from one joint redraw of the layout for all looks: a cutting keeps its outcomes at every check and only its
arm is drawn again, which is how the looks hang together.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import floor, sqrt

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.hypergeometric import TIE
from orderly_bench.core.randomise.drawn_layout import DrawnLayout

MOST_LOOKS = 12
STEPS = 10_000
#: Cells of a table of draws x units worked on at once.
CHUNK = 4_000_000


@dataclass(frozen=True)
class Look:
    """One planned look.

    Attributes
    ----------
    spent : float
        Alpha that may be spent up to here.
    level : float
        The greatest p of this look alone that is a result; 0 where none is.
    below : float
        The least p of this look that is none: a result lies below it.
    p : float
        This look's own p, every redraw counted.
    result : bool
        Whether it is one.
    """

    spent: float
    level: float
    below: float
    p: float
    result: bool


def spent(alpha: float, look: int, looks: int) -> float:
    """Alpha that may be spent up to a look.

    >>> [round(spent(0.05, j, 4), 4) for j in (1, 2, 3, 4)]
    [0.0001, 0.0056, 0.0236, 0.05]
    """
    from scipy.special import ndtr, ndtri

    if not 1 <= look <= looks <= MOST_LOOKS:
        raise InvalidInput(
            "look", _("must be one of at most {most_looks}, from the first on", most_looks=MOST_LOOKS), look
        )
    return float(2 - 2 * ndtr(ndtri(1 - alpha / 2) / sqrt(look / looks)))


def left_for_end(alpha: float, looks: int) -> float:
    """Alpha that is left for the end after so many planned looks, at least: however they hang together, their shares are taken off.

    >>> [left_for_end(0.05, looks) for looks in (0, 1, 3)]
    [0.05, 0.0444, 0.0263]
    """
    return rounded_down(spent(alpha, looks + 1, looks + 1) - spent(alpha, looks, looks + 1)) if looks else alpha


def rounded_down(alpha: float) -> float:
    """Alpha as it is said and used: rounded down to one of ``STEPS``, and never below one of them."""
    return max(1, floor(STEPS * alpha)) / STEPS


def planned_looks(
    values: np.ndarray, layout: DrawnLayout, shares: Sequence[float], rng: np.random.Generator, draws: int
) -> list[Look]:
    """Every look done so far, the first first.

    Parameters
    ----------
    values : ndarray of float, shape (looks done, units)
        Means of the units at each check.
    layout : Layout
        Its arms drawn anew for all looks at once.
    shares : sequence of float, shape (looks done,)
        Alpha that may be spent up to each.

    Notes
    -----
    The statistic of a look is the sum of squares of the arms' means about the mean of their block; critical values are the least
    that keep the share of redraws which a look so far would have called a result within what may be spent.
    """
    observed = _spread(values, layout.arm[None, :], layout.block)[:, 0]
    step = max(1, CHUNK // values.shape[1])
    sizes = [min(step, draws - start) for start in range(0, draws, step)]
    drawn = np.hstack([_spread(values, layout.redraw(rng, size), layout.block) for size in sizes])
    quiet = np.ones(draws, dtype=bool)
    found = []
    for j in range(values.shape[0]):
        may = shares[j]
        left = may - (1 - quiet.mean())
        critical = _critical(drawn[j], quiet, left * draws)
        p = float((1 + (drawn[j] >= observed[j] - TIE).sum()) / (1 + draws))
        level = float((drawn[j] >= critical - TIE).mean()) if np.isfinite(critical) else 0.0
        less = drawn[j][drawn[j] < critical - TIE]
        below = float((drawn[j] >= less.max() - TIE).mean()) if less.size else 1.0
        found.append(Look(may, level, below, p, bool(observed[j] >= critical - TIE)))
        quiet &= ~(drawn[j] >= critical - TIE)
    return found


def _critical(statistic: np.ndarray, quiet: np.ndarray, may: float) -> float:
    """The least value that at most so many of the quiet redraws reach; infinite where even the greatest is reached too often."""
    values, counts = np.unique(np.round(statistic[quiet], 10), return_counts=True)
    reached = np.cumsum(counts[::-1])[::-1]
    allowed = values[reached <= may + TIE]
    return float(allowed[0]) if allowed.size else float("inf")


def _spread(values: np.ndarray, labels: np.ndarray, block: np.ndarray) -> np.ndarray:
    """Between-arm sum of squares at every look, shape (looks, draws)."""
    arms = int(labels.max()) + 1
    sizes = np.bincount(block)
    centred = np.stack([row - (np.bincount(block, row) / sizes)[block] for row in values])
    total = np.zeros((values.shape[0], labels.shape[0]))
    for arm in range(arms):
        here = (labels == arm).astype(float)
        total += (centred @ here.T) ** 2 / np.maximum(1, here.sum(axis=1))
    return total
