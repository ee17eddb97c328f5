"""Which arms share a block when a block can't hold all: as evenly as can be found.

Every arm stands equally often, and pairs of arms share blocks as equally as an exchange search finds (John & Williams 1995,
*Cyclic and Computer Generated Designs*); the sum of squared concurrences is what it lowers. Labels, blocks and places are drawn
afterwards, so the search itself may be fixed.
"""

from __future__ import annotations

from functools import lru_cache
from itertools import combinations, product

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _

#: Searches from different starts; a single one where arms x blocks is large.
STARTS = 8
LARGE = 400
MOST_BLOCKS = 60


def check_incomplete(arms: int, block_size: int, blocks: int) -> int:
    """Units per arm; refuses what can't hold every arm equally often, or can't part the arms at all."""
    if not 2 <= block_size < arms:
        raise InvalidInput(
            "units per block",
            _("must be 2 to {arms} with {arms2} arms; else take complete blocks", arms=arms - 1, arms2=arms),
            block_size,
        )
    if not 2 <= blocks <= MOST_BLOCKS:
        raise InvalidInput("blocks", _("must be between 2 and {most_blocks}", most_blocks=MOST_BLOCKS), blocks)
    if blocks * block_size % arms:
        step = arms // np.gcd(arms, block_size)
        raise InvalidInput(
            "blocks", _("take a multiple of {step}, so that every arm stands equally often", step=step), blocks
        )
    return blocks * block_size // arms


@lru_cache(maxsize=64)
def blocks_of_arms(arms: int, block_size: int, blocks: int) -> tuple[tuple[int, ...], ...]:
    """Arms of each block, shape (blocks, block_size), the best of several exchange searches.

    Raises
    ------
    InvalidInput
        When the blocks can't be connected, so that some arms could never be compared.
    """
    check_incomplete(arms, block_size, blocks)
    rng = np.random.default_rng([arms, block_size, blocks])
    found = [
        _exchanged(_start(arms, block_size, blocks, rng), arms) for _ in range(STARTS if arms * blocks < LARGE else 1)
    ]
    best = min(found, key=lambda design: (not connected(design, arms), unevenness(design, arms)))
    if not connected(best, arms):
        raise InvalidInput("blocks", _("are too few to link all arms; take more blocks or larger ones"), blocks)
    return tuple(tuple(sorted(block)) for block in best.tolist())


def concurrences(design: np.ndarray, arms: int) -> np.ndarray:
    """How many blocks each pair of arms shares, shape (arms, arms)."""
    incidence = np.zeros((arms, design.shape[0]), dtype=int)
    np.add.at(incidence, (design, np.arange(design.shape[0])[:, None]), 1)
    return incidence @ incidence.T


def unevenness(design: np.ndarray, arms: int) -> int:
    """Sum of squared concurrences over pairs of arms."""
    return int((np.triu(concurrences(design, arms), 1) ** 2).sum())


def connected(design: np.ndarray, arms: int) -> bool:
    """Whether every arm can be compared with every other through shared blocks."""
    return int(np.linalg.matrix_rank(_laplacian(concurrences(design, arms)))) == arms - 1


def _laplacian(shared: np.ndarray) -> np.ndarray:
    off = shared - np.diag(np.diag(shared))
    found: np.ndarray = np.diag(off.sum(axis=1)) - off
    return found


def _start(arms: int, block_size: int, blocks: int, rng: np.random.Generator) -> np.ndarray:
    """Each arm in turn to the blocks that hold least, ties at random."""
    filled: list[list[int]] = [[] for _ in range(blocks)]
    for arm in rng.permutation(arms).tolist():
        order = sorted(range(blocks), key=lambda b: (len(filled[b]), rng.random()))
        for b in order[: blocks * block_size // arms]:
            filled[b].append(arm)
    return np.array(filled)


def _exchanged(design: np.ndarray, arms: int) -> np.ndarray:
    """Swap arms between blocks while that makes it more even."""
    sets, shared = [set(block) for block in design.tolist()], concurrences(design, arms).tolist()
    improved = True
    while improved:
        improved = False
        for a, b in combinations(range(len(sets)), 2):
            for x, y in product(sets[a] - sets[b], sets[b] - sets[a]):
                if x in sets[a] and y in sets[b] and _gain(shared, sets[a], sets[b], x, y) < 0:
                    _swap(shared, sets[a], sets[b], x, y)
                    improved = True
    return np.array([sorted(block) for block in sets])


def _gain(shared: list[list[int]], first: set[int], second: set[int], x: int, y: int) -> int:
    """Change of half the unevenness when x of the first block and y of the second change places."""
    leaving, joining = first - second - {x}, second - first - {y}
    return sum(shared[y][u] - shared[x][u] + 1 for u in leaving) + sum(shared[x][v] - shared[y][v] + 1 for v in joining)


def _swap(shared: list[list[int]], first: set[int], second: set[int], x: int, y: int) -> None:
    for others, out, into in ((first - second - {x}, x, y), (second - first - {y}, y, x)):
        for u in others:
            for arm, step in ((out, -1), (into, 1)):
                shared[arm][u] += step
                shared[u][arm] += step
    first ^= {x, y}
    second ^= {x, y}
