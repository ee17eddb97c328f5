"""What a plan will compare, and the p of all of it in many simulated trials: the same draws behind it as in the analysis."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from orderly_bench.core.judgement.family import chosen_pairs
from orderly_bench.core.judgement.main_effects import level_pairs
from orderly_bench.core.layouts.draws import for_all_arms, for_factor, for_pair, needs_all_factors
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.methods import additive
from orderly_bench.core.methods.many import DRAWS, factors_redrawn, holm_many, pairs_redrawn, two_labels
from orderly_bench.core.observations.table import Observations, spoken_level
from orderly_bench.core.randomise.drawn_layout import DrawnLayout
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of


@dataclass(frozen=True)
class Compared:
    """One comparison of the family.

    Attributes
    ----------
    a, b : str
        The arms or levels, as said.
    first, second : tuple of int
        Arms of the observations on each side.
    rows : ndarray of int
        Rows of the observations that take part.
    things : ndarray of int, shape (rows,)
        What each row's value is averaged over: the unit, plot or wave that was drawn.
    layout : Layout or None
        Over those things; None where nothing drew the difference or one side has a single thing.
    designs : tuple of ndarray or None
        In a fraction of a factorial: main effects without the difference and with it, the arms drawn anew.
    """

    a: str
    b: str
    first: tuple[int, ...]
    second: tuple[int, ...]
    rows: np.ndarray
    things: np.ndarray
    layout: DrawnLayout | None
    designs: tuple[np.ndarray, np.ndarray] | None = None


@dataclass(frozen=True)
class Family:
    """The comparisons a plan is judged by, and whether they are factors' levels or pairs of arms."""

    observations: Observations
    compared: tuple[Compared, ...]
    by_factor: bool

    def p_values(
        self, values: np.ndarray, response: Response, rng: np.random.Generator, draws: int = DRAWS
    ) -> np.ndarray:
        """Adjusted p of every comparison; 1 where it has none.

        Parameters
        ----------
        values : ndarray of float, shape (trials, cuttings)

        Returns
        -------
        ndarray of float, shape (trials, comparisons)
        """
        if layout_of(self.observations).whole_redraw:
            return holm_many(self._redrawn(_scores(values, response, self.observations.stratum_of_known), rng, draws))
        raw = np.ones((values.shape[0], len(self.compared)))
        for i, one in enumerate(self.compared):
            if one.designs is not None and one.layout is not None:
                scored = _scores(values, response, self.observations.stratum_of_known)
                raw[:, i] = factors_redrawn(means(scored, one.things), one.layout, *one.designs, rng, draws)
            elif isinstance(one.layout, ShuffledWithin):
                scored = _scores(values[:, one.rows], response, one.layout.stratum[one.things])
                raw[:, i] = two_labels(means(scored, one.things), one.layout, rng, draws)
        tested = [i for i, one in enumerate(self.compared) if one.layout is not None]
        raw[:, tested] = holm_many(raw[:, tested])
        return raw

    def _redrawn(self, values: np.ndarray, rng: np.random.Generator, draws: int) -> np.ndarray:
        drawn = for_all_arms(self.observations)
        if drawn is None:
            return np.ones((values.shape[0], len(self.compared)))
        things = _things(drawn.members, values.shape[1])
        pairs = [(one.first[0], one.second[0]) for one in self.compared]
        return pairs_redrawn(means(values, things), drawn.layout, pairs, rng, draws)


def means(values: np.ndarray, things: np.ndarray) -> np.ndarray:
    """Mean over the cuttings of each thing, shape (trials, things)."""
    count = int(things.max()) + 1
    if count == things.size and (things == np.arange(count)).all():
        return values
    which = (things[:, None] == np.arange(count)).astype(float)
    return np.asarray(values @ (which / which.sum(axis=0)))


def _things(members: Sequence[list[int]], rows: int) -> np.ndarray:
    found = np.empty(rows, dtype=int)
    for number, inside in enumerate(members):
        found[inside] = number
    return found


def _scores(values: np.ndarray, response: Response, strata: np.ndarray) -> np.ndarray:
    """What is averaged: the values themselves; of grades their mid-ranks, inside strata with van Elteren's weights."""
    if not kind_of(response).graded:
        return values
    from scipy.stats import rankdata

    if not np.ptp(strata):
        return np.asarray(rankdata(values, axis=1))
    found = np.empty(values.shape)
    for stratum in np.unique(strata):
        here = strata == stratum
        found[:, here] = rankdata(values[:, here], axis=1) / (here.sum() + 1)
    return found


def family_of(o: Observations, by_factor: bool, control: tuple[str, ...] | None) -> Family:
    """The family a plan fixes: levels of each factor where that is the headline and they can be told apart, else pairs of arms.

    Parameters
    ----------
    control : tuple of str or None
        Levels of the control where each arm is compared with it alone.
    """
    levels = level_pairs(o) if by_factor and len(o.factors) > 1 else []
    if levels:
        return Family(o, tuple(_levels(o, *one) for one in levels), True)
    against = o.arms.index(control) if control in o.arms and control is not None else None
    return Family(o, tuple(_arms(o, a, b) for a, b in chosen_pairs(len(o.arms), against)), False)


def _arms(o: Observations, a: int, b: int) -> Compared:
    kept = np.concatenate([np.flatnonzero(np.isin(o.arm_of_known, [a, b]))])
    names = o.labels[a], o.labels[b]
    drawn = None if layout_of(o).whole_redraw else for_pair(o, a, b)
    if drawn is None:
        return Compared(*names, (a,), (b,), kept, np.zeros(kept.size, dtype=int), None)
    return Compared(*names, (a,), (b,), kept, _things(drawn.members, kept.size), drawn.layout)


def _levels(o: Observations, factor: int, a: int, b: int) -> Compared:
    index = o.level_index[:, factor]
    names = [spoken_level(o.factors[factor], o.level_names[factor][one]) for one in (a, b)]
    sides = [tuple(np.flatnonzero(index == one).tolist()) for one in (a, b)]
    every = np.arange(o.arm_of_known.size)
    if needs_all_factors(o, factor):
        return _with_all_factors(
            o,
            factor,
            a,
            b,
            Compared(names[0], names[1], sides[0], sides[1], every, np.zeros(every.size, dtype=int), None),
        )
    drawn = for_factor(o, factor)
    if drawn is None or not isinstance(drawn.layout, ShuffledWithin):
        return Compared(names[0], names[1], sides[0], sides[1], every, np.zeros(every.size, dtype=int), None)
    things, layout = _things(drawn.members, every.size), drawn.layout
    kept = np.isin(layout.arm, [a, b])
    renumbered = np.cumsum(kept) - 1
    rows = every[kept[things]]
    strata = np.unique(layout.stratum[kept], return_inverse=True)[1]
    two = ShuffledWithin((layout.arm[kept] == b).astype(int), strata)
    return Compared(names[0], names[1], sides[0], sides[1], rows, renumbered[things[rows]], two)


def _with_all_factors(o: Observations, factor: int, a: int, b: int, bare: Compared) -> Compared:
    """Two levels in a fraction of a factorial: every factor in the model, the arms drawn anew."""
    drawn = for_all_arms(o)
    if drawn is None:
        return bare
    designs = additive.alike(o.level_index, factor, a, b), additive.main_effects(o.level_index)
    return replace(bare, things=_things(drawn.members, bare.rows.size), layout=drawn.layout, designs=designs)
