"""What the Design page prints."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date

import numpy as np
from werkzeug.datastructures import MultiDict

from orderly_bench.chapters.design import operations
from orderly_bench.chapters.design.forms import read_design
from orderly_bench.chapters.design.material import of_draw
from orderly_bench.core.compare.clusters import pooled_icc
from orderly_bench.core.design import fits
from orderly_bench.core.design.codes import spaced
from orderly_bench.core.design.convincing import why_not
from orderly_bench.core.design.feasibility import Assumed, Feasibility, feasibility
from orderly_bench.core.design.fits import Fit
from orderly_bench.core.design.from_plan import WaveDraw, draw_plan, request_for
from orderly_bench.core.design.lids import lids_of, said_of
from orderly_bench.core.design.propose import Proposal, propose
from orderly_bench.core.design.season_waves import least_waves, smallest_p
from orderly_bench.core.design.standing import across, footprint
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.lab import Hemisphere, season_of
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.pieces import write_pieces
from orderly_bench.core.plan.value import Container, Plan
from orderly_bench.core.prepare.needs import media_of
from orderly_bench.core.rehearse.curve import (
    effective,
    guess_of,
)
from orderly_bench.core.rehearse.other_ways import Way, other_ways
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.stock.kept import BenchKept, StockPlant
from orderly_bench.core.vocabulary import LayoutKind
from orderly_bench.trial.load import PARTED
from orderly_bench.trial.models import Trial, Unit
from orderly_bench.web.bench_map import Cell, TrayView, blocks_of, cell_size, drawn_views, short_group, tray_views

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
    values["ways"], values["together"] = str(design.gradient_ways), design.pieces_by
    values["alike"] = str(design.alike_at_most or "")
    values["on_tray"] = design.whole_aspect
    values["hours"] = "" if design.hours is None else f"{design.hours:g}"
    values["pace_per_hour"] = f"{design.pace_per_hour:g}"
    share = kind_of(plan.question.response).yes_no
    guess = guess_of(plan)
    for i, arm in enumerate(plan.treatments.arms):
        value = arm.guess if arm.guess is not None else (guess.values[i] if guess else None)
        values[f"guess_{arm.id}"] = "" if value is None else f"{100 * value if share else value:g}"
    values["pieces"] = write_pieces(design.pieces)
    values["leftovers"] = "yes" if design.leftovers else ""
    values["blocks_are"], values["block_names"] = design.blocks_are.value, "\n".join(design.block_names)
    values["icc"] = "" if design.assumed_icc is None else f"{design.assumed_icc:g}"
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


def said_of_waves(plan: Plan, hemisphere: Hemisphere, today: date) -> dict[int, str]:
    """What the calendar says of each wave with a day: its season here where season is asked, and that a day is past."""
    said = {}
    for wave in plan.schedule.waves:
        if wave.planned_for is None:
            continue
        season = f"{season_of(wave.planned_for, hemisphere)} here" if seasons_of(plan) else ""
        past = "this day is past: what was stuck before the lock is retrospective" if wave.planned_for < today else ""
        said[wave.number] = "; ".join(part for part in (season, past) if part)
    return said


@dataclass(frozen=True)
class Likeness:
    """How alike cuttings of one container were in the lab's own trials: the guess for the next, and where it comes from."""

    icc: float
    words: str


def likeness_of(before: Sequence[tuple[float, int, str]], plant: str) -> Likeness | None:
    """From earlier trials as (ICC, degrees of freedom, plant); None without any."""
    pooled = pooled_icc([(icc, df) for icc, df, _ in before])
    if pooled is None:
        return None
    of = f"of {plant}" if all(name == plant for _, _, name in before) else "of other plants"
    each = ", ".join(f"{icc:.2f}" for icc, _, _ in before[:6])
    trials = "trial" if len(before) == 1 else "trials"
    return Likeness(pooled, f"{pooled:.2f} from {len(before)} own {trials} {of} ({each})")


def seasons_of(plan: Plan) -> list[tuple[str, str]]:
    """Levels of the season that waves may belong to; none where season is not asked."""
    season = plan.treatments.of_kind(AspectKind.SEASON)
    return [(level.id, level.name) for level in season.levels] if season and season.asked else []


def title_of(plan: Plan) -> str:
    """The design in a few words: ``40 a side in 4 blocks along the bench``."""
    design, arms = plan.design, plan.treatments.arms
    if not arms:
        return "How many, and where?"
    each = {plan.units_of(arm) * plan.per_unit(arm) for arm in arms}
    number = f"{each.pop()} {'a side' if len(arms) == 2 else 'per arm'}" if len(each) == 1 else "Unequal numbers"
    where = {
        LayoutKind.COMPLETELY_RANDOMISED: "over the whole bench",
        LayoutKind.COMPLETE_BLOCKS: f"in {design.blocks} blocks" + (f", {design.gradient}" if design.gradient else ""),
        LayoutKind.PAIRS: "in pairs",
        LayoutKind.LATIN_SQUARE: "in a Latin square",
        LayoutKind.INCOMPLETE_BLOCKS: f"in {design.blocks} blocks of {design.block_size}",
        LayoutKind.SPLIT_PLOT: f"on {design.blocks} whole plots",
    }[design.layout]
    waves = f", {len(plan.schedule.waves)} waves" if len(plan.schedule.waves) > 1 else ""
    return f"{number} {where}{waves}"


