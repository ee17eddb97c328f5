"""The randomisation test of many simulated trials at once, by the layout's own redraws.

Exact where single cuttings of two arms stand in one stratum, or the assignments are few; else each set of trials shares one set of
redraws, p = (1 + hits) / (1 + draws). A shared set leaves every p valid; with ``SHARING`` trials a set it adds
little to the Monte Carlo error of the share that is found.
"""

from __future__ import annotations

from functools import cache
from itertools import combinations

import numpy as np

from orderly_bench.core.methods.hypergeometric import TIE, two_sided_p
from orderly_bench.core.methods.two_arms import every_p
from orderly_bench.core.randomise.drawn_layout import DrawnLayout
from orderly_bench.core.randomise.shuffled import ShuffledWithin

#: Redraws of a test.
DRAWS = 999
#: Trials that share a set of redraws.
SHARING = 25
#: The same where every redraw is a fit.
SHARING_FACTORS = 200
#: Up to so many assignments are listed.
MOST_LISTED = 3_000
#: Single cuttings in strata are counted out up to so many cells of strata x trials.
MOST_COUNTED = 16_000
#: Cells of a table of trials x redraws worked on at once.
CHUNK = 4_000_000


def two_labels(
    values: np.ndarray,
    layout: ShuffledWithin,
    rng: np.random.Generator,
    draws: int = DRAWS,
    sharing: int = SHARING,
    counted: bool = True,
) -> np.ndarray:
    """p of every trial for labels 0 and 1, two-sided by |T - E T|; the test of ``randomise.permutation`` many times over.

    Parameters
    ----------
    values : ndarray of float, shape (trials, things)
    layout : ShuffledWithin
        Labels 0 and 1 as its arms.
    sharing : int
        Trials that share a set of redraws.
    counted : bool
        Single cuttings in strata are counted out where that is feasible.

    Returns
    -------
    ndarray of float, shape (trials,)
    """
    counts = layout.counts
    mixed = np.flatnonzero((counts > 0).all(axis=1))
    kept = np.isin(layout.stratum, mixed)
    values, labels, strata = values[:, kept], layout.arm[kept], np.searchsorted(mixed, layout.stratum[kept])
    counts = counts[mixed]
    if not mixed.size:
        return np.ones(values.shape[0])
    single = np.isin(values, (0.0, 1.0)).all()
    if single and mixed.size == 1:
        k_a, k_b = (values[:, labels == side].sum(axis=1).astype(int) for side in (0, 1))
        return np.asarray(every_p(int(counts[0, 0]), int(counts[0, 1]))[k_a, k_b])
    if counted and single and mixed.size * values.shape[0] <= MOST_COUNTED:
        return _counted(values, labels, strata, counts)
    expected = values @ (counts[:, 0] / counts.sum(axis=1))[strata]
    own = np.abs(values @ (labels == 0).astype(float) - expected)
    inside = ShuffledWithin(labels, strata)

    def hits(trials: np.ndarray, drawn: np.ndarray) -> np.ndarray:
        away = np.abs(values[trials] @ (drawn == 0).T.astype(float) - expected[trials, None])
        return np.asarray((away >= own[trials, None] - TIE).sum(axis=1))

    every = inside.every() if inside.assignments() <= MOST_LISTED else None
    if every is not None:
        return np.asarray(hits(np.arange(values.shape[0]), every) / every.shape[0])
    sets = _sets(values.shape[0], sharing)
    return np.concatenate([(1 + hits(part, inside.redraw(rng, draws))) / (1 + draws) for part in sets])


def _counted(values: np.ndarray, labels: np.ndarray, strata: np.ndarray, counts: np.ndarray) -> np.ndarray:
    """Single cuttings in strata, every outcome counted out; strata of one size change places, so equal trials share a test."""
    in_cell = [((strata == s) & (labels == side)).astype(float) for s in range(counts.shape[0]) for side in (0, 1)]
    rooted = (values @ np.column_stack(in_cell)).astype(int).reshape(values.shape[0], -1, 2)
    alike = (counts == counts[0]).all()

    @cache
    def p_of(cells: tuple[tuple[int, ...], ...]) -> float:
        return two_sided_p(np.array(cells), counts)

    found = []
    for trial in rooted.tolist():
        cells = [tuple(cell) for cell in trial]
        found.append(p_of(tuple(sorted(cells)) if alike else tuple(cells)))
    return np.array(found)


