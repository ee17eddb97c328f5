"""The smallest p a layout can reach: if it is not below alpha, no outcome can convince."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

import numpy as np

from orderly_bench.core.design.power import smallest_adjusted_pair_p, smallest_overall_p, smallest_pair_p
from orderly_bench.core.messages.words import tell
from orderly_bench.core.methods import permutation, redrawn
from orderly_bench.core.methods.hypergeometric import two_sided_p
from orderly_bench.core.randomise.drawing import draw_layout
from orderly_bench.core.randomise.layout import Request
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.vocabulary import LayoutKind

DRAWS = 4_000


@dataclass(frozen=True)
class Reach:
    """Smallest p of all arms, of a pair, of a pair after Holm, and how it was worked out.

    In a split-plot ``overall`` is the whole-plot factor's and ``pair`` that of the combinations inside the plots.
    """

    overall: float
    pair: float
    adjusted: float
    working: str


@lru_cache(maxsize=128)
def reach_of(request: Request) -> Reach:
    """Smallest reachable p of a layout that can be drawn.

    Raises
    ------
    InvalidInput
        What the layout can't hold.
    """
    draw_layout(request, np.random.default_rng(0))
    arms, units = request.arms, request.units_per_arm
    if request.kind is LayoutKind.SPLIT_PLOT:
        return _split(request)
    if request.kind in (LayoutKind.LATIN_SQUARE, LayoutKind.INCOMPLETE_BLOCKS):
        return _redrawn(request)
    if request.unequal:
        return _unequal(request)
    blocks = units if request.kind is LayoutKind.PAIRS else request.blocks
    each = units // blocks
    root = f"2 / C({2 * each}, {each})"
    return Reach(
        smallest_overall_p(arms, units, blocks),
        smallest_pair_p(units, blocks),
        smallest_adjusted_pair_p(arms, units, blocks),
        tell("pair, all v none: {root}^{blocks}", root=root, blocks=blocks)
        if blocks > 1
        else tell("pair, all v none: {root}", root=root),
    )


def _unequal(request: Request) -> Reach:
    """Arms of different numbers: all or none rooted, over every pair and every split of the arms."""
    rng = np.random.default_rng(0)
    layout = draw_layout(request, rng)
    if not isinstance(layout, ShuffledWithin):
        raise TypeError("only shuffled layouts have arms of different numbers")
    overall = pair = 1.0
    for a, b in combinations(range(request.arms), 2):
        n = [request.units[a] // request.blocks, request.units[b] // request.blocks]
        for rooted in ([n[0], 0], [0, n[1]]):
            pair = min(pair, two_sided_p(np.tile(rooted, (request.blocks, 1)), np.tile(n, (request.blocks, 1))))
    for size in range(1, request.arms):
        for chosen in combinations(range(request.arms), size):
            tested = permutation.test(np.isin(layout.arm, chosen).astype(float), layout, rng, DRAWS)
            overall = min(overall, 1.0 if tested.p is None else tested.p)
    adjusted = min(1.0, pair * request.arms * (request.arms - 1) / 2)
    return Reach(
        overall, pair, adjusted, tell("all v none, units per arm {names}", names=", ".join(map(str, request.units)))
    )


def _split(request: Request) -> Reach:
    levels, plots = len(request.whole), request.blocks
    per_level = plots // levels
    inside = request.units_per_arm // per_level * plots
    subs = len(request.whole[0])
    pair = smallest_pair_p(inside, plots)
    return Reach(
        smallest_overall_p(levels, per_level),
        pair,
        min(1.0, pair * len(list(combinations(range(subs), 2)))),
        tell(
            "whole-plot factor: {per_level} whole plots a level are its replicates, however many stand in each",
            per_level=per_level,
        ),
    )


def _redrawn(request: Request) -> Reach:
    """All or none rooted by arm, over every split of the arms, judged by the layout's own redraw."""
    rng = np.random.default_rng(0)
    layout = draw_layout(request, rng)
    overall, pair = 1.0, 1.0
    for size in range(1, request.arms // 2 + 1):
        values = np.isin(layout.arm, np.arange(size)).astype(float)
        tested, pairs = redrawn.tests(values, layout, rng, DRAWS)
        overall = min(overall, tested.p or 1.0)
        pair = min(pair, *(p.p or 1.0 for p in pairs.values()))
    how = "every square" if layout.unlabelled() is not None else tell("{draws} redraws", draws=DRAWS)
    return Reach(
        overall,
        pair,
        min(1.0, pair * request.arms * (request.arms - 1) / 2),
        tell("all v none for every size of split, {how} of this layout (another draw may differ a little)", how=how),
    )
