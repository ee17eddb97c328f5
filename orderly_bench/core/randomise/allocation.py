"""Which piece goes where: pieces are shared among the arms at random inside every donor and grade.

So that no arm gets the favourite's wood: of each kind of piece every arm gets its share, to within one, and which pieces they are, and in
which of an arm's places they stand, is drawn (stratified randomisation; Rosenberger & Lachin 2016, *Randomization in Clinical Trials*, ch. 7).
"""

from __future__ import annotations

import numpy as np

from orderly_bench.core.errors import InvalidInput


def allot(arm: np.ndarray, kind: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """The piece of every place.

    Parameters
    ----------
    arm : ndarray of int, shape (places,)
        Arm of each place.
    kind : ndarray of int, shape (pieces,)
        Donor and grade of each piece, as one number.

    Returns
    -------
    ndarray of int, shape (places,)
        Index of the piece. Pieces over are left out at random.

    Raises
    ------
    InvalidInput
        Fewer pieces than places.
    """
    if kind.size < arm.size:
        raise InvalidInput("pieces", f"must be at least the {arm.size} places to fill", kind.size)
    used = rng.permutation(kind.size)[: arm.size]
    needed = np.bincount(arm)
    left, dealt = needed.copy(), [list[int]() for _ in needed]
    kinds = rng.permutation(np.unique(kind[used]))
    for one in kinds:
        pieces = rng.permutation(used[kind[used] == one])
        for a, share in enumerate(_shares(left, pieces.size, rng)):
            dealt[a] += pieces[:share].tolist()
            pieces = pieces[share:]
        left = needed - np.array([len(d) for d in dealt])
    found = np.empty(arm.size, dtype=int)
    for a, pieces_of_arm in enumerate(dealt):
        found[arm == a] = rng.permutation(np.array(pieces_of_arm, dtype=int))
    return found


def allot_pairs(pairs: int, ready: int, rng: np.random.Generator) -> np.ndarray:
    """Which of the ``ready`` twos of pieces each pair of places gets, shape (pairs,); those over are left out at random.

    Raises
    ------
    InvalidInput
        Fewer twos than pairs.
    """
    if ready < pairs:
        raise InvalidInput("pieces", f"must make at least the {pairs} pairs", ready)
    return rng.permutation(ready)[:pairs]


def _shares(left: np.ndarray, pieces: int, rng: np.random.Generator) -> list[int]:
    """Whole shares of so many pieces in proportion to what each arm still needs; what is over goes by lot."""
    exact = left * pieces / left.sum()
    shares = np.floor(exact + 1e-9).astype(int)
    order = np.lexsort((rng.random(left.size), -(exact - shares)))
    for a in order[: pieces - int(shares.sum())]:
        shares[a] += 1
    return [int(share) for share in shares]
