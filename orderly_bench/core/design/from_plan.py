"""From the plan to the bench: what is to be drawn in each wave, and the draw itself."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orderly_bench.core.design.bench import Position, Stand, stand
from orderly_bench.core.design.lids import lids_over
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.layouts.kinds import PLANNED, draw_layout, planned
from orderly_bench.core.layouts.split_plot.draw import whole_plot_arms
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.question import TrialKind
from orderly_bench.core.plan.treatments import MOST_WAVES, ArmPlan
from orderly_bench.core.plan.value import BlocksAre, Plan, PlannedWave
from orderly_bench.core.randomise.drawn_layout import DrawnLayout, Request

LONGEST_NAME = 40


@dataclass(frozen=True)
class PlacedUnit:
    """A unit as drawn: its arm's letter, where it stands, its groups by kind, its planned cuttings."""

    arm: str
    position: Position
    groups: dict[str, str]
    cuttings: int


@dataclass(frozen=True)
class WaveDraw:
    """The draw of one wave: units in bench order, what they stand in, and the letters in the order they were drawn."""

    wave: int
    units: list[PlacedUnit]
    stands: list[Stand]
    result: str


def arms_in(plan: Plan, wave: PlannedWave) -> list[ArmPlan]:
    """The arms that are stuck in a wave."""
    return [arm for arm in plan.treatments.arms if wave in plan.waves_of(arm)]


def check_waves(plan: Plan) -> None:
    """Waves as they may be drawn.

    Raises
    ------
    InvalidInput
        None or too many, a season without a wave, a layout that can't be repeated, dates out of order.
    """
    waves, layout = plan.schedule.waves, planned(plan.design.layout)
    if not 1 <= len(waves) <= MOST_WAVES:
        raise InvalidInput("waves", _("plan 1 to {most_waves}", most_waves=MOST_WAVES), len(waves))
    dated = [wave.planned_for for wave in waves if wave.planned_for]
    if dated != sorted(dated):
        raise InvalidInput("waves", _("number them in the order of their dates"), ", ".join(map(str, dated)))
    season = plan.treatments.of_kind(AspectKind.SEASON)
    if season is not None and plan.seasons_in_waves:
        lacking = [level.name for level in season.levels if level.id not in [wave.season for wave in waves]]
        if lacking:
            raise InvalidInput("waves", _("give every season at least one wave; without one are"), ", ".join(lacking))
        if not layout.shuffles_units:
            raise InvalidInput(
                "layout",
                _(
                    "with waves that belong to seasons is drawn inside each wave: completely randomised or complete blocks"
                ),
                layout.kind,
            )
    if len(waves) > 1 and not layout.any_number:
        names = ", ".join(one.kind for one in PLANNED if one.any_number)
        raise InvalidInput("layout", _("of several waves must be one of: {names}", names=names), layout.kind)


def check_blocks(plan: Plan) -> None:
    """Blocks that are plants, days or people have a name each.

    Raises
    ------
    InvalidInput
        A layout without blocks, a name too few or too many, two alike.
    """
    design = plan.design
    if design.blocks_are is BlocksAre.PLACES:
        return
    if not planned(design.layout).names_blocks:
        names = ", ".join(one.kind for one in PLANNED if one.names_blocks)
        raise InvalidInput(
            "blocks",
            _("can be {blocks_are} in: {names}", blocks_are=design.blocks_are, names=names),
            design.layout,
        )
    given = [" ".join(name.split()) for name in design.block_names]
    if len(given) != design.blocks or not all(1 <= len(name) <= LONGEST_NAME for name in given):
        rule = _(
            "give each of the {blocks} a name, a line each, within {longest_name} characters",
            blocks=design.blocks,
            longest_name=LONGEST_NAME,
        )
        raise InvalidInput(f"blocks that are {design.blocks_are}", rule, len(given))
    if len({name.casefold() for name in given}) < len(given):
        raise InvalidInput(f"blocks that are {design.blocks_are}", _("may not share a name"), ", ".join(given)[:60])


def check_vessels(plan: Plan) -> None:
    """Arms that stand in the same vessel are one unit together, and can only be looked at.

    Raises
    ------
    InvalidInput
        A test of arms that share their vessels; arms of different media in one.
    """
    if not plan.design.one_vessel or planned(plan.design.layout).whole_plots:
        return
    medium = plan.treatments.of_kind(AspectKind.MEDIUM)
    if medium is not None and len({arm.says.get(medium.id) for arm in plan.treatments.arms}) > 1:
        raise InvalidInput(
            "vessels", _("that hold every arm hold one medium; arms that differ in it need vessels of their own")
        )
    if plan.question.kind is TrialKind.TEST:
        raise InvalidInput(
            "vessels",
            _(
                "that hold every arm are one unit for them all: make the trial a look on the Question page, or give each arm vessels of its own"
            ),
        )


