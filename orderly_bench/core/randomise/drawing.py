"""Draw a layout from the plan: which arm goes to which place on the bench."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.words import tell
from orderly_bench.core.randomise.incomplete_blocks import draw_in_part_blocks
from orderly_bench.core.randomise.latin_square import draw_in_a_square
from orderly_bench.core.randomise.layout import Layout, Request
from orderly_bench.core.randomise.shuffled import draw_in_blocks, draw_in_pairs, draw_over_the_bench
from orderly_bench.core.randomise.split_plot import draw_in_whole_plots
from orderly_bench.core.vocabulary import LayoutKind

#: Layouts in which arms may have different numbers of units.
UNEQUAL = (LayoutKind.COMPLETELY_RANDOMISED, LayoutKind.COMPLETE_BLOCKS)


def draw_layout(request: Request, rng: np.random.Generator) -> Layout:
    """Draw; unit i of the layout is the i-th place on the bench, in the order a person walks it.

    Raises
    ------
    InvalidInput
        What the layout can't hold, with the nearest that it can.
    """
    if request.units_per_arm < 1:
        raise InvalidInput("units per arm", tell("must be 1 or more"), request.units_per_arm)
    if request.unequal and request.kind not in UNEQUAL:
        rule = tell(
            "must be the same in every arm of {value}; take blocks or complete randomisation", value=request.kind.value
        )
        raise InvalidInput("units per arm", rule, ", ".join(map(str, request.unequal)))
    draws: dict[LayoutKind, Callable[[Request, np.random.Generator], Layout]] = {
        LayoutKind.COMPLETELY_RANDOMISED: draw_over_the_bench,
        LayoutKind.COMPLETE_BLOCKS: draw_in_blocks,
        LayoutKind.PAIRS: draw_in_pairs,
        LayoutKind.LATIN_SQUARE: draw_in_a_square,
        LayoutKind.INCOMPLETE_BLOCKS: draw_in_part_blocks,
        LayoutKind.SPLIT_PLOT: draw_in_whole_plots,
    }
    return draws[request.kind](request, rng)
