"""What the Design page prints."""

from __future__ import annotations

from dataclasses import dataclass

from werkzeug.datastructures import MultiDict

from orderly_bench.chapters.design import operations
from orderly_bench.chapters.design.forms import read_design
from orderly_bench.core.design.bench import places_for
from orderly_bench.core.design.codes import spaced
from orderly_bench.core.design.feasibility import Feasibility, feasibility
from orderly_bench.core.errors import OrderlyError
from orderly_bench.trial.models import Trial, Unit
from orderly_bench.web.bench_map import Cell, TrayView, blocks_of, tray_views

KEYS = ("cuttings_per_arm", "layout", "gradient", "bench", "tray_rows", "tray_columns")


def typed_values(trial: Trial) -> MultiDict[str, str]:
    """The stored design as form values."""
    values = MultiDict({key: str(getattr(trial, key)) for key in KEYS})
    values["blocks"] = str(max(1, trial.blocks))
    for i, name in enumerate(("rate_a", "rate_b")):
        values[name] = f"{100 * trial.assumed_rates[i]:g}" if trial.assumed_rates else ""
    values.setlist("arms", [arm.name for arm in trial.arms])
    values["control"] = next((arm.name for arm in trial.arms if arm.is_control), "")
    return values


@dataclass(frozen=True)
class Margin:
    """What the design can reach, or the rule it breaks."""

    reach: Feasibility | None
    places: str
    problem: str = ""


def margin_for(trial: Trial, form: MultiDict[str, str]) -> Margin:
    """Work the design out as typed."""
    if not trial.factors:
        return Margin(None, "", "Write the question first: the arms are made from its factors and levels.")
    try:
        values = read_design(form)
        chosen, blocks = operations.check_design(trial, values)
        reach = feasibility(len(chosen), values.cuttings_per_arm, blocks, trial.alpha, values.assumed_rates)
        each = len(chosen) * values.cuttings_per_arm // blocks
        last = places_for([each] * blocks, values.tray_rows, values.tray_columns)[-1]
    except OrderlyError as error:
        return Margin(None, "", str(error))
    cells = values.tray_rows * values.tray_columns
    total = each * blocks
    places = f"{last.tray} tray{'s' if last.tray > 1 else ''} x {cells} = {last.tray * cells} cells; {total} stuck, {last.tray * cells - total} empty"
    return Margin(reach, places)


def map_of(trial: Trial, units: list[Unit], hidden: bool) -> list[TrayView]:
    """The drawn bench; arms as stakes, or codes only while they are hidden."""

    def cell(unit: Unit) -> Cell:
        what = "" if hidden else f", arm {unit.arm.letter}: {unit.arm.name}"
        block = f", {unit.group('block')}" if unit.group("block") else ""
        label = f"{spaced(unit.code)}, row {unit.place.row} column {unit.place.column}{block}{what}"
        return Cell(unit.place.row, unit.place.column, unit.id, label, letter="" if hidden else unit.arm.letter)

    return tray_views(trial.trays, units, cell, lambda tray: blocks_of(tray, units), 30)