def request_for(plan: Plan, wave: PlannedWave) -> Request:
    """What is to be drawn in a wave.

    Raises
    ------
    InvalidInput
        The first rule it breaks.
    """
    design, arms, layout = plan.design, arms_in(plan, wave), planned(plan.design.layout)
    if plan.question.kind is TrialKind.RATE:
        if layout.stratified:
            raise InvalidInput(
                "layout",
                _("of a rate is completely randomised: there is nothing to compare inside blocks"),
                design.layout,
            )
    elif len(arms) < 2 and len(plan.treatments.arms) < 2:
        raise InvalidInput("arms", _("pick at least two; one arm has nothing to be compared with"), len(arms))
    if design.cuttings_per_arm % design.cuttings_per_unit:
        rule = _(
            "must be a multiple of the {cuttings_per_unit} in one unit", cuttings_per_unit=design.cuttings_per_unit
        )
        raise InvalidInput("cuttings per arm", rule, design.cuttings_per_arm)
    units = [plan.units_of(arm) for arm in arms]
    return Request(
        design.layout,
        len(arms),
        min(units),
        design.blocks if layout.counts_blocks else 1,
        design.block_size if layout.part_blocks else 0,
        _whole(plan, arms) if layout.whole_plots else (),
        tuple(units) if len(set(units)) > 1 else (),
    )


def request_of_all(plan: Plan) -> Request | None:
    """What is drawn over all waves, which are blocks, each filled by itself. None where nothing is drawn inside them: season alone is asked."""
    waves = plan.schedule.waves
    season = plan.treatments.of_kind(AspectKind.SEASON)
    if season is not None and season.asked and len(plan.treatments.asked) < 2:
        return None
    one = request_for(plan, waves[0])
    return one if len(waves) == 1 else planned(one.kind).over_waves(one, len(waves))


def _whole(plan: Plan, arms: Sequence[ArmPlan]) -> tuple[tuple[int, ...], ...]:
    asked = plan.treatments.asked
    whole = next((i for i, aspect in enumerate(asked) if aspect.id == plan.design.whole_aspect), None)
    if whole is None:
        names = ", ".join(aspect.name for aspect in asked)
        raise InvalidInput("factor on whole plots", _("choose one of: {names}", names=names), plan.design.whole_aspect)
    order = [[level.id for level in aspect.levels] for aspect in asked]
    index = [tuple(order[i].index(arm.says[a.id]) for i, a in enumerate(asked)) for arm in arms]
    return whole_plot_arms([arm[whole] for arm in index], [arm[:whole] + arm[whole + 1 :] for arm in index])


def draw_plan(plan: Plan, rng: np.random.Generator) -> list[WaveDraw]:
    """Draw every wave, each within itself.

    Raises
    ------
    InvalidInput
        What the layout, the trays or the waves can't hold.
    """
    check_waves(plan)
    check_blocks(plan)
    check_vessels(plan)
    drawn: list[WaveDraw] = []
    for wave in plan.schedule.waves:
        layout = draw_layout(request_for(plan, wave), rng)
        drawn.append(_placed(plan, wave, layout, 1 + sum(len(d.stands) for d in drawn)))
    return drawn


def _placed(plan: Plan, wave: PlannedWave, layout: DrawnLayout, first_tray: int) -> WaveDraw:
    arms = arms_in(plan, wave)
    of_unit = [arms[a] for a in layout.arm.tolist()]
    containers = [plan.container_of(arm) for arm in of_unit]
    positions, stands = stand(layout, containers, first_tray, plan.design.one_vessel)
    groups = _groups(plan, wave, layout)
    wide = {stand.number: 1 if stand.container.shape.alone else stand.container.columns for stand in stands}
    stood = [
        (arm.id, at.tray, (at.row - 1) * wide[at.tray] + at.column) for arm, at in zip(of_unit, positions, strict=True)
    ]
    lids = lids_over(stood, plan.design.under_lid, {arm.id: arm.under_lid for arm in arms})
    for named, lid in zip(groups, lids, strict=True):
        if lid is not None:
            named["lid"] = lid
    units = [
        PlacedUnit(arm.id, position, named, plan.per_unit(arm))
        for arm, position, named in zip(of_unit, positions, groups, strict=True)
    ]
    units.sort(key=lambda u: (u.position.tray, u.position.row, u.position.column, u.position.spot))
    return WaveDraw(wave.number, units, stands, "".join(arm.id for arm in of_unit))


def _groups(plan: Plan, wave: PlannedWave, layout: DrawnLayout) -> list[dict[str, str]]:
    """Typed groups of each unit; with several waves a group belongs to its wave, and a wave without blocks is a block."""
    several = len(plan.schedule.waves) > 1
    before = f"wave {wave.number} " if several else ""
    kinds = layout.groups()
    if several and not kinds and not any(w.season for w in plan.schedule.waves):
        return [{"block": f"wave {wave.number}"} for _ in range(layout.arm.size)]
    named = plan.design.block_names if plan.design.blocks_are is not BlocksAre.PLACES else ()

    def name(kind: str, number: int) -> str:
        return before + (named[number] if named and kind == "block" else f"{kind} {number + 1}")

    return [{kind: name(kind, int(of[unit])) for kind, of in kinds.items()} for unit in range(layout.arm.size)]
