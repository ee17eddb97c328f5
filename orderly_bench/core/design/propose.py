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
MOST_PART_BLOCKS = 60
#: A medium that is water: tap water, rain water.
WATER = re.compile(r"\bwater$", re.IGNORECASE)
#: Trays of each arm below which two arms can't be told apart: 3 against 3 reach 0.1.
LEAST_TRAYS = 4
#: Aspects that go on a whole tray or cover by their nature.
ON_TRAYS = (AspectKind.BOTTOM_HEAT, AspectKind.COVER, AspectKind.LIGHT)


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


def propose(plan: Plan) -> Proposal:
    """The layout that the design's answers ask for, with numbers that it can hold near those planned.

    The answers are its ``gradient_ways``, ``pieces_by``, ``trays_get`` and ``alike_at_most``; ``cuttings_per_arm`` is aimed at.
    """
    arms, answers = len(plan.treatments.arms), plan.design
    wanted = max(1, round(plan.design.cuttings_per_arm / answers.cuttings_per_unit))
    if answers.trays_get:
        found = _whole_plots(plan, wanted)
        if found is not None:
            return found
    if answers.pieces_by and arms == 2:
        return Proposal(
            LayoutKind.PAIRS, 1, wanted * answers.cuttings_per_unit, phrase(f"propose/pairs_{answers.pieces_by}")
        )
    if answers.gradient_ways == 2 and LEAST_SQUARE <= arms <= GREATEST_SQUARE:
        return Proposal(
            LayoutKind.LATIN_SQUARE, 1, arms * answers.cuttings_per_unit, phrase("propose/square", arms=arms)
        )
    if (answers.gradient_ways or answers.pieces_by) and 0 < answers.alike_at_most < arms:
        found = _part_blocks(plan, wanted)
        if found is not None:
            return found
    if answers.gradient_ways or answers.pieces_by:
        blocks = next((b for b in BLOCKS if wanted >= b and wanted % b == 0), None) or 2
        units = blocks * max(1, round(wanted / blocks))
        key = "stems" if answers.pieces_by else ("both_ways" if answers.gradient_ways == 2 else "blocks")
        return Proposal(
            LayoutKind.COMPLETE_BLOCKS,
            blocks,
            units * answers.cuttings_per_unit,
            phrase(f"propose/{key}", blocks=blocks),
        )
    return Proposal(LayoutKind.COMPLETELY_RANDOMISED, 1, wanted * answers.cuttings_per_unit, phrase("propose/random"))


def _part_blocks(plan: Plan, wanted: int) -> Proposal | None:
    """Blocks that hold some of the arms, each arm equally often and linked to all others, near the number wanted; None without any."""
    answers = plan.design
    arms, size = len(plan.treatments.arms), answers.alike_at_most
    whole = [(b * size // arms, b) for b in range(2, MOST_PART_BLOCKS + 1) if b * size % arms == 0]
    for units, blocks in sorted(whole, key=lambda one: (abs(one[0] - wanted), one)):
        design = replace(
            plan.design, layout=LayoutKind.INCOMPLETE_BLOCKS, blocks=blocks, block_size=size,
            cuttings_per_arm=units * answers.cuttings_per_unit,
        )  # fmt: skip
        if holds(replace(plan, design=design)):
            key = "propose/part_stems" if answers.pieces_by else "propose/part_blocks"
            reason = phrase(key, arms=arms, size=size, blocks=blocks)
            return Proposal(LayoutKind.INCOMPLETE_BLOCKS, blocks, units * answers.cuttings_per_unit, reason, size)
    return None


def _whole_plots(plan: Plan, wanted: int) -> Proposal | None:
    """Whole plots for what goes on a tray, at least four of each level where the numbers allow; None where arms are missing."""
    answers = plan.design
    aspect = plan.treatments.aspect(answers.trays_get)
    if aspect is None or not aspect.asked:
        raise InvalidInput("on a whole tray", tell("choose one of the aspects that are asked"), answers.trays_get)
    used = {arm.says.get(aspect.id) for arm in plan.treatments.arms}
    if len(plan.treatments.asked) < 2:
        return _trays_alone(plan, aspect.name)
    for each in (4, 3, 5, 6, 2):
        plots = each * len(used)
        units = each * max(1, round(wanted / each))
        design = replace(
            plan.design, layout=LayoutKind.SPLIT_PLOT, whole_aspect=aspect.id, blocks=plots,
            cuttings_per_arm=units * answers.cuttings_per_unit,
        )  # fmt: skip
        if plots <= MOST_WHOLE_PLOTS and holds(replace(plan, design=design)):
            return Proposal(
                LayoutKind.SPLIT_PLOT,
                plots,
                units * answers.cuttings_per_unit,
                phrase("propose/split", name=aspect.name, plots=plots, each=each),
            )
    return None


def _trays_alone(plan: Plan, name: str) -> Proposal:
    """Trays as the units, at least four for each arm, in blocks where the bench differs."""
    container, cuttings = plan.design.container, max(1, plan.design.cuttings_per_arm)
    cells = plan.design.cuttings_per_unit if container.shape.alone else container.rows * container.columns
    trays = max(LEAST_TRAYS, -(-cuttings // max(1, cells)))
    each = max(1, round(cuttings / trays))
    kind = LayoutKind.COMPLETE_BLOCKS if plan.design.gradient_ways else LayoutKind.COMPLETELY_RANDOMISED
    reason = phrase("propose/trays_alone", name=name, trays=trays, each=each)
    return Proposal(kind, trays if plan.design.gradient_ways else 1, trays * each, reason, 0, each, Shape.WHOLE_TRAY)


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
