"""Latin squares: every square of the order equally likely.

Every square is a reduced one (first row and column in order) with columns and the rows but the first permuted, so a
uniform reduced square with uniform permutations is a uniform square (Fisher & Yates 1934, Proc Camb Phil Soc 30:492).
Up to order 5 the reduced squares are listed; beyond, the moves of Jacobson & Matthews (1996, J Comb Des 4:405) walk through
proper and improper squares, and rows, columns and symbols of each square visited are permuted.
"""

from __future__ import annotations

from functools import lru_cache
from itertools import permutations
from math import factorial

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _

LISTED_ORDER = 5
#: Up to this order all squares are listed: 161,280 of order 5.
MOST_LISTED = 5
MOST_ORDER = 12
#: Reduced squares of orders 1 to 11 (McKay & Wanless 2005, Ann Comb 9:335).
REDUCED = (1, 1, 1, 4, 56, 9408, 16942080, 535281401856, 377597570964258816, 7580721483160132811489280,
           5363937773277371298119673540771840)  # fmt: skip


def check_order(order: int) -> int:
    """Refuse squares too small to compare or too large to lay out."""
    if not 2 <= order <= MOST_ORDER:
        raise InvalidInput("order of the square", _("must be between 2 and {most_order}", most_order=MOST_ORDER), order)
    return order


def count_squares(order: int) -> int:
    """Latin squares of an order: n! (n - 1)! times the reduced ones; for order 12 a lower bound, those of order 11."""
    return factorial(order) * factorial(order - 1) * REDUCED[min(order, len(REDUCED)) - 1]


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


@lru_cache(maxsize=4)
def all_squares(order: int) -> np.ndarray:
    """Every square, shape (squares, order, order) of small whole numbers; for orders up to 5."""
    bases = np.array(reduced_squares(order), dtype=np.int8)
    columns = np.array(list(permutations(range(order))))
    tails = np.array([(0, *tail) for tail in permutations(range(1, order))])
    mixed = bases[:, tails][..., columns]  # bases, tails, rows, columns' orders, columns
    found: np.ndarray = np.moveaxis(mixed, 3, 2).reshape(-1, order, order)
    return found


@lru_cache(maxsize=4)
def squares_in_order(order: int) -> np.ndarray:
    """Every square whose first row is 0, 1, 2, ..., shape (squares, order, order): 24 of order 4, 1,344 of order 5."""
    bases = np.array(reduced_squares(order), dtype=np.int8)
    tails = np.array([(0, *tail) for tail in permutations(range(1, order))])
    return bases[:, tails].reshape(-1, order, order)


def draw_squares(order: int, rng: np.random.Generator, draws: int) -> np.ndarray:
    """Uniform random Latin squares of symbols 0 .. order - 1, shape (draws, order, order)."""
    check_order(order)
    if order <= LISTED_ORDER:
        listed = np.array(reduced_squares(order))
        bases = listed[rng.integers(len(listed), size=draws)]
    else:
        bases = _walk(order, rng, draws)
    rows, columns, symbols = (np.argsort(rng.random((draws, order)), axis=1) for _ in range(3))
    each = np.arange(draws)[:, None, None]
    found: np.ndarray = symbols[each, bases[each, rows[:, :, None], columns[:, None, :]]]
    return found


def draw_square(order: int, rng: np.random.Generator) -> np.ndarray:
    """One uniform random Latin square, shape (order, order)."""
    found: np.ndarray = draw_squares(order, rng, 1)[0]
    return found


class _Walker:
    """A proper or improper square as three tables of lists: symbols of a cell, columns and rows of a symbol.

    An improper square has one cell with three symbols, one of them counted -1; that one is left out of the lists.
    """

    def __init__(self, order: int) -> None:
        size = range(order)
        self.order = order
        self.symbols = [[[(r + c) % order] for c in size] for r in size]
        self.columns = [[[(s - r) % order] for s in size] for r in size]
        self.rows = [[[(s - c) % order] for s in size] for c in size]
        self.negative: tuple[int, int, int] | None = None

    def move(self, pick: list[int], coins: list[int]) -> None:
        """One move: of a proper square at row, column and steps to another symbol; of an improper one by ``coins``."""
        r, c, s = self.negative or (pick[0], pick[1], (self.symbols[pick[0]][pick[1]][0] + 1 + pick[2]) % self.order)
        symbols, columns, rows = self.symbols[r][c], self.columns[r][s], self.rows[c][s]
        r2, c2, s2 = rows[coins[0] % len(rows)], columns[coins[1] % len(columns)], symbols[coins[2] % len(symbols)]
        if self.negative is None:
            self._add(r, c, s)
        self._add(r, c2, s2)
        self._add(r2, c, s2)
        self._add(r2, c2, s)
        for cell in ((r2, c, s), (r, c2, s), (r, c, s2)):
            self._take(*cell)
        proper = s2 in self.symbols[r2][c2]
        if proper:
            self._take(r2, c2, s2)
        self.negative = None if proper else (r2, c2, s2)

    def _add(self, r: int, c: int, s: int) -> None:
        self.symbols[r][c].append(s)
        self.columns[r][s].append(c)
        self.rows[c][s].append(r)

    def _take(self, r: int, c: int, s: int) -> None:
        self.symbols[r][c].remove(s)
        self.columns[r][s].remove(c)
        self.rows[c][s].remove(r)

    def square(self) -> list[list[int]]:
        """The proper square the walk stands on."""
        return [[cell[0] for cell in row] for row in self.symbols]


def _walk(order: int, rng: np.random.Generator, draws: int) -> np.ndarray:
    """Squares visited by one long walk: order^3 visits to forget the start, then every one.

    Neighbours are alike only up to the permutation of rows, columns and symbols that follows. Only visits to proper squares
    count. Taking the first proper square after a fixed number of moves would favour those
    that long walks through improper ones end in.
    """
    walker = _Walker(order)
    found: list[list[list[int]]] = []
    batch = min(1 << 14, 8 * (order**3 + draws))
    wanted, visits = order**3, 0
    while len(found) < draws:
        picks = rng.integers([order, order, order - 1], size=(batch, 3)).tolist()
        coins = rng.integers(2, size=(batch, 3)).tolist()
        for pick, coin in zip(picks, coins, strict=True):
            walker.move(pick, coin)
            visits += walker.negative is None
            if visits >= wanted and walker.negative is None:
                found.append(walker.square())
                wanted, visits = 1, 0
                if len(found) == draws:
                    break
    return np.array(found)
