"""The effect of two arms as an analysis works it out, and grades of pots."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.methods.difference import Difference
from orderly_bench.core.methods.superiority import Graded, stratified_superiority
from orderly_bench.core.observations.table import Observations
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.outcomes_of import outcomes_of


def effect_of(made: Observations, response: Response, a: int = 0, b: int = 1) -> Callable[[float], Difference]:
    return outcomes_of(made, response).effect(layout_of(made).frame(a, b), a, b)


def of_pots(a: Sequence[np.ndarray], b: Sequence[np.ndarray]) -> Graded:
    numbered = [np.repeat(np.arange(len(side)), [pot.size for pot in side]) for side in (a, b)]
    return Graded(np.concatenate(a), np.concatenate(b), numbered[0], numbered[1])


def superiority_of_pots(a: Sequence[np.ndarray], b: Sequence[np.ndarray]) -> Difference:
    return stratified_superiority([of_pots(a, b)])
