"""The layouts that can be planned, in the order in which they are proposed: one list, asked for everywhere."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.layouts.complete_blocks.planned import PlannedInBlocks
from orderly_bench.core.layouts.completely_randomised.planned import PlannedOverTheBench
from orderly_bench.core.layouts.incomplete_blocks.planned import PlannedInPartBlocks
from orderly_bench.core.layouts.latin_square.planned import PlannedInASquare
from orderly_bench.core.layouts.pairs.planned import PlannedInPairs
from orderly_bench.core.layouts.planned import Answers, Planned, Suited
from orderly_bench.core.layouts.reach import Reach
from orderly_bench.core.layouts.split_plot.planned import PlannedOnWholePlots
from orderly_bench.core.messages.translation import cached_per_language
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.randomise.drawn_layout import DrawnLayout, Request
from orderly_bench.core.vocabulary import LayoutKind

#: The closest to what was answered first.
PLANNED: tuple[Planned, ...] = (
    PlannedOnWholePlots(), PlannedInPairs(), PlannedInASquare(), PlannedInPartBlocks(), PlannedInBlocks(), PlannedOverTheBench(),
)  # fmt: skip
OF = {one.kind: one for one in PLANNED}
#: The layout of pairs, and those of units shuffled one by one, without blocks and with them.
PAIRED = next(one.kind for one in PLANNED if one.paired)
PLAIN, IN_BLOCKS = (
    next(one.kind for one in PLANNED if one.shuffles_units and one.stratified is blocks) for blocks in (False, True)
)


def planned(kind: LayoutKind) -> Planned:
    """What a layout answers before its trial."""
    return OF[kind]


def suited(answers: Answers) -> tuple[LayoutKind, Suited]:
    """The layout that answers ask for, with its numbers.

    >>> suited(Answers(2, 24, 1, 0, "", 0, "", 0, 0.05, lambda *_: True, lambda *_: True))[0].value
    'completely randomised'
    """
    return next((one.kind, found) for one in PLANNED if (found := one.proposal(answers)) is not None)


def from_groups(groups: set[str], complete: bool) -> LayoutKind:
    """The layout that units with groups of these kinds stand in; ``complete`` where every block holds every arm."""
    return next(one.kind for one in PLANNED if one.made_by(groups, complete))


def draw_layout(request: Request, rng: np.random.Generator) -> DrawnLayout:
    """Draw; unit i of the layout is the i-th place on the bench, in the order a person walks it.

    Raises
    ------
    InvalidInput
        What the layout can't hold, with the nearest that it can.
    """
    if request.units_per_arm < 1:
        raise InvalidInput("units per arm", _("must be 1 or more"), request.units_per_arm)
    if request.unequal and not planned(request.kind).shuffles_units:
        rule = _(
            "must be the same in every arm of {value}; take blocks or complete randomisation", value=request.kind.value
        )
        raise InvalidInput("units per arm", rule, ", ".join(map(str, request.unequal)))
    return planned(request.kind).draw(request, rng)


@cached_per_language(128)
def reach_of(request: Request) -> Reach:
    """Smallest reachable p of a layout that can be drawn.

    Raises
    ------
    InvalidInput
        What the layout can't hold.
    """
    draw_layout(request, np.random.default_rng(0))
    return planned(request.kind).reach(request)
