"""Terms of a factorial: which main effects and interactions there are, and their design columns.

Treatment coding; a term's test is type II: against the model of all terms that do not contain it.
"""

from __future__ import annotations

from itertools import combinations

import numpy as np

Term = tuple[int, ...]


def all_terms(factors: int) -> list[Term]:
    """Main effects first, then interactions by order; a term is a tuple of factor indices."""
    return [term for order in range(1, factors + 1) for term in combinations(range(factors), order)]


def _columns(levels: np.ndarray, term: Term) -> np.ndarray:
    """Indicator columns of one term, shape (arms, product of (levels - 1))."""
    columns = np.ones((levels.shape[0], 1))
    for factor in term:
        codes = levels[:, factor]
        indicators = (codes[:, None] == np.arange(1, codes.max() + 1)[None, :]).astype(float)
        columns = (columns[:, :, None] * indicators[:, None, :]).reshape(levels.shape[0], -1)
    return columns


def design(levels: np.ndarray, terms: list[Term], intercept: bool) -> np.ndarray:
    """Design matrix of the arms with redundant columns dropped.

    Parameters
    ----------
    levels : ndarray of int, shape (arms, factors)
        Level index of each arm in each factor.
    terms : list of tuple of int
    intercept : bool
        False for conditional fits.
    """
    blocks = [np.ones((levels.shape[0], 1))] + [_columns(levels, term) for term in terms]
    matrix = independent(np.hstack(blocks))
    return matrix if intercept else matrix[:, 1:]


def independent(matrix: np.ndarray) -> np.ndarray:
    """The columns that are no combination of those before them."""
    kept: list[int] = []
    for column in range(matrix.shape[1]):
        if np.linalg.matrix_rank(matrix[:, [*kept, column]]) > len(kept):
            kept.append(column)
    return matrix[:, kept]


def type_two(levels: np.ndarray, term: Term, intercept: bool) -> tuple[np.ndarray, np.ndarray]:
    """Smaller and larger design for the type II test of ``term``."""
    others = [t for t in all_terms(levels.shape[1]) if not set(term) <= set(t)]
    return design(levels, others, intercept), design(levels, [*others, term], intercept)
