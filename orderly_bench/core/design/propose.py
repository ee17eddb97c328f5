"""Four plain questions propose the layout, with the reason; every layout can be chosen instead.

Fisher (1935), *The Design of Experiments*, ch. 4-5: what is expected to differ along the bench is put into blocks, rows or whole plots.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from math import comb

import numpy as np

from orderly_bench.core.design.convincing import too_few
from orderly_bench.core.design.from_plan import request_for
from orderly_bench.core.errors import InvalidInput, OrderlyError
from orderly_bench.core.layouts.kinds import IN_BLOCKS, PLAIN, draw_layout, planned, suited
from orderly_bench.core.layouts.planned import Answers, Numbers
from orderly_bench.core.messages.say import clause
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import ON_TRAYS, SORTS, AspectKind
from orderly_bench.core.plan.plausible import is_water
from orderly_bench.core.plan.question import Headline
from orderly_bench.core.plan.treatments import ArmPlan, Shape
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.vocabulary import LayoutKind

#: Two pieces of one stem, as a cutting type says it.
OF_ONE_STEM = re.compile(r"\b(?:same|one) (?:stem|shoot|cane)\b", re.IGNORECASE)
#: Trays of each arm below which two arms can't be told apart (3 against 3 reach 0.1; in blocks of two it takes 6), and that are asked for.
LEAST_TRAYS, MOST_TRAYS = 4, 8


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
    design = plan.design
    wanted = max(1, round(design.cuttings_per_arm / design.cuttings_per_unit))
    aspect = plan.treatments.aspect(design.trays_get) if design.trays_get else None
    if design.trays_get and (aspect is None or not aspect.asked):
        raise InvalidInput("on a whole tray", _("choose one of the aspects that are asked"), design.trays_get)
    if aspect is not None and len(plan.treatments.asked) < 2:
        return _trays_alone(plan, aspect.name)

    def tried(layout: LayoutKind, numbers: Numbers) -> Plan:
        whole = aspect.id if aspect else design.whole_aspect
        return replace(plan, design=replace(design.with_numbers(numbers), layout=layout, whole_aspect=whole))

    def can(layout: LayoutKind, numbers: Numbers) -> bool:
        return holds(tried(layout, numbers))

    def convinces(layout: LayoutKind, numbers: Numbers) -> bool:
        plan = tried(layout, numbers)
        return holds(plan) and not too_few(plan)

    layout, found = suited(
        Answers(
            len(plan.treatments.arms), wanted, design.cuttings_per_unit, design.gradient_ways, design.pieces_by or _said_together(plan),
            design.alike_at_most,
            aspect.name if aspect else "", len({arm.says.get(aspect.id) for arm in plan.treatments.arms}) if aspect else 0,
            _needed(plan), can, convinces, design.layout, design.blocks,
        )
    )  # fmt: skip
    numbers, reason = found.numbers, found.reason
    if design.pieces_by and planned(layout).paired and all(SORTS[one.kind].property for one in plan.treatments.asked):
        reason = clause("propose/pairs_of_kinds")
    return Proposal(layout, numbers.blocks, numbers.per_arm, reason, numbers.block_size)


def _needed(plan: Plan) -> float:
    """The p that one comparison of the verdict must reach to be clear, whatever the others come to (Holm's first step)."""
    arms = len(plan.treatments.arms)
    if plan.question.max_t:
        comparisons = 1
    elif plan.speaks_of is not Headline.FACTORS:
        comparisons = arms - 1 if plan.speaks_of is Headline.CONTROL else comb(arms, 2)
    else:
        levels = [{arm.says.get(one.id) for arm in plan.treatments.arms} for one in plan.treatments.asked]
        comparisons = sum(comb(len(one), 2) for one in levels)
    return plan.question.alpha_left / max(1, comparisons)


def _said_together(plan: Plan) -> str:
    """What the pieces share by what their cutting type says: *tip*, *lower, of the same stem*; blank where it says nothing."""
    kind = plan.treatments.of_kind(AspectKind.CUTTING_TYPE)
    if kind is None or not kind.asked or len(kind.levels) != 2:
        return ""
    return "said" if any(OF_ONE_STEM.search(level.name) for level in kind.levels) else ""


def _trays_alone(plan: Plan, name: str) -> Proposal:
    """Trays as the units, as many for each arm as two can be told apart by, in blocks where the bench differs."""
    container, cuttings = plan.design.container, max(1, plan.design.cuttings_per_arm)
    cells = plan.design.cuttings_per_unit if container.shape.alone else container.rows * container.columns
    blocked = bool(plan.design.gradient_ways)
    tried = range(LEAST_TRAYS, MOST_TRAYS)
    least = next((n for n in tried if 2 / (2**n if blocked else comb(2 * n, n)) < _needed(plan)), MOST_TRAYS)
    trays = max(least, -(-cuttings // max(1, cells)))
    each = max(1, round(cuttings / trays))
    kind = IN_BLOCKS if plan.design.gradient_ways else PLAIN
    reason = clause("propose/trays_alone", name=name, trays=trays, each=each)
    return Proposal(kind, trays if plan.design.gradient_ways else 1, trays * each, reason, 0, each, Shape.WHOLE_TRAY)


def on_trays_by_nature(plan: Plan) -> str:
    """Name of what is asked and mostly goes on a whole tray, while every cell or pot counts as its own unit; blank for none."""
    whole = plan.design.whole_aspect if planned(plan.design.layout).whole_plots else ""
    if all(plan.container_of(arm).shape.alone for arm in plan.treatments.arms) or plan.design.under_lid > 1:
        return ""
    return next((a.name for a in plan.treatments.asked if a.kind in ON_TRAYS and a.id != whole), "")


def in_water(plan: Plan, arm: ArmPlan) -> bool:
    """Whether an arm's medium is water while what it stands in is a tray of cells or a bed."""
    aspect = plan.treatments.of_kind(AspectKind.MEDIUM)
    level = plan.treatments.value(arm, aspect) if aspect else None
    return level is not None and is_water(level.name) and not plan.container_of(arm).shape.vessel


def holds(plan: Plan) -> bool:
    """Whether the plan's layout can be drawn in its first wave."""
    try:
        draw_layout(request_for(plan, plan.schedule.waves[0]), np.random.default_rng(0))
    except OrderlyError:
        return False
    return True
