"""A factor tested with all factors in, where holding the others still leaves nothing to exchange.

In half of a factorial each combination of the other factors goes with one level only. Then the layout's arms are drawn anew and
the factor's partial F in lm(unit mean ~ block + all factors) is worked out each time (Fisher 1935, *The Design of Experiments*;
Box, Hunter & Hunter 2005, *Statistics for Experimenters*, ch. 6, on fractions). It speaks as if no two factors worked together.
"""

from __future__ import annotations

import numpy as np

from orderly_bench.core.methods import terms
from orderly_bench.core.methods.hypergeometric import TIE
from orderly_bench.core.methods.linear import dummies
from orderly_bench.core.methods.randomisation import RandomisationTest, monte_carlo_p
from orderly_bench.core.randomise.drawn_layout import DrawnLayout

#: Cells of a table of draws x units x columns worked on at once.
CHUNK = 4_000_000


def main_effects(levels: np.ndarray, without: int | None = None) -> np.ndarray:
    """Columns of the main effects of the arms, all or all but one factor's; shape (arms, columns), no intercept."""
    kept: list[terms.Term] = [(f,) for f in range(levels.shape[1]) if f != without]
    return terms.design(levels, kept, intercept=False)


def estimable(levels: np.ndarray, factor: int) -> bool:
    """Whether every difference between the factor's levels can be told from the other factors', added up."""
    gained = main_effects(levels).shape[1] - main_effects(levels, factor).shape[1]
    return bool(gained == np.unique(levels[:, factor]).size - 1)


def alike(levels: np.ndarray, factor: int, a: int, b: int) -> np.ndarray:
    """The main effects were levels a and b of the factor one."""
    merged = levels.copy()
    merged[merged[:, factor] == b, factor] = a
    merged[:, factor] = np.unique(merged[:, factor], return_inverse=True)[1]
    return main_effects(merged)


def test(
    values: np.ndarray,
    layout: DrawnLayout,
    smaller: np.ndarray,
    larger: np.ndarray,
    rng: np.random.Generator,
    draws: int,
) -> RandomisationTest:
    """Randomisation test of what ``larger`` adds to ``smaller`` by its partial F, the arms drawn anew by the layout.

    Parameters
    ----------
    values : ndarray of float, shape (units,)
    layout : Layout
        Over those units.
    smaller, larger : ndarray, shape (arms, columns)
        Main effects without an intercept.

    Notes
    -----
    The statistic is 1 - RSS(larger) / RSS(smaller), which orders assignments as F does and stays finite.
    """
    base = np.hstack([np.ones((values.size, 1)), dummies(layout.block)])
    outside, _ = np.linalg.qr(base)
    observed = float(_partial(values, layout.arm[None, :], outside, smaller, larger)[0])
    every = layout.every()
    step = max(1, CHUNK // (values.size * larger.shape[1]))
    if every is not None:
        found = np.concatenate([_partial(values, part, outside, smaller, larger) for part in _parts(every, step)])
        return RandomisationTest(float((found >= observed - TIE).mean()), True, None, observed)
    sizes = [min(step, draws - start) for start in range(0, draws, step)]
    hits = sum(
        int((_partial(values, layout.redraw(rng, size), outside, smaller, larger) >= observed - TIE).sum())
        for size in sizes
    )
    return monte_carlo_p(hits, draws, observed)


def _parts(every: np.ndarray, step: int) -> list[np.ndarray]:
    return [every[start : start + step] for start in range(0, every.shape[0], step)]


def _partial(
    values: np.ndarray, drawn: np.ndarray, outside: np.ndarray, smaller: np.ndarray, larger: np.ndarray
) -> np.ndarray:
    """Share of the variation left by blocks and the other factors that the factor takes up, shape (draws,)."""
    centred = values - outside @ (outside.T @ values)
    left = [_residual(centred, columns[drawn], outside) for columns in (smaller, larger)]
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(left[0] > TIE, 1 - left[1] / left[0], 0.0)


def _residual(centred: np.ndarray, columns: np.ndarray, outside: np.ndarray) -> np.ndarray:
    """Residual sum of squares on the columns of each draw, shape (draws,); columns are (draws, units, columns)."""
    inside = columns - outside @ (outside.T @ columns)
    crossed = inside.transpose(0, 2, 1) @ inside
    toward = np.einsum("duc,u->dc", inside, centred)
    found: np.ndarray = centred @ centred - np.einsum(
        "dc,dce,de->d", toward, np.linalg.pinv(crossed, hermitian=True), toward
    )
    return found
