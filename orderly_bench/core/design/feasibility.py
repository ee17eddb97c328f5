"""What a design can reach, worked out while it is typed."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache

from orderly_bench.core.cautions import Caution
from orderly_bench.core.design.power import (
    Power,
    exact_power,
    smallest_adjusted_pair_p,
    smallest_overall_p,
    smallest_pair_p,
)
from orderly_bench.core.design.simulated_power import detectable_difference, needed_per_arm

MOST_NEEDED = 600


@dataclass(frozen=True)
class Feasibility:
    """Smallest reachable p overall, for a pair, and for a pair after Holm over all pairs.

    ``power`` is that of two arms at the assumed rates, None when none are assumed. In blocks it is
    the power of the same number of cuttings without blocks, and ``working`` says so. ``detectable`` is the difference above the
    lower rate that is found in 80 of 100 trials; ``needed`` the cuttings per arm for 80 and 90 % power, None beyond 600.
    """

    smallest_overall_p: float
    smallest_pair_p: float
    smallest_adjusted_p: float
    power: Power | None
    cautions: list[Caution]
    working: list[str]
    detectable: float | None = None
    needed: dict[int, int | None] = field(default_factory=dict)


@lru_cache(maxsize=256)
def _reach(rate_a: float, rate_b: float, per_arm: int, alpha: float) -> tuple[float | None, int | None, int | None]:
    """Detectable difference at 80 %, and cuttings per arm for 80 and 90 % power."""
    low, high = sorted((rate_a, rate_b))
    return (
        detectable_difference(low, per_arm, 0.8, alpha),
        needed_per_arm(low, high, 0.8, alpha, MOST_NEEDED),
        needed_per_arm(low, high, 0.9, alpha, MOST_NEEDED),
    )


def feasibility(
    arms: int, per_arm: int, blocks: int, alpha: float, rates: tuple[float, float] | None = None
) -> Feasibility:
    """Work out what the design can reach.

    Parameters
    ----------
    arms, per_arm, blocks : int
        Cuttings per arm over all blocks; 1 block is completely randomised.
    rates : tuple of float, optional
        Assumed rooting rates of two arms, 0 to 1.
    """
    overall = smallest_overall_p(arms, per_arm, blocks)
    pair = smallest_pair_p(per_arm, blocks)
    adjusted = smallest_adjusted_pair_p(arms, per_arm, blocks)
    power = exact_power(rates[0], rates[1], per_arm, alpha) if rates else None
    detectable, for_80, for_90 = _reach(rates[0], rates[1], per_arm, alpha) if rates else (None, None, None)
    return Feasibility(
        overall,
        pair,
        adjusted,
        power,
        _doubts(overall, adjusted, alpha, power),
        _working(arms, per_arm, blocks, power),
        detectable,
        {80: for_80, 90: for_90} if rates else {},
    )


def _doubts(overall: float, adjusted: float, alpha: float, power: Power | None) -> list[Caution]:
    found = []
    if overall >= alpha:
        found.append(
            Caution(
                "cannot_convince",
                f"No outcome of this design could convince: even all against none gives p = {overall:.2g}, not below {alpha:g}.",
                "Stick more cuttings per arm, or use fewer blocks",
                serious=True,
            )
        )
    elif adjusted >= alpha:
        found.append(
            Caution(
                "pair_cannot_convince",
                f"No single pair of arms can ever be clear: its smallest p over all pairs is {adjusted:.2g}.",
                "Stick more cuttings per arm, or take fewer arms",
                serious=True,
            )
        )
    if power is not None and power.power < 0.8:
        found.append(
            Caution(
                "low_power",
                f"If the rates are as assumed, this finds the difference in {100 * power.power:.0f} of 100 trials.",
                "Stick more per arm, or plan for a larger difference",
            )
        )
    return found


def _working(arms: int, per_arm: int, blocks: int, power: Power | None) -> list[str]:
    u = per_arm // blocks
    lines = [f"{arms} arms x {per_arm} = {arms * per_arm} cuttings"]
    root = f"2 / C({2 * u}, {u})"
    lines.append(f"pair, all v none: {root}^{blocks}" if blocks > 1 else f"pair, all v none: {root}")
    if arms > 2:
        pairs = arms * (arms - 1) // 2
        lines.append(f"Holm over {pairs} pairs: x {pairs}")
    if power:
        note = " (blocks left out of the sum)" if blocks > 1 else ""
        lines.append(f"power: every outcome of two arms of {per_arm} counted{note}")
    return lines
