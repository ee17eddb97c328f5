"""What a design can reach, worked out while it is typed."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.cautions import Caution
from orderly_bench.core.layouts.kinds import reach_of
from orderly_bench.core.layouts.reach import Reach
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.randomise.drawn_layout import Request

FEW_WHOLE_PLOTS = 4


@dataclass(frozen=True)
class Feasibility:
    """What a layout can reach."""

    reach: Reach
    cautions: list[Caution]
    working: list[str]


def feasibility(
    request: Request, per_unit: int, alpha: float, cuttings: int | None = None, waves: int = 1
) -> Feasibility:
    """Work out what the design can reach.

    Parameters
    ----------
    request : Request
        The layout to be drawn.
    per_unit : int
        Cuttings in one unit.
    alpha : float
    cuttings : int, optional
        Over all arms, where units of some hold another number.

    Raises
    ------
    InvalidInput
        What the layout can't hold.
    """
    reach = reach_of(request)
    doubts = [*_doubts(reach, alpha), *_doubts_of_units(request, per_unit)]
    return Feasibility(reach, doubts, [*_sum(request, per_unit, cuttings, waves), *_working(request, reach)])


def _doubts(reach: Reach, alpha: float) -> list[Caution]:
    found = []
    if reach.overall >= alpha:
        found.append(caution("cannot_convince", p=f"{reach.overall:.2g}", alpha=f"{alpha:g}", serious=True))
    elif reach.adjusted >= alpha:
        found.append(caution("pair_cannot_convince", p=f"{reach.adjusted:.2g}", serious=True))
    return found


def _doubts_of_units(request: Request, per_unit: int) -> list[Caution]:
    found = []
    if per_unit > 1:
        units, cuttings = request.units_per_arm, request.units_per_arm * per_unit
        found.append(caution("cuttings_share_units", each=per_unit, units=units, cuttings=cuttings, serious=units == 1))
    if request.whole and request.blocks // len(request.whole) < FEW_WHOLE_PLOTS:
        found.append(caution("few_whole_plots", n=request.blocks // len(request.whole)))
    return found


def _sum(request: Request, per_unit: int, cuttings: int | None, waves: int) -> list[str]:
    """Units and cuttings, counted as the arms are: of several waves those of one by their number."""
    total = sum(request.units)
    alike = _(
        "{arms:arm|arms} x {units_per_arm:unit|units}", arms=request.arms, units_per_arm=request.units_per_arm // waves
    )
    alike = _("{waves:wave|waves} x {alike}", waves=waves, alike=alike) if waves > 1 else alike
    units = _("{each} units", each=" + ".join(map(str, request.units))) if request.unequal else alike
    lines = [_("{units} = {total:unit|units}", units=units, total=total)]
    if cuttings is not None and cuttings != total * per_unit:
        return [*lines, _("{total:cutting|cuttings}", total=cuttings)]
    if per_unit > 1:
        return [
            *lines,
            _("x {per_unit} in each = {total:cutting|cuttings}", per_unit=per_unit, total=total * per_unit),
        ]
    return [*lines, _("{total:cutting|cuttings}", total=total)]


def _working(request: Request, reach: Reach) -> list[str]:
    if request.arms < 3 or request.whole:
        return [reach.working]
    pairs = request.arms * (request.arms - 1) // 2
    return [reach.working, _("Holm over {pairs} pairs: x {pairs}", pairs=pairs)]
