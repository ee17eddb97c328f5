"""What a design can reach, worked out while it is typed."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.cautions import Caution
from orderly_bench.core.design.power import (
    Power,
    exact_power,
    smallest_adjusted_pair_p,
    smallest_overall_p,
    smallest_pair_p,
)


@dataclass(frozen=True)
class Feasibility:
    """Smallest reachable p overall, for a pair, and for a pair after Holm over all pairs.

    ``power`` is that of two arms at the assumed rates, None when none are assumed. In blocks it is
    the power of the same number of cuttings without blocks, and ``working`` says so.
    """

    smallest_overall_p: float
    smallest_pair_p: float
    smallest_adjusted_p: float
    power: Power | None
    cautions: list[Caution]
    working: list[str]


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
    return Feasibility(
        overall, pair, adjusted, power, _doubts(overall, adjusted, alpha, power), _working(arms, per_arm, blocks, power)
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