def freezes(plan: Plan) -> list[str]:
    """What the lock freezes, in words."""
    asked = plan.question
    return [
        f"the question: {asked.sentence}",
        f"{len(plan.treatments.arms)} arms, {plan.cuttings} cuttings, {title_of(plan)}, with every place as drawn",
        f"the verdict: of {asked.headline}, at alpha {asked.alpha:g}, on day {asked.endpoint_day}",
        f"the looks: day {', '.join(str(d) for d in [*plan.schedule.check_days, asked.endpoint_day])}",
    ]


@dataclass(frozen=True)
class Month:
    """A month of the year strip: its name, season here, and the waves planned in it."""

    name: str
    season: str
    waves: tuple[int, ...]


def year_strip(plan: Plan, hemisphere: Hemisphere) -> list[Month]:
    """The year as it runs here, with the waves; empty while no wave has a day."""
    dated = [wave for wave in plan.schedule.waves if wave.planned_for]
    if not dated:
        return []
    year = min(wave.planned_for for wave in dated if wave.planned_for).year
    months = []
    for number in range(1, 13):
        here = tuple(w.number for w in dated if w.planned_for and w.planned_for.month == number)
        middle = date(year, number, 15)
        months.append(Month(f"{middle:%b}", str(season_of(middle, hemisphere)), here))
    return months


@dataclass(frozen=True)
class Stock:
    """What the stock has for a design: plants of the taxon, the bench as measured, litres of media ready and reserved."""

    plants: list[StockPlant]
    bench: BenchKept | None
    ready: dict[str, float] = field(default_factory=dict)
    reserved: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Margin:
    """What the design can reach, whether it fits and what else could be done; or the rule it breaks."""

    reach: Feasibility | None
    places: str
    problem: str = ""
    layout: str = ""
    shared: bool = False
    assumed: bool = False
    proposal: Proposal | None = None
    fits: list[Fit] = field(default_factory=list)
    ways: list[Way] = field(default_factory=list)
    why_not: list[str] = field(default_factory=list)
    season: str = ""
    worth: str = ""
    trays: list[TrayView] = field(default_factory=list)
    plan: Plan | None = None

    @property
    def split(self) -> bool:
        """Whether one factor stands on whole plots."""
        return self.layout == LayoutKind.SPLIT_PLOT

    @property
    def as_proposed(self) -> bool:
        """Whether the layout is the one the answers ask for."""
        return self.proposal is not None and self.proposal.layout == self.layout


#: What the test will repeat, by layout.
REDRAWS = {
    LayoutKind.COMPLETELY_RANDOMISED.value: "over the whole bench",
    LayoutKind.COMPLETE_BLOCKS.value: "within its blocks",
    LayoutKind.PAIRS.value: "within its pairs",
    LayoutKind.LATIN_SQUARE.value: "any Latin square of the order, each as likely",
    LayoutKind.INCOMPLETE_BLOCKS.value: "labels, order of the blocks, places in them",
    LayoutKind.SPLIT_PLOT.value: "whole plots for the factor on them, inside them for the rest",
}


def margin_for(trial: Trial, form: MultiDict[str, str], stock: Stock) -> Margin:
    """Work the design out as typed."""
    before = trial.plan
    if not before.treatments.arms:
        return Margin(None, "", "Write the question first: the arms are made from its factors and levels.")
    proposal: Proposal | None = None
    try:
        values = read_design(form, before.question.response)
        proposal = _proposed(before, values)
        plan = operations.designed(before, values)
        return _worked_out(plan, values, proposal, stock, preview=not trial.trays)
    except OrderlyError as error:
        return Margin(None, "", str(error), proposal=proposal)


def _proposed(before: Plan, values: operations.DesignValues) -> Proposal | None:
    try:
        return propose(
            replace(before, design=replace(before.design, cuttings_per_arm=values.cuttings_per_arm)), values.answers
        )
    except OrderlyError:
        return None


