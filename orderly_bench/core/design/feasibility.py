"""What a design can reach, worked out while it is typed."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np

from orderly_bench.core.cautions import Caution
from orderly_bench.core.design.power import Power, exact_power
from orderly_bench.core.design.reach import Reach, reach_of
from orderly_bench.core.design.simulated_power import detectable_difference, needed_per_arm, power_of
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.words import tell
from orderly_bench.core.randomise.layout import Request
from orderly_bench.core.vocabulary import LayoutKind

MOST_NEEDED = 600
TRIALS = 400
FEW_WHOLE_PLOTS = 4


@dataclass(frozen=True)
class Assumed:
    """What is assumed for the power: rates of two arms, 0 to 1, and how alike cuttings of one unit are (ICC)."""

    rates: tuple[float, float]
    icc: float | None = None


@dataclass(frozen=True)
class Feasibility:
    """What a layout can reach.

    ``power`` is that of two arms at the assumed rates, None when none are assumed or the layout has no sum for it. In blocks of
    single cuttings it is the power of the same number without blocks, and ``working`` says so. ``detectable`` is the difference
    above the lower rate that is found in 80 of 100 trials; ``needed`` the cuttings per arm for 80 and 90 % power, None beyond 600.
    """

    reach: Reach
    power: Power | None
    cautions: list[Caution]
    working: list[str]
    detectable: float | None = None
    needed: dict[int, int | None] = field(default_factory=dict)


@lru_cache(maxsize=256)
def _numbers(rate_a: float, rate_b: float, per_arm: int, alpha: float) -> tuple[float | None, int | None, int | None]:
    """Detectable difference at 80 %, and cuttings per arm for 80 and 90 % power."""
    low, high = sorted((rate_a, rate_b))
    return (
        detectable_difference(low, per_arm, 0.8, alpha),
        needed_per_arm(low, high, 0.8, alpha, MOST_NEEDED),
        needed_per_arm(low, high, 0.9, alpha, MOST_NEEDED),
    )


def feasibility(
    request: Request, per_unit: int, alpha: float, assumed: Assumed | None = None, cuttings: int | None = None
) -> Feasibility:
    """Work out what the design can reach.

    Parameters
    ----------
    request : Request
        The layout to be drawn.
    per_unit : int
        Cuttings in one unit.
    alpha : float
    assumed : Assumed, optional
    cuttings : int, optional
        Over all arms, where units of some hold another number.

    Raises
    ------
    InvalidInput
        What the layout can't hold.
    """
    reach = reach_of(request)
    power = _power(request, per_unit, alpha, assumed) if assumed else None
    detectable, needed = None, {}
    if assumed and _single_in_blocks(request, per_unit):
        detectable, for_80, for_90 = _numbers(*assumed.rates, request.units_per_arm, alpha)
        needed = {80: for_80, 90: for_90}
    doubts = [*_doubts(reach, alpha, power), *_doubts_of_units(request, per_unit)]
    sums = [*_sum(request, per_unit, cuttings), *_working(request, per_unit, reach, power, assumed)]
    return Feasibility(reach, power, doubts, sums, detectable, needed)


def _single_in_blocks(request: Request, per_unit: int) -> bool:
    return per_unit == 1 and _blocked(request)


def _blocked(request: Request) -> bool:
    return request.kind in (LayoutKind.COMPLETELY_RANDOMISED, LayoutKind.COMPLETE_BLOCKS)


def _power(request: Request, per_unit: int, alpha: float, assumed: Assumed) -> Power | None:
    if _single_in_blocks(request, per_unit):
        return exact_power(*assumed.rates, request.units_per_arm, alpha)
    if per_unit == 1 and request.kind is LayoutKind.PAIRS:
        return _simulated(request.units_per_arm, 1, None, request.units_per_arm, alpha, assumed.rates)
    if assumed.icc is None or per_unit == 1 or not _blocked(request):
        return None
    return _simulated(request.units_per_arm * per_unit, per_unit, assumed.icc, request.blocks, alpha, assumed.rates)


@lru_cache(maxsize=128)
def _simulated(
    per_arm: int, per_unit: int, icc: float | None, blocks: int, alpha: float, rates: tuple[float, float]
) -> Power:
    return power_of(
        list(rates), per_arm, per_unit=per_unit if per_unit > 1 else None, icc=icc, blocks=blocks, alpha=alpha, trials=TRIALS,
        rng=np.random.default_rng(1),
    )  # fmt: skip


def _doubts(reach: Reach, alpha: float, power: Power | None) -> list[Caution]:
    found = []
    if reach.overall >= alpha:
        found.append(caution("cannot_convince", p=f"{reach.overall:.2g}", alpha=f"{alpha:g}", serious=True))
    elif reach.adjusted >= alpha:
        found.append(caution("pair_cannot_convince", p=f"{reach.adjusted:.2g}", serious=True))
    if power is not None and power.power < 0.8:
        found.append(caution("low_power", found=f"{100 * power.power:.0f}"))
    return found


def _doubts_of_units(request: Request, per_unit: int) -> list[Caution]:
    found = []
    if per_unit > 1:
        units, cuttings = request.units_per_arm, request.units_per_arm * per_unit
        found.append(caution("cuttings_share_units", each=per_unit, units=units, cuttings=cuttings, serious=units == 1))
    if request.kind is LayoutKind.SPLIT_PLOT and request.blocks // len(request.whole) < FEW_WHOLE_PLOTS:
        found.append(caution("few_whole_plots", n=request.blocks // len(request.whole)))
    return found


def _sum(request: Request, per_unit: int, cuttings: int | None) -> list[str]:
    """Units and cuttings, counted as the arms are."""
    total = sum(request.units)
    alike = tell("{arms} arms x {units_per_arm} units", arms=request.arms, units_per_arm=request.units_per_arm)
    units = tell("{each} units", each=" + ".join(map(str, request.units))) if request.unequal else alike
    lines = [tell("{units} = {total} units", units=units, total=total)]
    if cuttings is not None and cuttings != total * per_unit:
        return [*lines, tell("{total} cuttings", total=cuttings)]
    if per_unit > 1:
        return [*lines, tell("x {per_unit} in each = {total} cuttings", per_unit=per_unit, total=total * per_unit)]
    return [*lines, tell("{total} cuttings", total=total)]


def _working(request: Request, per_unit: int, reach: Reach, power: Power | None, assumed: Assumed | None) -> list[str]:
    lines = [reach.working]
    if request.arms > 2 and request.kind is not LayoutKind.SPLIT_PLOT:
        pairs = request.arms * (request.arms - 1) // 2
        lines.append(tell("Holm over {pairs} pairs: x {pairs}", pairs=pairs))
    if power and power.monte_carlo_error is None:
        note = tell(" (blocks left out of the sum)") if request.blocks > 1 else ""
        lines.append(
            tell(
                "power: every outcome of two arms of {units_per_arm} counted{note}",
                units_per_arm=request.units_per_arm,
                note=note,
            )
        )
    elif power:
        lines.append(
            tell(
                "power: {method}, ± {value:.0f} points", method=power.method, value=100 * (power.monte_carlo_error or 0)
            )
        )
    elif assumed and per_unit > 1 and assumed.icc is None and _blocked(request):
        lines.append(tell("power: type how alike cuttings of one unit are (ICC) and it is simulated"))
    elif assumed:
        lines.append(tell("power: not worked out for this layout; the smallest p is its own"))
    return lines
