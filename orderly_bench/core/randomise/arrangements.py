"""Every arrangement of a few labels, where there are few enough to count them all."""

from __future__ import annotations

from functools import lru_cache
from math import factorial, prod

import numpy as np

#: Layouts with at most this many assignments are enumerated.
MOST_ENUMERATED = 200_000


def ways(sizes: list[int]) -> int:
    """Arrangements of labels of which there are so many each: the multinomial coefficient."""
    return factorial(sum(sizes)) // prod(factorial(size) for size in sizes)


@lru_cache(maxsize=8)
def arrangements(labels: tuple[int, ...]) -> np.ndarray:
    """All different orders of some labels, shape (ways, places).

    >>> arrangements((0, 0, 1)).tolist()
    [[0, 0, 1], [0, 1, 0], [1, 0, 0]]
    """
    kinds, counts = np.unique(labels, return_counts=True)
    rows = np.zeros((1, 0), dtype=np.int16)
    left = counts[None, :]
    for _ in labels:
        nexts, rest = [], []
        for k in range(kinds.size):
            may = left[:, k] > 0
            nexts.append(np.column_stack([rows[may], np.full(int(may.sum()), kinds[k], dtype=np.int16)]))
            rest.append(left[may] - (np.arange(kinds.size) == k))
        rows, left = np.concatenate(nexts), np.concatenate(rest)
    found: np.ndarray = rows[np.lexsort(rows.T[::-1])]
    return found


def product_of(parts: list[np.ndarray]) -> list[np.ndarray]:
    """Every combination of one row of each part: as many arrays, all with the product of their lengths as rows."""
    total = prod(part.shape[0] for part in parts)
    made, after = [], total
    for part in parts:
        after //= part.shape[0]
        made.append(np.tile(np.repeat(part, after, axis=0), (total // (after * part.shape[0]), 1)))
    return made
