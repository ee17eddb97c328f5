"""The model beside each randomisation test; none for what nothing drew, nor where an arm or a level is one replicate."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.layouts.layout import NO_MODEL
from orderly_bench.core.methods import terms as factorial
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.observations.table import Observations
from orderly_bench.core.responses.outcomes import Outcomes, whole_design


def model_test(outcomes: Outcomes, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
    """The response's model of the columns that ``larger`` adds to ``smaller``.

    Parameters
    ----------
    smaller, larger : ndarray, shape (arms, columns)
        Designs of the arms with an intercept first.
    """
    if whole_design(smaller, larger) and (layout_of(outcomes.o).not_drawn or _lone(outcomes.o, outcomes.o.units.arm)):
        return NO_MODEL
    return outcomes.model(smaller, larger)


def term_model(outcomes: Outcomes, term: factorial.Term) -> ModelTest:
    """Type II test of a main effect or interaction by the layout's model."""
    levels = outcomes.o.level_index[outcomes.o.units.arm]
    if set(term) & set(layout_of(outcomes.o).not_drawn) or any(_lone(outcomes.o, levels[:, f]) for f in term):
        return NO_MODEL
    return layout_of(outcomes.o).term_model(
        outcomes.kind.yes_no, term, lambda smaller, larger: model_test(outcomes, smaller, larger)
    )


def _lone(o: Observations, sides: np.ndarray) -> bool:
    """Whether one of the sides of the units is a single replicate, of which no model knows how far another would lie."""
    return layout_of(o).one_needs_two and bool((np.bincount(sides) == 1).any())
