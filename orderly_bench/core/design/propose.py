"""Four plain questions propose the layout, with the reason; every layout can be chosen instead.

Fisher (1935), *The Design of Experiments*, ch. 4-5: what is expected to differ along the bench is put into blocks, rows or whole plots.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

import numpy as np

from orderly_bench.core.design.from_plan import request_for
from orderly_bench.core.errors import InvalidInput, OrderlyError
from orderly_bench.core.messages.say import phrase
from orderly_bench.core.messages.words import tell
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.treatments import ArmPlan, Shape
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.randomise.drawing import draw_layout
from orderly_bench.core.vocabulary import LayoutKind

#: Blocks tried, the usual first.
BLOCKS = (4, 3, 5, 6, 2, 8, 10)
GREATEST_SQUARE, LEAST_SQUARE = 8, 3
MOST_WHOLE_PLOTS = 24
MOST_ALIKE, MOST_PART_BLOCKS = 24, 60
#: Ways to take two pieces that belong together.
TOGETHER = ("", "stem", "place")
#: A medium that is water: tap water, rain water.
WATER = re.compile(r"\bwater$", re.IGNORECASE)
#: Trays of each arm below which two arms can't be told apart: 3 against 3 reach 0.1.
LEAST_TRAYS = 4
#: Aspects that go on a whole tray or cover by their nature.
ON_TRAYS = (AspectKind.BOTTOM_HEAT, AspectKind.COVER, AspectKind.LIGHT)


@dataclass(frozen=True)
class Answers:
    """The answers to the four questions.

    Attributes
    ----------
    ways : int
        Ends by which the bench differs: 0, 1 or 2 ways.
    together : str
        Blank; ``stem``: the pieces of one stem; ``place``: by place on the stem.
    on_tray : str
        Id of the asked aspect that goes on a whole tray; blank for none.
    per_unit : int
        Cuttings to a container.
    alike : int
        Containers that can be alike at most: what a stem gives, or an even stretch of the bench holds; 0: as many as there are arms.
    """

    ways: int = 0
    together: str = ""
    on_tray: str = ""
    per_unit: int = 1
    alike: int = 0

    def __post_init__(self) -> None:
        if self.ways not in (0, 1, 2):
            raise InvalidInput("gradient", tell("differs no way, one way or two ways"), self.ways)
        if self.together not in TOGETHER:
            raise InvalidInput("pieces", tell("belong to no stem, one stem, or a place on it"), self.together)
        if self.alike and not 2 <= self.alike <= MOST_ALIKE:
            rule = tell("must be 2 to {most_alike}; leave it blank where every arm has room", most_alike=MOST_ALIKE)
            raise InvalidInput("alike at most", rule, self.alike)


@dataclass(frozen=True)
class Proposal:
    """A layout with its numbers, and why; ``shape`` with ``per_unit`` cuttings in each is what they must stand in, None as planned."""

    layout: LayoutKind
    blocks: int
    cuttings_per_arm: int
    reason: str
    block_size: int = 0
    per_unit: int = 0
    shape: Shape | None = None

    def holds_for(self, plan: Plan) -> bool:
        """Whether the plan is laid out so."""
        design = plan.design
        if self.shape is not None and (design.container.shape, design.cuttings_per_unit) != (self.shape, self.per_unit):
            return False
        return design.layout is self.layout


def propose(plan: Plan, answers: Answers) -> Proposal:
    """The layout the answers ask for, with numbers that it can hold near those planned.

    Parameters
    ----------
    plan : Plan
        With its arms; ``cuttings_per_arm`` is aimed at.
    """
    arms = len(plan.treatments.arms)
    wanted = max(1, round(plan.design.cuttings_per_arm / answers.per_unit))
    if answers.on_tray:
        found = _whole_plots(plan, answers, wanted)
        if found is not None:
            return found
    if answers.together and arms == 2:
        return Proposal(LayoutKind.PAIRS, 1, wanted * answers.per_unit, phrase(f"propose/pairs_{answers.together}"))
    if answers.ways == 2 and LEAST_SQUARE <= arms <= GREATEST_SQUARE:
        return Proposal(LayoutKind.LATIN_SQUARE, 1, arms * answers.per_unit, phrase("propose/square", arms=arms))
    if (answers.ways or answers.together) and 0 < answers.alike < arms:
        found = _part_blocks(plan, answers, wanted)
        if found is not None:
            return found
    if answers.ways or answers.together:
        blocks = next((b for b in BLOCKS if wanted >= b and wanted % b == 0), None) or 2
        units = blocks * max(1, round(wanted / blocks))
        key = "stems" if answers.together else ("both_ways" if answers.ways == 2 else "blocks")
        return Proposal(
            LayoutKind.COMPLETE_BLOCKS, blocks, units * answers.per_unit, phrase(f"propose/{key}", blocks=blocks)
        )
    return Proposal(LayoutKind.COMPLETELY_RANDOMISED, 1, wanted * answers.per_unit, phrase("propose/random"))


def _part_blocks(plan: Plan, answers: Answers, wanted: int) -> Proposal | None:
    """Blocks that hold some of the arms, each arm equally often and linked to all others, near the number wanted; None without any."""
    arms, size = len(plan.treatments.arms), answers.alike
    whole = [(b * size // arms, b) for b in range(2, MOST_PART_BLOCKS + 1) if b * size % arms == 0]
    for units, blocks in sorted(whole, key=lambda one: (abs(one[0] - wanted), one)):
        design = replace(
            plan.design, layout=LayoutKind.INCOMPLETE_BLOCKS, blocks=blocks, block_size=size, cuttings_per_unit=answers.per_unit,
            cuttings_per_arm=units * answers.per_unit,
        )  # fmt: skip
        if holds(replace(plan, design=design)):
            key = "propose/part_stems" if answers.together else "propose/part_blocks"
            reason = phrase(key, arms=arms, size=size, blocks=blocks)
            return Proposal(LayoutKind.INCOMPLETE_BLOCKS, blocks, units * answers.per_unit, reason, size)
    return None


def _whole_plots(plan: Plan, answers: Answers, wanted: int) -> Proposal | None:
    """Whole plots for what goes on a tray, at least four of each level where the numbers allow; None where arms are missing."""
    aspect = plan.treatments.aspect(answers.on_tray)
    if aspect is None or not aspect.asked:
        raise InvalidInput("on a whole tray", tell("choose one of the aspects that are asked"), answers.on_tray)
    used = {arm.says.get(aspect.id) for arm in plan.treatments.arms}
    if len(plan.treatments.asked) < 2:
        return _trays_alone(plan, answers, aspect.name)
    for each in (4, 3, 5, 6, 2):
        plots = each * len(used)
        units = each * max(1, round(wanted / each))
        design = replace(
            plan.design, layout=LayoutKind.SPLIT_PLOT, whole_aspect=aspect.id, blocks=plots, cuttings_per_unit=answers.per_unit,
            cuttings_per_arm=units * answers.per_unit,
        )  # fmt: skip
        if plots <= MOST_WHOLE_PLOTS and holds(replace(plan, design=design)):
            return Proposal(
                LayoutKind.SPLIT_PLOT,
                plots,
                units * answers.per_unit,
                phrase("propose/split", name=aspect.name, plots=plots, each=each),
            )
    return None


def _trays_alone(plan: Plan, answers: Answers, name: str) -> Proposal:
    """Trays as the units, at least four for each arm, in blocks where the bench differs."""
    container, cuttings = plan.design.container, max(1, plan.design.cuttings_per_arm)
    cells = plan.design.cuttings_per_unit if container.shape.alone else container.rows * container.columns
    trays = max(LEAST_TRAYS, -(-cuttings // max(1, cells)))
    each = max(1, round(cuttings / trays))
    kind = LayoutKind.COMPLETE_BLOCKS if answers.ways else LayoutKind.COMPLETELY_RANDOMISED
    reason = phrase("propose/trays_alone", name=name, trays=trays, each=each)
    return Proposal(kind, trays if answers.ways else 1, trays * each, reason, 0, each, Shape.WHOLE_TRAY)


def on_trays_by_nature(plan: Plan) -> str:
    """Name of what is asked and mostly goes on a whole tray, while every cell or pot counts as its own unit; blank for none."""
    whole = plan.design.whole_aspect if plan.design.layout is LayoutKind.SPLIT_PLOT else ""
    if all(plan.container_of(arm).shape.alone for arm in plan.treatments.arms) or plan.design.under_lid > 1:
        return ""
    return next((a.name for a in plan.treatments.asked if a.kind in ON_TRAYS and a.id != whole), "")


def in_water(plan: Plan, arm: ArmPlan) -> bool:
    """Whether an arm's medium is water while what it stands in is a tray of cells or a bed."""
    aspect = plan.treatments.of_kind(AspectKind.MEDIUM)
    level = plan.treatments.value(arm, aspect) if aspect else None
    return level is not None and WATER.search(level.name) is not None and not plan.container_of(arm).shape.vessel


def holds(plan: Plan) -> bool:
    """Whether the plan's layout can be drawn in its first wave."""
    try:
        draw_layout(request_for(plan, plan.schedule.waves[0]), np.random.default_rng(0))
    except OrderlyError:
        return False
    return True
