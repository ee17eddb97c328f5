"""Draw a layout from the plan: which arm goes to which place on the bench."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.randomise.incomplete import blocks_of_arms, check_incomplete
from orderly_bench.core.randomise.latin_square import check_order, draw_square
from orderly_bench.core.randomise.layouts import IncompleteBlocks, LatinSquare, Layout, ShuffledWithin, SplitPlot
from orderly_bench.core.vocabulary import LayoutKind

#: Layouts in which arms may have different numbers of units.
UNEQUAL = (LayoutKind.COMPLETELY_RANDOMISED, LayoutKind.COMPLETE_BLOCKS)


@dataclass(frozen=True)
class Request:
    """What is to be drawn.

    Attributes
    ----------
    kind : LayoutKind
    arms : int
    units_per_arm : int
        Experimental units of each arm over the whole trial.
    blocks : int
        Complete or incomplete blocks; whole plots over all levels in a split-plot; else 1.
    block_size : int
        Units of an incomplete block.
    whole : tuple of tuple of int
        For a split-plot: arm indices by level of the whole-plot factor, each in the order of the combinations inside.
    unequal : tuple of int
        Units of each arm where they differ; only completely randomised or in blocks. ``units_per_arm`` is then the least.
    """

    kind: LayoutKind
    arms: int
    units_per_arm: int
    blocks: int = 1
    block_size: int = 0
    whole: tuple[tuple[int, ...], ...] = ()
    unequal: tuple[int, ...] = ()

    @property
    def units(self) -> tuple[int, ...]:
        """Units of each arm."""
        return self.unequal or (self.units_per_arm,) * self.arms


def draw_layout(request: Request, rng: np.random.Generator) -> Layout:
    """Draw; unit i of the layout is the i-th place on the bench, in the order a person walks it.

    Raises
    ------
    InvalidInput
        What the layout can't hold, with the nearest that it can.
    """
    if request.units_per_arm < 1:
        raise InvalidInput("units per arm", "must be 1 or more", request.units_per_arm)
    if request.unequal and request.kind not in UNEQUAL:
        rule = f"must be the same in every arm of {request.kind.value}; take blocks or complete randomisation"
        raise InvalidInput("units per arm", rule, ", ".join(map(str, request.unequal)))
    draw = {
        LayoutKind.COMPLETELY_RANDOMISED: _completely_randomised,
        LayoutKind.COMPLETE_BLOCKS: _complete_blocks,
        LayoutKind.PAIRS: _pairs,
        LayoutKind.LATIN_SQUARE: _latin_square,
        LayoutKind.INCOMPLETE_BLOCKS: _incomplete_blocks,
        LayoutKind.SPLIT_PLOT: _split_plot,
    }[request.kind]
    return draw(request, rng)


def check_request(request: Request) -> None:
    """Raise what drawing would raise, without a draw to keep."""
    draw_layout(request, np.random.default_rng(0))


def completely_randomised(units_per_arm: list[int], rng: np.random.Generator) -> ShuffledWithin:
    """Arms of any sizes shuffled over one stratum."""
    arms = np.repeat(np.arange(len(units_per_arm)), units_per_arm)
    return ShuffledWithin(rng.permutation(arms), np.zeros(arms.size, dtype=int))


def complete_blocks(units: Sequence[int], blocks: int, rng: np.random.Generator) -> ShuffledWithin:
    """Randomised complete blocks: every block holds an equal part of each arm.

    Raises
    ------
    InvalidInput
        When the units of an arm do not divide over the blocks.
    """
    for own in units:
        if own % blocks:
            fitting = blocks * max(1, round(own / blocks))
            raise InvalidInput("units per arm", f"must be a multiple of the {blocks} blocks; take {fitting}", own)
    each = np.repeat(np.arange(len(units)), [own // blocks for own in units])
    drawn = np.concatenate([rng.permutation(each) for _ in range(blocks)])
    return ShuffledWithin(drawn, np.repeat(np.arange(blocks), each.size), "block")


def _completely_randomised(request: Request, rng: np.random.Generator) -> Layout:
    return completely_randomised(list(request.units), rng)


def _complete_blocks(request: Request, rng: np.random.Generator) -> Layout:
    return complete_blocks(request.units, request.blocks, rng)


def _pairs(request: Request, rng: np.random.Generator) -> Layout:
    if request.arms != 2:
        raise InvalidInput(
            "arms", "a pair has one cutting for each of two arms; choose two, or take blocks", request.arms
        )
    drawn = complete_blocks([request.units_per_arm] * 2, request.units_per_arm, rng)
    return ShuffledWithin(drawn.arm, drawn.stratum, "pair")


def _latin_square(request: Request, rng: np.random.Generator) -> Layout:
    order = check_order(request.arms)
    if request.units_per_arm != order:
        rule = f"is {order} in a Latin square of {order} arms: one in each row and column"
        raise InvalidInput("units per arm", rule, request.units_per_arm)
    square = draw_square(order, rng)
    row, column = np.divmod(np.arange(order * order), order)
    return LatinSquare(square.ravel(), row, column)


def _incomplete_blocks(request: Request, rng: np.random.Generator) -> Layout:
    units = check_incomplete(request.arms, request.block_size, request.blocks)
    if request.units_per_arm != units:
        rule = f"is {units}: {request.blocks} blocks of {request.block_size} over {request.arms} arms"
        raise InvalidInput("units per arm", rule, request.units_per_arm)
    sets = np.array(blocks_of_arms(request.arms, request.block_size, request.blocks))
    made = IncompleteBlocks(sets.ravel(), np.repeat(np.arange(request.blocks), request.block_size))
    return IncompleteBlocks(made.redraw(rng, 1)[0], made.block)


def _split_plot(request: Request, rng: np.random.Generator) -> Layout:
    levels, subs = len(request.whole), len(request.whole[0]) if request.whole else 0
    if levels < 2 or subs < 2 or any(len(arms) != subs for arms in request.whole):
        raise InvalidInput("arms", "a split-plot needs every combination of two or more factors", request.arms)
    if request.blocks % levels or request.blocks < 2 * levels:
        rule = f"must be a multiple of the {levels} levels of the whole-plot factor, and at least {2 * levels}"
        raise InvalidInput("whole plots", rule, request.blocks)
    plots_per_level = request.blocks // levels
    if request.units_per_arm % plots_per_level:
        fitting = plots_per_level * max(1, round(request.units_per_arm / plots_per_level))
        rule = f"must be a multiple of the {plots_per_level} whole plots of each level; take {fitting}"
        raise InvalidInput("units per arm", rule, request.units_per_arm)
    inside = np.repeat(np.arange(subs), request.units_per_arm // plots_per_level)
    plot = np.repeat(np.arange(request.blocks), inside.size)
    whole = rng.permutation(np.repeat(np.arange(levels), plots_per_level))[plot]
    sub = np.concatenate([rng.permutation(inside) for _ in range(request.blocks)])
    return SplitPlot(whole, sub, plot, np.array(request.whole))


def whole_plot_arms(level_of_arm: list[int], combination_inside: list[tuple[int, ...]]) -> tuple[tuple[int, ...], ...]:
    """Arm indices by level of the whole-plot factor, as a split-plot's request wants them.

    Parameters
    ----------
    level_of_arm : list of int
        Level of the whole-plot factor of each arm.
    combination_inside : list of tuple of int
        The other levels of each arm.

    Raises
    ------
    InvalidInput
        When some level lacks a combination that another has.
    """
    insides = sorted(set(combination_inside))
    place = {key: arm for arm, key in enumerate(zip(level_of_arm, combination_inside, strict=True))}
    levels = sorted(set(level_of_arm))
    if any((level, inside) not in place for level in levels for inside in insides):
        raise InvalidInput("arms", "a split-plot needs every combination; add the arms left out", len(level_of_arm))
    return tuple(tuple(place[level, inside] for inside in insides) for level in levels)
