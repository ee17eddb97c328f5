"""The model beside each randomisation test; none for what nothing drew."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.layouts import layout_of
from orderly_bench.core.layouts.layout import NO_MODEL
from orderly_bench.core.methods import terms as factorial
from orderly_bench.core.methods.logistic import ModelTest
from orderly_bench.core.responses.outcomes import Outcomes, whole_design


def model_test(outcomes: Outcomes, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
    """The response's model of the columns that ``larger`` adds to ``smaller``.

    Parameters
    ----------
    smaller, larger : ndarray, shape (arms, columns)
        Designs of the arms with an intercept first.
    """
    if layout_of(outcomes.o).not_drawn and whole_design(smaller, larger):
        return NO_MODEL
    return outcomes.model(smaller, larger)


def term_model(outcomes: Outcomes, term: factorial.Term) -> ModelTest:
    """Type II test of a main effect or interaction by the layout's model."""
    if set(term) & set(layout_of(outcomes.o).not_drawn):
        return NO_MODEL
    return layout_of(outcomes.o).term_model(
        outcomes.kind.yes_no, term, lambda smaller, larger: model_test(outcomes, smaller, larger)
    )