def pairs_redrawn(
    values: np.ndarray, layout: DrawnLayout, pairs: list[tuple[int, int]], rng: np.random.Generator, draws: int = DRAWS
) -> np.ndarray:
    """p of every trial and pair of arms where the whole layout is redrawn; as ``randomise.redrawn``, many times over.

    Parameters
    ----------
    values : ndarray of float, shape (trials, things)
    layout : Layout
    pairs : list of (int, int)

    Returns
    -------
    ndarray of float, shape (trials, pairs)
    """
    own = values @ effect_weights(layout.arm[None, :], layout.block)[0].T
    seen = np.abs(np.column_stack([own[:, a] - own[:, b] for a, b in pairs])) - TIE
    every = layout.unlabelled()
    found = np.empty((values.shape[0], len(pairs)))
    if every is not None and every.shape[0] <= MOST_LISTED:
        weights = effect_weights(every, layout.block)
        # The arms' names are drawn too: every pair of names is as likely to be this pair.
        apart = np.concatenate([weights[:, a] - weights[:, b] for a, b in combinations(range(weights.shape[1]), 2)])
        step = max(1, CHUNK // apart.shape[0])
        for start in range(0, values.shape[0], step):
            drawn = np.abs(values[start : start + step] @ apart.T)
            for i in range(len(pairs)):
                found[start : start + step, i] = (drawn >= seen[start : start + step, i, None]).mean(axis=1)
        return found
    for part in _sets(values.shape[0]):
        weights = effect_weights(layout.redraw(rng, draws), layout.block)
        for i, (a, b) in enumerate(pairs):
            drawn = np.abs(values[part] @ (weights[:, a] - weights[:, b]).T)
            found[part, i] = (1 + (drawn >= seen[part, i, None]).sum(axis=1)) / (1 + draws)
    return found


def factors_redrawn(
    values: np.ndarray,
    layout: DrawnLayout,
    smaller: np.ndarray,
    larger: np.ndarray,
    rng: np.random.Generator,
    draws: int = DRAWS,
) -> np.ndarray:
    """p of every trial for what ``larger`` adds to ``smaller`` with the arms drawn anew; as ``compare.additive``, many times over.

    Parameters
    ----------
    values : ndarray of float, shape (trials, things)
    layout : Layout
    smaller, larger : ndarray, shape (arms, columns)
        Main effects without an intercept.

    Returns
    -------
    ndarray of float, shape (trials,)
    """
    in_block = (layout.block[:, None] == np.unique(layout.block)).astype(float)
    centred = values - (values @ (in_block / in_block.sum(axis=0))) @ in_block.T
    square = (centred**2).sum(axis=1)

    def taken_up(trials: np.ndarray, drawn: np.ndarray) -> np.ndarray:
        """Share of what is left that the factor takes up, shape (trials, draws)."""
        explained = [_explained(centred[trials], columns[drawn], in_block) for columns in (smaller, larger)]
        left = square[trials, None] - explained[0]
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.asarray(np.where(left > TIE, (explained[1] - explained[0]) / left, 0.0))

    every = layout.every() if layout.assignments() <= MOST_LISTED else None
    found = np.empty(values.shape[0])
    for part in _sets(values.shape[0], SHARING_FACTORS):
        own = taken_up(part, layout.arm[None, :]) - TIE
        if every is not None:
            found[part] = (taken_up(part, every) >= own).mean(axis=1)
        else:
            found[part] = (1 + (taken_up(part, layout.redraw(rng, draws)) >= own).sum(axis=1)) / (1 + draws)
    return found


def _explained(centred: np.ndarray, columns: np.ndarray, in_block: np.ndarray) -> np.ndarray:
    """Sum of squares on the columns of each draw inside the blocks, shape (trials, draws); columns are (draws, things, columns)."""
    inside = columns - in_block @ ((in_block / in_block.sum(axis=0)).T @ columns)
    values, vectors = np.linalg.eigh(inside.transpose(0, 2, 1) @ inside)
    kept = values > TIE * np.maximum(1.0, values[:, -1:])
    scale = np.where(kept, 1 / np.sqrt(np.where(kept, values, 1.0)), 0.0)
    basis = inside @ (vectors * scale[:, None, :])
    toward = centred @ basis.transpose(1, 0, 2).reshape(centred.shape[1], -1)
    return np.asarray((toward**2).reshape(centred.shape[0], columns.shape[0], -1).sum(axis=2))


def _sets(trials: int, sharing: int = SHARING) -> list[np.ndarray]:
    return np.array_split(np.arange(trials), max(1, -(-trials // sharing)))


def effect_weights(drawn: np.ndarray, block: np.ndarray) -> np.ndarray:
    """What each thing's value weighs in each arm's effect adjusted for blocks, shape (draws, arms, things).

    Least squares of value on block and arm, effects summing to 0: linear in the values, so one table serves all trials.
    """
    arms, blocks = int(drawn.max()) + 1, int(block.max()) + 1
    sizes = np.bincount(block)
    is_arm = (drawn[:, None, :] == np.arange(arms)[None, :, None]).astype(float)
    in_block = (block[:, None] == np.arange(blocks)).astype(float)
    incidence = is_arm @ in_block
    shared = (incidence / sizes) @ incidence.transpose(0, 2, 1)
    information = incidence.sum(axis=2)[:, :, None] * np.eye(arms) - shared
    # Rounded only to be told apart: inverted as they are, or equal assignments would part by more than a tie may.
    keys = np.round(information, 9).reshape(drawn.shape[0], -1)
    _, first, which = np.unique(keys, axis=0, return_index=True, return_inverse=True)
    inverses = np.linalg.pinv(information[first], hermitian=True)
    centred = is_arm - (incidence / sizes) @ in_block.T
    return np.asarray(inverses[which.ravel()] @ centred)


def holm_many(p: np.ndarray) -> np.ndarray:
    """Holm's adjustment in every row, shape (trials, family); as ``compare.holm``."""
    order = np.argsort(p, axis=1, kind="stable")
    sorted_p = np.take_along_axis(p, order, axis=1)
    stepped = np.minimum(1.0, np.maximum.accumulate(sorted_p * np.arange(p.shape[1], 0, -1), axis=1))
    found = np.empty_like(p)
    np.put_along_axis(found, order, stepped, axis=1)
    return found
