"""What the Design page prints."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from werkzeug.datastructures import MultiDict

from orderly_bench.chapters.design import operations
from orderly_bench.chapters.design.forms import read_design
from orderly_bench.core.design import drawing
from orderly_bench.core.design.codes import spaced
from orderly_bench.core.design.feasibility import Assumed, Feasibility, feasibility
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.vocabulary import LayoutKind
from orderly_bench.trial.models import Trial, Unit
from orderly_bench.web.bench_map import Cell, TrayView, blocks_of, tray_views

KEYS = (
    "cuttings_per_arm",
    "cuttings_per_unit",
    "layout",
    "whole_factor",
    "gradient",
    "bench",
    "tray_rows",
    "tray_columns",
)


def typed_values(trial: Trial) -> MultiDict[str, str]:
    """The stored design as form values."""
    values = MultiDict({key: str(getattr(trial, key)) for key in KEYS})
    values["blocks"] = str(max(1, trial.blocks))
    values["block_size"] = str(trial.block_size or "")
    values["icc"] = "" if trial.assumed_icc is None else f"{trial.assumed_icc:g}"
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
    layout: str = ""
    shared: bool = False
    assumed: bool = False

    @property
    def split(self) -> bool:
        """Whether one factor stands on whole plots."""
        return self.layout == LayoutKind.SPLIT_PLOT


#: What the test will repeat, by layout.
REDRAWS = {
    LayoutKind.COMPLETELY_RANDOMISED.value: "over the whole bench",
    LayoutKind.COMPLETE_BLOCKS.value: "within its blocks",
    LayoutKind.PAIRS.value: "within its pairs",
    LayoutKind.LATIN_SQUARE.value: "any Latin square of the order, each as likely",
    LayoutKind.INCOMPLETE_BLOCKS.value: "labels, order of the blocks, places in them",
    LayoutKind.SPLIT_PLOT.value: "whole plots for the factor on them, inside them for the rest",
}


def margin_for(trial: Trial, form: MultiDict[str, str]) -> Margin:
    """Work the design out as typed."""
    if not trial.factors:
        return Margin(None, "", "Write the question first: the arms are made from its factors and levels.")
    try:
        values = read_design(form)
        _, request = operations.check_design(trial, values)
        assumed = Assumed(values.assumed_rates, values.assumed_icc) if values.assumed_rates else None
        reach = feasibility(request, values.cuttings_per_unit, trial.alpha, assumed)
        layout = drawing.draw_layout(request, np.random.default_rng(0))
        last = max(p.tray for p in operations.places_of(layout, values.tray_rows, values.tray_columns))
    except OrderlyError as error:
        return Margin(None, "", str(error))
    cells = values.tray_rows * values.tray_columns * last
    total = request.arms * request.units_per_arm
    places = (
        f"{last} tray{'s' if last > 1 else ''} x {cells // last} = {cells} places; {total} used, {cells - total} empty"
    )
    return Margin(
        reach,
        places,
        layout=values.layout,
        shared=values.cuttings_per_unit > 1,
        assumed=values.assumed_rates is not None,
    )


def map_of(trial: Trial, units: list[Unit], hidden: bool) -> list[TrayView]:
    """The drawn bench; arms as stakes, or codes only while they are hidden."""

    def cell(unit: Unit) -> Cell:
        what = "" if hidden else f", arm {unit.arm.letter}: {unit.arm.name}"
        groups = "".join(f", {g.name}" for g in unit.groupings)
        label = f"{spaced(unit.code)}, row {unit.place.row} column {unit.place.column}{groups}{what}"
        return Cell(unit.place.row, unit.place.column, unit.id, label, letter="" if hidden else unit.arm.letter)

    return tray_views(trial.trays, units, cell, lambda tray: blocks_of(tray, units), 30)
