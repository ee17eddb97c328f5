"""Randomisation tests by the layout's own redraw, whatever the layout.

Fisher (1935): the arms' effects are worked out again for every redrawn assignment. The statistic of the whole is the sum of
squares of the effects, that of a pair the difference of its two; effects are adjusted for the layout's blocks (in complete
layouts that changes nothing). Shuffles within strata have faster and exact ways: ``permutation.py``.
"""

from __future__ import annotations

from itertools import combinations

import numpy as np

from orderly_bench.core.randomise.hypergeometric import TIE
from orderly_bench.core.randomise.layout import Layout
from orderly_bench.core.randomise.randomisation import RandomisationTest, monte_carlo_p

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
    different, which = np.unique(np.round(information, 9).reshape(drawn.shape[0], -1), axis=0, return_inverse=True)
    inverses = np.linalg.pinv(different.reshape(-1, arms, arms), hermitian=True)
    found: np.ndarray = np.einsum("dij,dj->di", inverses[which.ravel()], totals)
    return found


def tests(values: np.ndarray, layout: Layout, rng: np.random.Generator, draws: int) -> tuple[RandomisationTest, Pairs]:
    """Overall and pairwise tests on one set of redraws.

    Parameters
    ----------
    values : ndarray of float, shape (units,)
        Mean response of each unit.
    layout : Layout
    """
    observed = arm_effects(values, layout.arm[None, :], layout.block)[0]
    chosen = list(combinations(range(observed.size), 2))
    every = layout.unlabelled()
    if every is not None:
        effects = _in_parts(values, every, layout.block)
        overall = _judged(float((observed**2).sum()), (effects**2).sum(axis=1), True)
        # The arms' names are drawn too: every pair of names is as likely to be this pair.
        apart = np.concatenate([np.abs(effects[:, a] - effects[:, b]) for a, b in chosen])
        return overall, {(a, b): _judged(abs(float(observed[a] - observed[b])), apart, True) for a, b in chosen}
    step = max(1, CHUNK // values.size)
    sizes = [min(step, draws - start) for start in range(0, draws, step)]
    effects = np.concatenate([arm_effects(values, layout.redraw(rng, size), layout.block) for size in sizes])
    pairs = {
        (a, b): _judged(abs(float(observed[a] - observed[b])), np.abs(effects[:, a] - effects[:, b]), False)
        for a, b in chosen
    }
    return _judged(float((observed**2).sum()), (effects**2).sum(axis=1), False), pairs


def _in_parts(values: np.ndarray, drawn: np.ndarray, block: np.ndarray) -> np.ndarray:
    step = max(1, CHUNK // values.size)
    return np.concatenate([arm_effects(values, drawn[i : i + step], block) for i in range(0, drawn.shape[0], step)])


def _judged(observed: float, drawn: np.ndarray, exact: bool) -> RandomisationTest:
    hits = int((drawn >= observed - TIE).sum())
    if exact:
        return RandomisationTest(hits / drawn.size, True, None, observed)
    return monte_carlo_p(hits, drawn.size, observed)
