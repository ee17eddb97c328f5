"""What the Design page prints."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from werkzeug.datastructures import MultiDict

from orderly_bench.chapters.design import operations
from orderly_bench.chapters.design.forms import read_design
from orderly_bench.core.design.codes import spaced
from orderly_bench.core.design.feasibility import Assumed, Feasibility, feasibility
from orderly_bench.core.design.from_plan import draw_plan, request_for
from orderly_bench.core.design.lids import lids_of, said_of
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.lab import Hemisphere, season_of
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.pieces import write_pieces
from orderly_bench.core.plan.value import Container, Plan
from orderly_bench.core.vocabulary import LayoutKind
from orderly_bench.trial.models import Trial, Unit
from orderly_bench.web.bench_map import Cell, TrayView, blocks_of, tray_views

DESIGN_KEYS = ("cuttings_per_arm", "cuttings_per_unit", "layout", "gradient", "bench")


def _container_values(container: Container, before: str = "") -> dict[str, str]:
    drained = {True: "yes", False: "no", None: ""}[container.drained]
    values = {
        "shape": container.shape.value, "tray_rows": str(container.rows), "tray_columns": str(container.columns),
        "volume_ml": f"{container.volume_ml:g}", "wall": container.wall, "drained": drained,
        "across_cm": "" if container.across_cm is None else f"{container.across_cm:g}",
    }  # fmt: skip
    return {before + key: value for key, value in values.items()}


def typed_values(trial: Trial) -> MultiDict[str, str]:
    """The stored design as form values."""
    plan = trial.plan
    design = plan.design
    values: MultiDict[str, str] = MultiDict({key: str(getattr(design, key)) for key in DESIGN_KEYS})
    values.update(_container_values(design.container))
    values["blocks"] = str(max(1, design.blocks))
    values["block_size"] = str(design.block_size or "")
    values["whole_factor"] = design.whole_aspect
    values["under_lid"] = str(design.under_lid or "")
    values["one_vessel"] = "yes" if design.one_vessel else ""
    values["headline"] = plan.question.headline.value
    values["not_worse"] = "yes" if plan.question.not_worse else ""
    values["max_t"] = "yes" if plan.question.max_t else ""
    values["pieces"] = write_pieces(design.pieces)
    values["icc"] = "" if design.assumed_icc is None else f"{design.assumed_icc:g}"
    for i, name in enumerate(("rate_a", "rate_b")):
        values[name] = f"{100 * design.assumed_rates[i]:g}" if design.assumed_rates else ""
    keys = {arm: operations.key_of(tuple(levels)) for arm, levels in plan.treatments.identities().items()}
    values.setlist("arms", list(keys.values()))
    values["control"] = next((keys[arm.id] for arm in plan.treatments.arms if arm.control), "")
    values["waves"] = str(len(plan.schedule.waves))
    for wave in plan.schedule.waves:
        values[f"wave_{wave.number}_day"] = wave.planned_for.isoformat() if wave.planned_for else ""
        values[f"wave_{wave.number}_season"] = wave.season
    _own_values(plan, values)
    return values


def _own_values(plan: Plan, values: MultiDict[str, str]) -> None:
    for arm in plan.treatments.arms:
        before = f"own_{arm.id}_"
        container = plan.container_of(arm)
        if container != plan.design.container:
            values.update(_container_values(container, before))
        values[f"{before}units"] = str(arm.units or "")
        values[f"{before}per_unit"] = str(arm.per_unit or "")
        values[f"{before}sites"] = ", ".join(arm.sites)
    values.setlist("own", [arm.id for arm in plan.treatments.arms])


def calendar_seasons(plan: Plan, hemisphere: Hemisphere) -> dict[int, str]:
    """The calendar's season of each wave with a day, where season is asked: a slip of the date shows."""
    if not seasons_of(plan):
        return {}
    return {
        wave.number: f"{season_of(wave.planned_for, hemisphere)} here"
        for wave in plan.schedule.waves
        if wave.planned_for
    }


def seasons_of(plan: Plan) -> list[tuple[str, str]]:
    """Levels of the season that waves may belong to; none where season is not asked."""
    season = plan.treatments.of_kind(AspectKind.SEASON)
    return [(level.id, level.name) for level in season.levels] if season and season.asked else []


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
    before = trial.plan
    if not before.treatments.asked:
        return Margin(None, "", "Write the question first: the arms are made from its factors and levels.")
    try:
        values = read_design(form)
        plan = operations.designed(before, values)
        request = request_for(plan, plan.schedule.waves[0])
        assumed = Assumed(values.assumed_rates, values.assumed_icc) if values.assumed_rates else None
        reach = (
            feasibility(request, values.cuttings_per_unit, plan.question.alpha, assumed) if request.arms > 1 else None
        )
        drawn = draw_plan(plan, np.random.default_rng(0))
    except OrderlyError as error:
        return Margin(None, "", str(error))
    stands = [stand for wave in drawn for stand in wave.stands]
    cells = sum(1 if s.container.shape.alone else s.container.rows * s.container.columns for s in stands)
    total = sum(len(wave.units) for wave in drawn)
    used = len({(u.position.tray, u.position.row, u.position.column) for wave in drawn for u in wave.units})
    waves = f" over {len(drawn)} waves" if len(drawn) > 1 else ""
    places = f"{len(stands)} tray{'s' if len(stands) > 1 else ''} or vessels with {cells} places{waves}; {total} units in {used}, {cells - used} empty"  # fmt: skip
    shared = any(plan.per_unit(arm) > 1 for arm in plan.treatments.arms)
    return Margin(reach, places, layout=values.layout, shared=shared, assumed=values.assumed_rates is not None)


def map_of(trial: Trial, units: list[Unit], hidden: bool) -> list[TrayView]:
    """The drawn bench; arms as stakes, or codes only while they are hidden."""

    def cell(unit: Unit) -> Cell:
        what = "" if hidden else f", arm {unit.arm.letter}: {unit.arm.name}"
        groups = "".join(f", {g.name}" for g in unit.groupings)
        label = f"{spaced(unit.code)}, row {unit.place.row} column {unit.place.column}{groups}{what}"
        return Cell(unit.place.row, unit.place.column, unit.id, label, letter="" if hidden else unit.arm.letter)

    return tray_views(trial.trays, units, cell, lambda tray: blocks_of(tray, units), 30)


def lid_words(units: list[Unit]) -> list[str]:
    """What the lids over several places do to the comparison."""
    under = [(g.name, unit.arm.letter) for unit in units for g in unit.groupings if g.kind == "lid"]
    return said_of(lids_of(under))


def unit_words(plan: Plan) -> list[tuple[str, list[str]]]:
    """What a unit is and how many replicates that makes, with the letters of the arms it holds for."""
    found: dict[str, list[str]] = {}
    for arm in plan.treatments.arms:
        units, per_unit = plan.units_of(arm), plan.per_unit(arm)
        what = f"{per_unit} cuttings together" if per_unit > 1 else "one cutting each"
        found.setdefault(f"{what}, {units} replicate{'s' if units != 1 else ''}", []).append(arm.id)
    return list(found.items())
