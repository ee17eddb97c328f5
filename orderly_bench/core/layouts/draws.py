"""The draw behind a question: of all arms, of two of them, of a factor. Nothing is permuted that was not laid out so."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.layouts.drawn import Drawn
from orderly_bench.core.layouts.frame import Frame
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.methods import terms
from orderly_bench.core.methods.additive import estimable, main_effects
from orderly_bench.core.methods.linear import dummies
from orderly_bench.core.observations.table import Observations
from orderly_bench.core.randomise.shuffled import ShuffledWithin


def for_all_arms(observations: Observations) -> Drawn | None:
    """The draw behind the overall test; None when no single draw gave all arms, or nothing was randomised."""
    if any(len(observations.level_names[f]) > 1 for f in layout_of(observations).not_drawn):
        return None
    return layout_of(observations).drawn()


def for_pair(observations: Observations, a: int, b: int) -> Drawn | None:
    """The draw behind two arms, on their own units only; None for an arm with a single shared unit, plot or wave."""
    return layout_of(observations.only([a, b])).drawn_between() if layout_of(observations).drawn_apart(a, b) else None


def for_factor(observations: Observations, factor: int) -> Drawn | None:
    """The draw behind a main effect; None for a factor that nothing drew."""
    return None if factor in layout_of(observations).not_drawn else layout_of(observations).drawn_of(factor)


def nothing_to_exchange(drawn: Drawn) -> bool:
    """Whether no stratum of the draw holds two labels."""
    layout = drawn.layout
    return isinstance(layout, ShuffledWithin) and bool((np.count_nonzero(layout.counts, axis=1) < 2).all())


def needs_all_factors(observations: Observations, factor: int) -> bool:
    """Whether a factor of several can only be tested with the other factors in the model: a fraction of a factorial, in blocks too."""
    if len(observations.factors) < 2 or not layout_of(observations).factors_in_strata:
        return False
    drawn = for_factor(observations, factor)
    return drawn is not None and nothing_to_exchange(drawn) and told_apart(observations, factor)


def interactions_in_blocks(observations: Observations) -> list[tuple[str, ...]]:
    """Interactions that go with the blocks: all combinations were stuck, but not in every block."""
    if not observations.blocks or len(observations.factors) < 2:
        return []
    index, units = observations.level_index, observations.units
    cells = np.unique(np.column_stack([units.stratum, units.arm]), axis=0)
    blocks = np.hstack([np.ones((len(cells), 1)), dummies(cells[:, 0])])
    found = []
    for term in terms.all_terms(index.shape[1]):
        if len(term) < 2:
            continue
        smaller, larger = terms.type_two(index, term, True)
        if larger.shape[1] == smaller.shape[1]:
            continue
        rank = [int(np.linalg.matrix_rank(np.hstack([blocks, design[cells[:, 1]]]))) for design in (smaller, larger)]
        if rank[1] - rank[0] < larger.shape[1] - smaller.shape[1]:
            found.append(tuple(observations.factors[f] for f in term))
    return found


def told_apart(observations: Observations, factor: int) -> bool:
    """Whether every difference between a factor's levels can be told from the other factors and the blocks, added up."""
    index = observations.level_index
    if not estimable(index, factor):
        return False
    if not observations.blocks or not layout_of(observations).factors_in_strata:
        return True
    units = observations.units
    cells = np.unique(np.column_stack([units.stratum, units.arm]), axis=0)
    beside = np.hstack([np.ones((len(cells), 1)), dummies(cells[:, 0]), main_effects(index, factor)[cells[:, 1]]])
    whole = np.hstack([beside, dummies(index[cells[:, 1], factor])])
    gained = np.linalg.matrix_rank(whole) - np.linalg.matrix_rank(beside)
    return bool(gained == np.unique(index[:, factor]).size - 1)


def frame_of_factor(observations: Observations, factor: int) -> Frame | None:
    """Where the levels of a factor stand: inside the strata of their draw, or with blocks and the other factors in the model."""
    index, units = observations.level_index, observations.units
    if needs_all_factors(observations, factor):
        others = [index[units.arm, other] for other in range(index.shape[1]) if other != factor]
        groupings = [units.stratum, *others] if observations.blocks else others
        return Frame(units.members, index[units.arm, factor], np.zeros_like(units.arm), groupings, modelled=True)
    drawn = for_factor(observations, factor)
    if drawn is None or not isinstance(drawn.layout, ShuffledWithin):
        return None
    return Frame(drawn.members, drawn.layout.arm, drawn.layout.stratum, [drawn.layout.stratum])
