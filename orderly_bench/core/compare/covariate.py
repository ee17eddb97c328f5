"""Arms that did not start alike: the comparison adjusted for start size, grade, or earlier roots.

The covariate and the blocks are taken out of the response by least squares, and what is left changes places as it was drawn (Freedman &
Lane 1983, J Bus Econ Stat 1:292). It stands beside the comparison as planned; where it changes the verdict, that is *suggested* at most.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from orderly_bench.core.compare.linear import dummies, fit_arms
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.randomise import permutation
from orderly_bench.core.randomise.randomisation import RandomisationTest
from orderly_bench.core.randomise.shuffled import ShuffledWithin


@dataclass(frozen=True)
class AdjustedForStart:
    """The difference of two arms as it would be with the same start, its test, and how far apart they started."""

    estimate: float
    test: RandomisationTest
    started_apart: float


def adjusted_for_start(
    values: np.ndarray, start: np.ndarray, layout: ShuffledWithin, rng: np.random.Generator, draws: int
) -> AdjustedForStart:
    """Two arms, the first minus the second.

    Parameters
    ----------
    values, start : ndarray of float, shape (units,)
        Means of the units, and of what they started with.
    layout : ShuffledWithin
        Of two labels.

    Raises
    ------
    InvalidInput
        A start that does not vary: there is nothing to adjust for.
    """
    if np.ptp(start) == 0:
        raise InvalidInput("start", "must vary between units to be adjusted for", float(start[0]))
    if int(layout.arm.max()) != 1:
        raise InvalidInput("arms", "must be two", int(layout.arm.max()) + 1)
    base = np.column_stack([np.ones(values.size), dummies(layout.stratum), start])
    left = values - base @ (np.linalg.pinv(base) @ values)
    scaled = (start - start.mean()) / np.abs(start - start.mean()).max()
    full = np.column_stack([np.ones(values.size), dummies(layout.stratum), scaled, layout.arm == 0])
    estimate = float((np.linalg.pinv(full) @ values)[-1])
    apart = fit_arms(start, layout.arm, [layout.stratum]).difference(0, 1)[0]
    return AdjustedForStart(estimate, permutation.test(left, layout, rng, draws), apart)
