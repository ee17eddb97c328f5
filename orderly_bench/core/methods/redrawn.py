"""Randomisation tests by the layout's own redraw, whatever the layout.

Fisher (1935): the arms' effects are worked out again for every redrawn assignment. The statistic of the whole is the sum of
squares of the effects, that of a pair the difference of its two; effects are adjusted for the layout's blocks (in complete
layouts that changes nothing). Shuffles within strata have faster and exact ways: ``permutation.py``.
"""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations

import numpy as np

from orderly_bench.core.methods.hypergeometric import TIE
from orderly_bench.core.methods.permutation import form
from orderly_bench.core.methods.randomisation import NOTHING_RANDOMISED, RandomisationTest, monte_carlo_p
from orderly_bench.core.randomise.drawn_layout import DrawnLayout
from orderly_bench.core.randomise.shuffled import ShuffledWithin

#: Cells of a table of draws x units worked on at once.
CHUNK = 2_000_000
Pairs = dict[tuple[int, int], RandomisationTest]


def arm_effects(values: np.ndarray, drawn: np.ndarray, block: np.ndarray) -> np.ndarray:
    """Arm effects adjusted for blocks, summing to 0: least squares of value on block and arm.

    Parameters
    ----------
    values : ndarray of float, shape (units,)
    drawn : ndarray of int, shape (draws, units)
        Arm of each unit under each assignment.
    block : ndarray of int, shape (units,)

    Returns
    -------
    ndarray of float, shape (draws, arms)
    """
    arms, blocks = int(drawn.max()) + 1, int(block.max()) + 1
    sizes = np.bincount(block)
    centred = values - (np.bincount(block, values) / sizes)[block]
    is_arm = (drawn[:, :, None] == np.arange(arms)).astype(float)
    incidence = is_arm.transpose(0, 2, 1) @ (block[:, None] == np.arange(blocks)).astype(float)
    totals = centred @ is_arm
    shared = (incidence / sizes) @ incidence.transpose(0, 2, 1)
    information = incidence.sum(axis=2)[:, :, None] * np.eye(arms) - shared
    # Rounded only to be told apart: inverted as they are, or equal assignments would part by more than a tie may.
    keys = np.round(information, 9).reshape(drawn.shape[0], -1) + 0.0  # no zero below zero, for bytes are compared
    whole = keys.view(np.dtype((np.void, keys.itemsize * keys.shape[1]))).ravel()
    _, first, which = np.unique(whole, return_index=True, return_inverse=True)
    inverses = np.linalg.pinv(information[first], hermitian=True)
    found: np.ndarray = np.einsum("dij,dj->di", inverses[which], totals)
    return found


def tests(
    values: np.ndarray, layout: DrawnLayout, rng: np.random.Generator, draws: int, among: np.ndarray | None = None
) -> tuple[RandomisationTest, Pairs]:
    """Overall and pairwise tests on one set of redraws.

    Parameters
    ----------
    values : ndarray of float, shape (units,)
        Mean response of each unit.
    layout : Layout
    among : ndarray of int, optional, shape (draws, units)
        Redraws made before, where several outcomes are held against the same ones.
    """
    observed = arm_effects(values, layout.arm[None, :], layout.block)[0]
    chosen = list(combinations(range(observed.size), 2))
    every = layout.unlabelled()
    if every is not None:
        effects = _in_parts(values, every, layout.block)
        overall = _judged(float((observed**2).sum()), (effects**2).sum(axis=1), True)
        # The arms' names are drawn too: every pair of names is as likely to be this pair.
        apart = np.concatenate([np.abs(effects[:, a] - effects[:, b]) for a, b in chosen])
        return overall, {(a, b): _judged_pair(observed, a, b, apart, True) for a, b in chosen}
    step = max(1, CHUNK // values.size)
    sizes = [min(step, draws - start) for start in range(0, draws, step)]
    if among is None:
        effects = np.concatenate([arm_effects(values, layout.redraw(rng, size), layout.block) for size in sizes])
    else:
        parts = np.split(among, np.cumsum(sizes)[:-1])
        effects = np.concatenate([arm_effects(values, labels, layout.block) for labels in parts])
    pairs = {(a, b): _judged_pair(observed, a, b, np.abs(effects[:, a] - effects[:, b]), False) for a, b in chosen}
    return _judged(float((observed**2).sum()), (effects**2).sum(axis=1), False), pairs


def summed(parts: list[tuple[np.ndarray, DrawnLayout]], rng: np.random.Generator, draws: int) -> RandomisationTest:
    """The parts' own statistics added, each part redrawn by itself: quadratic forms of shuffles, sums of squares of the effects else.

    Parameters
    ----------
    parts : list of (values, layout)
        Means of the units of each part, and how they were drawn.
    """
    if not parts:
        return NOTHING_RANDOMISED
    observed, drawn = 0.0, np.zeros(draws)
    for values, layout in parts:
        step = max(1, CHUNK // values.size)
        sizes = [min(step, draws - start) for start in range(0, draws, step)]
        observed += float(_statistic(values, layout.arm[None, :], layout)[0])
        drawn += np.concatenate([_statistic(values, layout.redraw(rng, size), layout) for size in sizes])
    return _judged(observed, drawn, False)


def _statistic(values: np.ndarray, labels: np.ndarray, layout: DrawnLayout) -> np.ndarray:
    if not isinstance(layout, ShuffledWithin):
        return np.asarray((arm_effects(values, labels, layout.block) ** 2).sum(axis=1))
    arms = int(layout.arm.max()) + 1
    _, expected, inverse = form(values, layout.arm, layout.stratum, arms)
    away = np.column_stack([(labels == arm) @ values for arm in range(arms)]) - expected
    return np.asarray(np.einsum("ij,jk,ik->i", away, inverse, away))


def _in_parts(values: np.ndarray, drawn: np.ndarray, block: np.ndarray) -> np.ndarray:
    step = max(1, CHUNK // values.size)
    return np.concatenate([arm_effects(values, drawn[i : i + step], block) for i in range(0, drawn.shape[0], step)])


def _judged_pair(observed: np.ndarray, a: int, b: int, drawn: np.ndarray, exact: bool) -> RandomisationTest:
    away = float(observed[a] - observed[b])
    return replace(_judged(abs(away), drawn, exact), direction=away)


def _judged(observed: float, drawn: np.ndarray, exact: bool) -> RandomisationTest:
    hits = int((drawn >= observed - TIE * max(1.0, observed)).sum())
    if exact:
        return RandomisationTest(hits / drawn.size, True, None, observed)
    return monte_carlo_p(hits, drawn.size, observed)
