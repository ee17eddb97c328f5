"""Latin squares: every square of the order equally likely.

Every square is a reduced one (first row and column in order) with columns and the rows but the first permuted, so a
uniform reduced square with uniform permutations is a uniform square (Fisher & Yates 1934, Proc Camb Phil Soc 30:492).
Up to order 5 the reduced squares are listed; beyond, Jacobson & Matthews (1996, J Comb Des 4:405) walk.
"""

from __future__ import annotations

from functools import lru_cache
from itertools import permutations

import numpy as np

from orderly_bench.core.errors import InvalidInput

LISTED_ORDER = 5
MOST_ORDER = 12


@lru_cache(maxsize=8)
def reduced_squares(order: int) -> tuple[tuple[tuple[int, ...], ...], ...]:
    """All squares with first row and column 0, 1, 2, ... (1, 1, 4 and 56 of orders 2 to 5)."""
    found: list[tuple[tuple[int, ...], ...]] = []

    def extend(rows: list[tuple[int, ...]]) -> None:
        if len(rows) == order:
            found.append(tuple(rows))
            return
        for row in permutations(range(order)):
            if row[0] == len(rows) and all(row[c] != earlier[c] for earlier in rows for c in range(order)):
                extend([*rows, row])

    extend([tuple(range(order))])
    return tuple(found)


def all_squares(order: int) -> np.ndarray:
    """Every square, shape (squares, order, order); for orders up to 4 (576)."""
    squares = []
    for reduced in reduced_squares(order):
        base = np.array(reduced)
        for columns in permutations(range(order)):
            for tail in permutations(range(1, order)):
                squares.append(base[np.array((0, *tail))][:, np.array(columns)])
    return np.array(squares)


def draw_square(order: int, rng: np.random.Generator) -> np.ndarray:
    """A uniform random Latin square of symbols 0 .. order - 1."""
    if not 2 <= order <= MOST_ORDER:
        raise InvalidInput("order of the square", f"must be between 2 and {MOST_ORDER}", order)
    if order <= LISTED_ORDER:
        choices = reduced_squares(order)
        base = np.array(choices[int(rng.integers(len(choices)))])
        rows = np.concatenate([[0], 1 + rng.permutation(order - 1)])
        return base[rows][:, rng.permutation(order)]
    return _walk(order, rng)


def _walk(order: int, rng: np.random.Generator) -> np.ndarray:
    """Jacobson-Matthews moves on the incidence cube, ending in a proper square."""
    cyclic = (np.arange(order)[:, None] + np.arange(order)[None, :]) % order
    cube = np.zeros((order, order, order), dtype=int)
    cube[np.arange(order)[:, None], np.arange(order)[None, :], cyclic] = 1
    improper: tuple[int, int, int] | None = None
    moves = 0
    while moves < order**3 or improper is not None:
        if improper is None:
            r, c, s = (int(i) for i in rng.integers(order, size=3))
            if cube[r, c, s]:
                continue
        else:
            r, c, s = improper
        r2 = int(rng.choice(np.flatnonzero(cube[:, c, s] == 1)))
        c2 = int(rng.choice(np.flatnonzero(cube[r, :, s] == 1)))
        s2 = int(rng.choice(np.flatnonzero(cube[r, c, :] == 1)))
        for at, change in (((r, c, s), 1), ((r, c2, s2), 1), ((r2, c, s2), 1), ((r2, c2, s), 1), ((r2, c, s), -1), ((r, c2, s), -1), ((r, c, s2), -1), ((r2, c2, s2), -1)):  # fmt: skip
            cube[at] += change
        improper = (r2, c2, s2) if cube[r2, c2, s2] == -1 else None
        moves += 1
    return np.argmax(cube, axis=2)
