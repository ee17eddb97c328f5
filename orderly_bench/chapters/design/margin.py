"""What the Design page's margin works out of a design as it is typed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from orderly_bench.chapters.design import operations
from orderly_bench.chapters.design.material import of_draw
from orderly_bench.core.design import fits
from orderly_bench.core.design.bench import Stand
from orderly_bench.core.design.control_share import share_with_control
from orderly_bench.core.design.convincing import why_not
from orderly_bench.core.design.feasibility import Feasibility, feasibility
from orderly_bench.core.design.fits import Fit
from orderly_bench.core.design.from_plan import WaveDraw, draw_plan, request_of_all
from orderly_bench.core.design.propose import Proposal, in_water, on_trays_by_nature, propose
from orderly_bench.core.design.season_waves import least_waves, smallest_p
from orderly_bench.core.design.standing import across, footprint
from orderly_bench.core.errors import InvalidInput, OrderlyError
from orderly_bench.core.layouts.kinds import PLANNED, planned
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.question import Headline
from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.prepare.needs import media_of, undrained
from orderly_bench.core.prepare.short import taken_of
from orderly_bench.core.question.starts import TO_A_CONTAINER
from orderly_bench.core.rehearse.curve import (
    effective,
)
from orderly_bench.core.rehearse.other_ways import Way, convincing_ways, other_ways, season_way
from orderly_bench.core.rehearse.rate_width import rate_width
from orderly_bench.core.stock.kept import BenchKept, StockPlant
from orderly_bench.trial.models import Trial
from orderly_bench.web.bench_map import TrayView, drawn_views

#: Trays drawn while a design is typed.
MOST_DRAWN = 24


@dataclass(frozen=True)
class Stock:
    """What the stock has for a design: plants of the taxon, the bench as measured, litres of media ready and reserved, recipes."""

    plants: list[StockPlant]
    bench: BenchKept | None
    ready: dict[str, float] = field(default_factory=dict)
    reserved: dict[str, float] = field(default_factory=dict)
    recipes: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Margin:
    """What the design can reach, whether it fits and what else could be done; or the rule it breaks."""

    reach: Feasibility | None
    places: str
    problem: str = ""
    layout: str = ""
    shared: bool = False
    proposal: Proposal | None = None
    fits: list[Fit] = field(default_factory=list)
    ways: list[Way] = field(default_factory=list)
    season_way: Way | None = None
    why_not: list[str] = field(default_factory=list)
    convincing: list[Way] = field(default_factory=list)
    minded: list[tuple[str, str]] = field(default_factory=list)
    season: str = ""
    worth: str = ""
    width: str = ""
    control: str = ""
    trays: list[TrayView] = field(default_factory=list)
    plan: Plan | None = None

    @property
    def first_trays(self) -> list[TrayView]:
        """Those that are drawn on the page."""
        return self.trays[:MOST_DRAWN]

    @property
    def more_trays(self) -> int:
        """How many more there are."""
        return len(self.trays[MOST_DRAWN:])

    @property
    def split(self) -> bool:
        """Whether one factor stands on whole plots."""
        return self.plan is not None and planned(self.plan.design.layout).whole_plots

    @property
    def as_proposed(self) -> bool:
        """Whether the layout is the one the answers ask for."""
        if self.plan is None or self.proposal is None:
            return self.proposal is not None and self.proposal.layout == self.layout
        return self.proposal.holds_for(self.plan)


#: What the test will repeat, by layout.
REDRAWS = {one.kind.value: one.redraws for one in PLANNED}


def margin_for(trial: Trial, form: operations.Form, stock: Stock) -> Margin:
    """Work the design out as typed."""
    before = trial.plan
    if not before.treatments.arms:
        return Margin(None, "", _("Write the question first: the arms are made from its factors and levels."))
    proposal: Proposal | None = None
    try:
        proposal = _proposed(before, form)
        plan = operations.designed(before, form)
        return _worked_out(plan, proposal, stock, preview=not trial.trays)
    except OrderlyError as error:
        return Margin(None, "", str(error), proposal=proposal)


def _proposed(before: Plan, form: operations.Form) -> Proposal | None:
    try:
        return propose(replace(before, design=operations.design_typed(before, form)))
    except OrderlyError:
        return None


def _worked_out(plan: Plan, proposal: Proposal | None, stock: Stock, preview: bool) -> Margin:
    request = request_of_all(plan)
    reach = (
        feasibility(
            request, plan.design.cuttings_per_unit, plan.question.alpha, plan.cuttings, len(plan.schedule.waves)
        )
        if request is not None and request.arms > 1
        else None
    )
    drawn = draw_plan(plan, np.random.default_rng(0))
    stands = [stand for wave in drawn for stand in wave.stands]
    cells = sum(1 if s.container.shape.alone else s.container.rows * s.container.columns for s in stands)
    total = sum(len(wave.units) for wave in drawn)
    used = len({(u.position.tray, u.position.row, u.position.column) for wave in drawn for u in wave.units})
    waves = _(" over {n} waves", n=len(drawn)) if len(drawn) > 1 else ""
    what = _("tray or vessel") if len(stands) == 1 else _("trays or vessels")
    places = _(
        "{n} {what} with {cells:place|places}{waves}; {total:unit|units} in {used}, {cells2} empty",
        n=len(stands),
        what=what,
        cells=cells,
        waves=waves,
        total=total,
        used=used,
        cells2=cells - used,
    )
    found = fits_of(plan, drawn, stock)
    return Margin(
        reach, places, layout=plan.design.layout.value, shared=any(plan.per_unit(arm) > 1 for arm in plan.treatments.arms),
        proposal=proposal, fits=found, ways=other_ways(plan, found), season_way=_season_way(plan), why_not=why_not(plan), convincing=convincing_ways(plan),
        minded=[*seldom_meant(plan), *spills(drawn)], season=season_words(plan), worth=worth_words(plan), width=width_words(plan), control=control_words(plan), trays=drawn_views(drawn, of_draw(plan, drawn).donors) if preview else [], plan=plan,
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
    litres = [(one.name, one.litres) for one in taken_of(media_of(plan, stock.recipes), stock.ready)]
    return [
        fits.pieces(plan, stock.plants),
        fits.places(plan, sizes, stock.bench),
        *fits.media(plan, litres, stock.ready, stock.reserved),
        fits.hours(plan),
    ]


def seldom_meant(plan: Plan) -> list[tuple[str, str]]:
    """What is seldom meant as it stands, with what to do."""
    found = []
    tray = on_trays_by_nature(plan)
    if tray:
        what = _("cell" if plan.design.container.shape is Shape.CELLS else plan.design.container.shape.value)
        gets = plan.treatments.aspect(plan.design.trays_get) if plan.design.trays_get else None
        said = gets is not None and gets.name == tray
        do = (
            _("You say that it goes on whole trays: lay it out so, above.")
            if said
            else _("Say so under 'Whole trays get', or give each its own.")
        )
        found.append((clause("on_whole_trays", name=tray, what=what), do))
    wet = [arm.id for arm in plan.treatments.arms if in_water(plan, arm)]
    if wet:
        do = _("Give it a jar or a tank under 'Arms that stand in something else': several in one are one unit.")
        found.append((clause("water_in_cells", arms=all_of(wet)), do))
    shut = undrained(plan)
    if shut:
        do = _("Take drained ones, or drill holes; or water by weight and say so in the care.")
        found.append((clause("not_drained", arms=all_of(shut)), do))
    number = next((a.name for a in plan.treatments.asked if a.name.casefold() == TO_A_CONTAINER), None)
    each = {plan.per_unit(arm) for arm in plan.treatments.arms}
    if number and len(each) == 1:
        do = _("Give each arm its number under 'Arms that stand in something else, or differ in number'.")
        found.append((clause("alike_in_number", name=number, n=next(iter(each))), do))
    return found


#: A container that holds less than this share of its places beside full ones is asked about.
NEARLY_EMPTY = 0.15


def spills(drawn: Sequence[WaveDraw]) -> list[tuple[str, str]]:
    """A second bed, or a tray for a handful, that nobody may have meant: what does not fit is asked about."""
    found = []
    for wave in drawn:
        used = Counter(unit.position.tray for unit in wave.units)
        kinds: dict[Container, list[Stand]] = {}
        for one in wave.stands:
            kinds.setdefault(one.container, []).append(one)
        for kind, stands in kinds.items():
            places, over = kind.rows * kind.columns, used[stands[-1].number]
            if kind.shape.vessel or len(stands) < 2 or (kind.shape is not Shape.BED and over > NEARLY_EMPTY * places):
                continue
            full = places * (len(stands) - 1)
            text = _(
                "{n} of {all} do not fit {full} places in {kind} of {rows} x {columns}: another is laid out for them.",
                n=str(over), all=str(full + over), full=str(full), kind=kind.shape, rows=str(kind.rows), columns=str(kind.columns),
            )  # fmt: skip
            found.append((text, _("Stick fewer, give it more places, or leave it so if another is there.")))
    return list(dict.fromkeys(found))


def _season_way(plan: Plan) -> Way | None:
    season = plan.treatments.of_kind(AspectKind.SEASON)
    return season_way(plan, least_waves(len(season.levels), plan.question.alpha)) if season else None


def season_words(plan: Plan) -> str:
    """What the waves of a season can show; blank where season is not asked."""
    season = plan.treatments.of_kind(AspectKind.SEASON)
    if season is None or not season.asked:
        return ""
    each = tuple(sum(wave.season == level.id for wave in plan.schedule.waves) for level in season.levels)
    least = least_waves(len(each), plan.question.alpha)
    if min(each) < 1:
        return _(
            "A season without a wave shows nothing. {least} waves of each season are the least that can mean something.",
            least=least,
        )
    told = ", ".join(_("{n} of {name}", n=n, name=level.name) for n, level in zip(each, season.levels, strict=True))
    return _(
        "Waves: {told}. The smallest p they can reach is {smallest_p:.2g}; {least} of each season are the least.",
        told=told,
        smallest_p=smallest_p(each),
        least=least,
    )


def worth_words(plan: Plan) -> str:
    """What sharing a container costs, in cuttings; blank where every cutting stands alone or no likeness is assumed."""
    design = plan.design
    if design.cuttings_per_unit < 2 or not design.assumed_icc:
        return ""
    worth = effective(design.cuttings_per_arm, design.cuttings_per_unit, design.assumed_icc)
    return _(
        "{cuttings_per_arm} cuttings {cuttings_per_unit} to a container are worth {worth:.0f} standing alone (ICC {assumed_icc:g}).",
        cuttings_per_arm=design.cuttings_per_arm,
        cuttings_per_unit=design.cuttings_per_unit,
        worth=worth,
        assumed_icc=design.assumed_icc,
    )


def width_words(plan: Plan) -> str:
    """What the cuttings of a rate would say of it if it comes as guessed; blank of another kind, or without a guess."""
    found = rate_width(plan)
    if found is None:
        return ""
    return _(
        "If {rate:.0f} % do, so many would say {low:.0f} to {high:.0f} % (95 % interval of {worth:.0f} cuttings standing alone).",
        rate=100 * found.rate,
        low=100 * found.interval.low,
        high=100 * found.interval.high,
        worth=found.worth,
    )


#: How much less a difference would have to vary before another sharing is worth saying.
WORTH_SAYING = 1.02


def control_words(plan: Plan) -> str:
    """How the same cuttings would best be shared with the control; blank where each arm is not held against it, or they are."""
    arms, design = plan.treatments.arms, plan.design
    control = next((arm for arm in arms if arm.control), None)
    if (
        plan.question.headline is not Headline.CONTROL
        or control is None
        or len(arms) < 3
        or not planned(design.layout).shuffles_units
    ):
        return ""
    of = {arm.id: plan.cuttings_of(arm) for arm in arms}
    step = design.cuttings_per_unit * planned(design.layout).strata(max(1, design.blocks))
    try:
        best = share_with_control(sum(of.values()), len(arms) - 1, step)
    except InvalidInput:
        return ""
    others = [n for arm, n in of.items() if arm != control.id]
    if 1 / of[control.id] + len(others) / sum(others) < WORTH_SAYING * best.variance:
        return ""
    return _(
        "{arms} arms are held against one control: of the same {total} cuttings {control} of the control and {each} of each other arm tell most.",
        arms=len(arms) - 1,
        total=sum(of.values()),
        control=best.control,
        each=best.each,
    )
