"""The model beside each randomisation test; none for what nothing drew."""

from __future__ import annotations

import numpy as np

from orderly_bench.core.compare import terms as factorial
from orderly_bench.core.compare.laid_out.layout import NO_MODEL
from orderly_bench.core.compare.logistic import ModelTest
from orderly_bench.core.compare.measured.measured import Measured, whole_design


def model_test(measured: Measured, smaller: np.ndarray, larger: np.ndarray) -> ModelTest:
    """The response's model of the columns that ``larger`` adds to ``smaller``.

    Parameters
    ----------
    smaller, larger : ndarray, shape (arms, columns)
        Designs of the arms with an intercept first.
    """
    if measured.o.not_drawn and whole_design(smaller, larger):
        return NO_MODEL
    return measured.model(smaller, larger)


def term_model(measured: Measured, term: factorial.Term) -> ModelTest:
    """Type II test of a main effect or interaction by the layout's model."""
    if set(term) & set(measured.o.not_drawn):
        return NO_MODEL
    return measured.o.layout.term_model(
        measured.kind.yes_no, term, lambda smaller, larger: model_test(measured, smaller, larger)
    )
