"""Does it fit? What a design takes, against what there is: pieces, places, medium, hours."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.core.design.standing import Footprint
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.stock.kept import BenchKept, StockPlant


@dataclass(frozen=True)
class Fit:
    """One thing that may run out.

    Attributes
    ----------
    name, unit : str
    needed : float
    there : float or None
        None where nobody said.
    note : str
    most_per_arm : int or None
        Cuttings per arm up to which it lasts; None where nobody said.
    again : bool
        What is taken comes again by the next wave, so it is needed for one wave at a time.
    """

    name: str
    unit: str
    needed: float
    there: float | None
    note: str
    most_per_arm: int | None
    again: bool = False

    @property
    def short(self) -> bool:
        """Whether it runs out."""
        return self.there is not None and self.needed > self.there


def _most(plan: Plan, needed: float, there: float | None) -> int | None:
    if there is None or needed <= 0:
        return None
    return int(plan.design.cuttings_per_arm * there / needed)


def most_in_a_wave(plan: Plan) -> int:
    """Cuttings of the wave that takes most."""
    arms = plan.treatments.arms
    return max(sum(plan.cuttings_of(a) for a in arms if wave in plan.waves_of(a)) for wave in plan.schedule.waves)


def pieces(plan: Plan, plants: list[StockPlant]) -> Fit:
    """Cuttings against what the stock plants give: those lines named in the plan for all waves, else what every plant of the taxon
    gives at once for one.
    """
    if plan.design.pieces:
        needed = float(plan.cuttings)
        ready = float(sum(line.how_many for line in plan.design.pieces))
        return Fit(
            "Pieces ready",
            "",
            needed,
            ready,
            clause("fit/lines", n=len(plan.design.pieces)),
            _most(plan, needed, ready),
        )
    needed = float(most_in_a_wave(plan))
    counted = [plant for plant in plants if plant.most_to_take is not None]
    if not counted:
        return Fit(
            _("Pieces on the stock plants"),
            "",
            needed,
            None,
            _("no plant of this taxon says how many may be taken"),
            None,
        )
    there = float(sum(plant.most_to_take or 0 for plant in counted))
    named = ", ".join(f"{p.code} {p.most_to_take}" for p in counted[:4]) + (" ..." if len(counted) > 4 else "")
    note = clause("fit/plants", n=len(counted), named=named) + _at_a_time(plan)
    return Fit(_("Pieces on the stock plants"), "", needed, there, note, _most(plan, needed, there), again=True)


def _at_a_time(plan: Plan) -> str:
    return _("; for one wave at a time") if len(plan.schedule.waves) > 1 else ""


def places(plan: Plan, stands: list[Footprint], bench: BenchKept | None) -> Fit:
    """Area of what stands on the bench against the bench's own, square metres.

    Parameters
    ----------
    stands : list of Footprint
        Of each tray or vessel.
    """
    needed = sum(one.length_cm * one.width_cm for one in stands) / 10_000
    if bench is None or bench.length_cm is None or bench.width_cm is None:
        return Fit(
            _("Room on {bench}", bench=plan.design.bench),
            "m²",
            needed,
            None,
            _("nobody measured the bench"),
            None,
        )
    there = bench.length_cm * bench.width_cm / 10_000
    what = _("tray or vessel") if len(stands) == 1 else _("trays or vessels")
    note = _(
        "{n} {what} on {length_cm:g} x {width_cm:g} cm",
        n=len(stands),
        what=what,
        length_cm=bench.length_cm,
        width_cm=bench.width_cm,
    )
    return Fit(
        _("Room on {bench}", bench=plan.design.bench),
        "m²",
        needed,
        there,
        note,
        _most(plan, needed, there),
        again=True,
    )


def media(plan: Plan, needs: list[tuple[str, float]], ready: dict[str, float], reserved: dict[str, float]) -> list[Fit]:
    """Litres of each medium over all containers, with settling and waste, against what stands ready and is not reserved.

    Parameters
    ----------
    needs : list of (medium, litres)
    ready, reserved : dict
        Litres by medium in small letters: on the shelf, and for other trials. Media that nobody counted are told in one line.
    """
    counted = [(name, litres) for name, litres in needs if name.casefold() in ready]
    found = []
    for name, litres in counted:
        held = reserved.get(name.casefold(), 0.0)
        free = max(0.0, ready[name.casefold()] - held)
        note = _("{ready:.3g} L ready", ready=ready[name.casefold()]) + (
            _(", {held:.3g} L of it for other trials", held=held) if held else ""
        )
        found.append(Fit(_("Medium: {name}", name=name), "L", litres, free, note, _most(plan, litres, free)))
    rest = sum(litres for name, litres in needs if name.casefold() not in ready)
    if rest:
        what = _("the rest; ") if counted else ""
        note = _("{what}with settling and waste; the shelf's media say how much stands ready", what=what)
        found.append(Fit("Medium", "L", rest, None, note, None))
    return found


def hours(plan: Plan) -> Fit:
    """Hours to stick one wave, at the pace planned."""
    cuttings = most_in_a_wave(plan)
    needed = cuttings / plan.design.pace_per_hour
    of_it = _(" in a wave") if len(plan.schedule.waves) > 1 else ""
    note = clause("fit/hours", n=cuttings, of_it=of_it, pace=f"{plan.design.pace_per_hour:g}")
    most = _most(plan, needed, plan.design.hours)
    return Fit(_("Hours to stick"), "h", needed, plan.design.hours, note, most, again=True)