def _worked_out(
    plan: Plan, values: operations.DesignValues, proposal: Proposal | None, stock: Stock, preview: bool
) -> Margin:
    request = request_for(plan, plan.schedule.waves[0])
    assumed = Assumed(values.assumed_rates, values.assumed_icc) if values.assumed_rates else None
    reach = feasibility(request, values.cuttings_per_unit, plan.question.alpha, assumed) if request.arms > 1 else None
    drawn = draw_plan(plan, np.random.default_rng(0))
    stands = [stand for wave in drawn for stand in wave.stands]
    cells = sum(1 if s.container.shape.alone else s.container.rows * s.container.columns for s in stands)
    total = sum(len(wave.units) for wave in drawn)
    used = len({(u.position.tray, u.position.row, u.position.column) for wave in drawn for u in wave.units})
    waves = f" over {len(drawn)} waves" if len(drawn) > 1 else ""
    what = "tray or vessel" if len(stands) == 1 else "trays or vessels"
    places = f"{len(stands)} {what} with {cells} places{waves}; {total} units in {used}, {cells - used} empty"
    found = fits_of(plan, drawn, stock)
    return Margin(
        reach, places, layout=values.layout, shared=any(plan.per_unit(arm) > 1 for arm in plan.treatments.arms),
        assumed=values.assumed_rates is not None, proposal=proposal, fits=found, ways=other_ways(plan, found), why_not=why_not(plan),
        season=season_words(plan), worth=worth_words(plan), trays=drawn_views(drawn, of_draw(plan, drawn).donors) if preview else [], plan=plan,
    )  # fmt: skip


def fits_of(plan: Plan, drawn: Sequence[WaveDraw], stock: Stock) -> list[Fit]:
    """The gauges: pieces, room, medium, hours."""
    first = drawn[0].stands
    sizes = [
        footprint(
            1 if s.container.shape.alone else s.container.rows,
            1 if s.container.shape.alone else s.container.columns,
            across(s.container.across_cm, s.container.volume_ml),
        )
        for s in first
    ]
    litres = [(medium.need.medium, medium.need.litres) for medium in media_of(plan)]
    return [
        fits.pieces(plan, stock.plants),
        fits.places(plan, sizes, stock.bench),
        *fits.media(plan, litres, stock.ready, stock.reserved),
        fits.hours(plan),
    ]


def season_words(plan: Plan) -> str:
    """What the waves of a season can show; blank where season is not asked."""
    season = plan.treatments.of_kind(AspectKind.SEASON)
    if season is None or not season.asked:
        return ""
    each = tuple(sum(wave.season == level.id for wave in plan.schedule.waves) for level in season.levels)
    least = least_waves(len(each), plan.question.alpha)
    if min(each) < 1:
        return f"A season without a wave shows nothing. {least} waves of each season are the least that can mean something."
    told = ", ".join(f"{n} of {level.name}" for n, level in zip(each, season.levels, strict=True))
    return (
        f"Waves: {told}. The smallest p they can reach is {smallest_p(each):.2g}; {least} of each season are the least."
    )


def worth_words(plan: Plan) -> str:
    """What sharing a container costs, in cuttings; blank where every cutting stands alone or no likeness is assumed."""
    design = plan.design
    if design.cuttings_per_unit < 2 or not design.assumed_icc:
        return ""
    worth = effective(design.cuttings_per_arm, design.cuttings_per_unit, design.assumed_icc)
    return (
        f"{design.cuttings_per_arm} cuttings {design.cuttings_per_unit} to a container are worth {worth:.0f} standing alone "
        f"(ICC {design.assumed_icc:g})."
    )


def map_of(trial: Trial, units: list[Unit], hidden: bool, donors: Mapping[int, str]) -> list[TrayView]:
    """The drawn bench; arms as stakes, or codes only while they are hidden. ``donors`` by unit."""

    def cell(unit: Unit) -> Cell:
        what = "" if hidden else f", arm {unit.arm.letter}: {unit.arm.name}"
        groups = "".join(f", {g.name}" for g in unit.groupings)
        donor = donors.get(unit.id, "")
        groups += f", from {donor}" if donor else ""
        place, code = unit.place, spaced(unit.code)
        label = f"{code}, row {place.row} column {place.column}{groups}{what}"
        group = next((g.name for g in unit.groupings if g.kind in PARTED), "")
        letter = "" if hidden else unit.arm.letter
        return Cell(
            place.row, place.column, unit.id, label, letter=letter, group=short_group(group), code=code, donor=donor
        )

    return tray_views(trial.trays, units, cell, blocks_of, cell_size([t.columns for t in trial.trays]))


def lid_words(units: list[Unit]) -> list[str]:
    """What the lids over several places do to the comparison."""
    under = [(g.name, unit.arm.letter) for unit in units for g in unit.groupings if g.kind == "lid"]
    return said_of(lids_of(under))


def stands_words(trial: Trial) -> str:
    """What it stands in: ``3 x tray, 4 x 8; 2 x jar``."""
    kinds = Counter(
        t.shape if (t.rows, t.columns) == (1, 1) else f"{t.shape}, {t.rows} x {t.columns}" for t in trial.trays
    )
    return "; ".join(f"{n} x {kind}" if n > 1 else kind for kind, n in kinds.items())


def unit_words(plan: Plan) -> list[tuple[str, list[str]]]:
    """What a unit is and how many replicates that makes, with the letters of the arms it holds for."""
    found: dict[str, list[str]] = {}
    for arm in plan.treatments.arms:
        units, per_unit = plan.units_of(arm), plan.per_unit(arm)
        what = f"{per_unit} cuttings together" if per_unit > 1 else "one cutting each"
        found.setdefault(f"{what}, {units} replicate{'s' if units != 1 else ''}", []).append(arm.id)
    return list(found.items())
