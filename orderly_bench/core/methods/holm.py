"""Holm's step-down adjustment (Holm 1979, Scand J Stat 6:65)."""

from __future__ import annotations

from collections.abc import Sequence


def tidy(p: float) -> float:
    """p without the rounding errors of its arithmetic, which would put 0.05 below 0.05.

    >>> tidy(10 * 0.004999999999999992), tidy(3e-14)
    (0.05, 3e-14)
    """
    return round(p, 12) if p > 1e-6 else p


def holm(p_values: Sequence[float | None]) -> list[float | None]:
    """Adjusted p-values in the order given; None (no test) takes no part and stays None."""
    tested = sorted((p, i) for i, p in enumerate(p_values) if p is not None)
    adjusted: list[float | None] = [None] * len(p_values)
    running = 0.0
    for rank, (p, i) in enumerate(tested):
        running = max(running, min(1.0, p * (len(tested) - rank)))
        adjusted[i] = tidy(running)
    return adjusted
