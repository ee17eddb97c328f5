"""The smallest p a layout can reach: if it is not below alpha, no outcome can convince."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods import permutation, redrawn
from orderly_bench.core.methods.hypergeometric import two_sided_p
from orderly_bench.core.methods.smallest_p import smallest_adjusted_pair_p, smallest_overall_p, smallest_pair_p
from orderly_bench.core.randomise.drawn_layout import DrawnLayout, Request
from orderly_bench.core.randomise.shuffled import ShuffledWithin

DRAWS = 4_000
#: Pairs that are put all against none where a whole layout is redrawn.
PAIRS = 6


@dataclass(frozen=True)
class Reach:
    """Smallest p of all arms, of a pair, of a pair after Holm, and how it was worked out.

    In a split-plot ``overall`` is the whole-plot factor's and ``pair`` that of the combinations inside the plots.
    """

    overall: float
    pair: float
    adjusted: float
    working: str


def of_strata(request: Request, strata: int) -> Reach:
    """Arms of equal numbers over equal strata: all of one rooted, none of another."""
    arms, units = request.arms, request.units_per_arm
    each = units // strata
    root = f"2 / C({2 * each}, {each})"
    return Reach(
        smallest_overall_p(arms, units, strata),
        smallest_pair_p(units, strata),
        smallest_adjusted_pair_p(arms, units, strata),
        _("pair, all v none: {root}^{blocks}", root=root, blocks=strata)
        if strata > 1
        else _("pair, all v none: {root}", root=root),
    )


def of_unequal(request: Request, layout: ShuffledWithin, rng: np.random.Generator) -> Reach:
    """Arms of different numbers: all or none rooted, over every pair and every split of the arms."""
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
        overall, pair, adjusted, _("all v none, units per arm {names}", names=", ".join(map(str, request.units)))
    )


def of_whole_plots(request: Request) -> Reach:
    """The factor on whole plots, and the combinations inside them."""
    levels, plots = len(request.whole), request.blocks
    per_level = plots // levels
    inside = request.units_per_arm // per_level * plots
    subs = len(request.whole[0])
    pair = smallest_pair_p(inside, plots)
    return Reach(
        smallest_overall_p(levels, per_level),
        pair,
        min(1.0, pair * len(list(combinations(range(subs), 2)))),
        _(
            "whole-plot factor: {per_level} whole plots a level are its replicates, however many stand in each",
            per_level=per_level,
        ),
    )


def apart(arms: int, a: int, b: int) -> list[np.ndarray]:
    """What each arm has where one of a pair is all and the other none: the rest none, all, or between, where fewest redraws tie."""
    found = []
    for rest in (0.0, 0.5, 1.0):
        values = np.full(arms, rest)
        values[[a, b]] = 1.0, 0.0
        found.append(values)
    return found


def of_redraw(request: Request, layout: DrawnLayout, rng: np.random.Generator) -> Reach:
    """All or none rooted by arm over every split of the arms, each arm its own share, and pairs apart, by the layout's own redraw."""
    overall, pair = 1.0, 1.0
    every = layout.unlabelled()
    again = layout.redraw(rng, DRAWS) if every is None else None
    arms = request.arms
    seen = [(np.arange(arms) < size).astype(float) for size in range(1, arms // 2 + 1)]
    seen += [np.linspace(0, 1, arms) ** 1.3]
    seen += [values for a, b in list(combinations(range(arms), 2))[:PAIRS] for values in apart(arms, a, b)]
    for values in seen:
        tested, pairs = redrawn.tests(values[layout.arm], layout, rng, DRAWS, again)
        overall = min(overall, tested.p or 1.0)
        pair = min(pair, *(p.p or 1.0 for p in pairs.values()))
        if every is None and max(overall, pair) * (DRAWS + 1) < 1.5:
            break  # so many redraws tell of nothing smaller
    how = "every square" if every is not None else _("{draws} redraws", draws=DRAWS)
    return Reach(
        overall,
        pair,
        min(1.0, pair * request.arms * (request.arms - 1) / 2),
        _("all v none, the rest between, {how} of this layout (another draw may differ a little)", how=how),
    )
