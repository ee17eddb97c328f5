"""Cuttings without a known outcome: the range over every assignment.

One end takes all of a's as failed and all of b's as rooted, the other the reverse (Manski 1990,
Am Econ Rev 80:319, worst-case bounds).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orderly_bench.core.compare.difference import mantel_haenszel, newcombe
from orderly_bench.core.randomise.hypergeometric import two_sided_p


@dataclass(frozen=True)
class MissingRange:
    """Least and greatest difference that the cuttings left out could make, with the p at each end."""

    left_out_a: int
    left_out_b: int
    low: float
    high: float
    p_low: float
    p_high: float


def missing_range(rooted: np.ndarray, stuck: np.ndarray, left_out: np.ndarray, blocked: bool) -> MissingRange | None:
    """The range for two arms; None when nothing was left out.

    Parameters
    ----------
    rooted, stuck, left_out : ndarray of int, shape (strata, 2)
        ``stuck`` counts the cuttings with a known outcome.
    """
    if left_out.sum() == 0:
        return None
    everyone = stuck + left_out
    ends = []
    for a_roots in (0, 1):
        counts = rooted + left_out * np.array([a_roots, 1 - a_roots])
        if blocked:
            estimate = mantel_haenszel(counts, everyone).estimate
        else:
            (k_a, k_b), (n_a, n_b) = counts.sum(axis=0).tolist(), everyone.sum(axis=0).tolist()
            estimate = newcombe(k_a, n_a, k_b, n_b).estimate
        ends.append((estimate if estimate is not None else float("nan"), two_sided_p(counts, everyone)))
    out_a, out_b = left_out.sum(axis=0).tolist()
    return MissingRange(out_a, out_b, ends[0][0], ends[1][0], ends[0][1], ends[1][1])
