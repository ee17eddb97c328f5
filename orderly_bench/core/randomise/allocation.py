"""Which piece goes where: pieces are shared among the arms at random inside every donor and grade, and spread over stem and place.

So that no arm gets the favourite's wood: of each kind of piece every arm gets its share, to within one, and which pieces they are, and in
which of an arm's places they stand, is drawn (stratified randomisation; Rosenberger & Lachin 2016, *Randomization in Clinical Trials*, ch. 7).
Within that share a piece goes to an arm that has least of its stem, then least of its place on it, then is due most, then by lot
(minimisation; the same, ch. 7).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _

#: What weighs when a piece is given: its stem, its place on it, what the arm is still due; a lot between equals.
STEM, PLACE, DUE = 1e9, 1e6, 1e3


@dataclass(frozen=True)
class Spread:
    """Stem and place on it of each piece, as whole numbers, each of shape (pieces,)."""

    stem: np.ndarray
    place: np.ndarray

    def differ(self, pieces: np.ndarray) -> bool:
        """Whether these pieces are of several stems or places."""
        return np.unique(self.stem[pieces]).size > 1 or np.unique(self.place[pieces]).size > 1


class Had:
    """How many of each stem, shape (stems, arms), and of each place on it, shape (places, arms), the arms have by now."""

    def __init__(self, spread: Spread, needed: np.ndarray) -> None:
        self.of = spread
        self.part = needed / needed.mean()
        self.stem = np.zeros((spread.stem.max() + 1, needed.size))
        self.place = np.zeros((spread.place.max() + 1, needed.size))


def allot(arm: np.ndarray, kind: np.ndarray, rng: np.random.Generator, spread: Spread | None = None) -> np.ndarray:
    """The piece of every place.

    Parameters
    ----------
    arm : ndarray of int, shape (places,)
        Arm of each place.
    kind : ndarray of int, shape (pieces,)
        Donor and grade of each piece, as one number.
    spread : Spread, optional
        Stem and place of each piece, spread over the arms as evenly as may be inside each kind.

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
        raise InvalidInput("pieces", _("must be at least the {size} places to fill", size=arm.size), kind.size)
    used = rng.permutation(kind.size)[: arm.size]
    needed = np.bincount(arm)
    left, dealt = needed.copy(), [list[int]() for _ in needed]
    had = Had(spread, needed) if spread else None
    kinds = rng.permutation(np.unique(kind[used]))
    for one in kinds:
        pieces = rng.permutation(used[kind[used] == one])
        shares = _shares(left, pieces.size, rng)
        for a, piece in _dealt(pieces, shares, had, rng):
            dealt[a].append(piece)
        left = needed - np.array([len(d) for d in dealt])
    found = np.empty(arm.size, dtype=int)
    for a, pieces_of_arm in enumerate(dealt):
        found[arm == a] = rng.permutation(np.array(pieces_of_arm, dtype=int))
    return found


def _dealt(
    pieces: np.ndarray, shares: list[int], had: Had | None, rng: np.random.Generator
) -> Iterator[tuple[int, int]]:
    """Arm and piece: shuffled pieces of one kind, so many to each arm."""
    if had is None or not had.of.differ(pieces):
        yield from zip(np.repeat(np.arange(len(shares)), shares).tolist(), pieces.tolist(), strict=True)
        return
    left = np.array(shares)
    for stem in rng.permutation(np.unique(had.of.stem[pieces])).tolist():
        of_stem = pieces[had.of.stem[pieces] == stem]
        for few in _one_of_each_place(of_stem, had.of.place):
            for a, piece in zip(_matched(few, left, had, rng), few.tolist(), strict=True):
                left[a] -= 1
                had.stem[stem, a] += 1
                had.place[had.of.place[piece], a] += 1
                yield a, piece


def _one_of_each_place(pieces: np.ndarray, place: np.ndarray) -> Iterator[np.ndarray]:
    """Pieces of one stem in turns: each turn has at most one of each place."""
    by_place = pieces[np.argsort(place[pieces], kind="stable")]
    _, first, many = np.unique(place[by_place], return_index=True, return_counts=True)
    turn = np.arange(by_place.size) - np.repeat(first, many)
    return (by_place[turn == one] for one in range(int(many.max())))


def _matched(few: np.ndarray, left: np.ndarray, had: Had, rng: np.random.Generator) -> list[int]:
    """The arm of each of a few pieces of one stem, no two of one place.

    An assignment problem (Kuhn 1955): a column for each further piece that an arm may get, dearer each time.
    """
    from scipy.optimize import linear_sum_assignment

    columns = [(a, j) for a in range(left.size) for j in range(min(int(left[a]), few.size))]
    arm, turn = np.array(columns).T
    of_stem = (had.stem[had.of.stem[few[0]], arm] + turn) / had.part[arm]
    of_place = had.place[had.of.place[few]][:, arm] / had.part[arm]
    due = (turn - left[arm]) / had.part[arm]
    cost = STEM * of_stem + PLACE * of_place + DUE * due + rng.random((few.size, arm.size))
    return [int(arm[column]) for column in linear_sum_assignment(cost)[1]]


def allot_pairs(pairs: int, ready: int, rng: np.random.Generator) -> np.ndarray:
    """Which of the ``ready`` twos of pieces each pair of places gets, shape (pairs,); those over are left out at random.

    Raises
    ------
    InvalidInput
        Fewer twos than pairs.
    """
    if ready < pairs:
        raise InvalidInput("pieces", _("must make at least the {pairs} pairs", pairs=pairs), ready)
    return rng.permutation(ready)[:pairs]


def _shares(left: np.ndarray, pieces: int, rng: np.random.Generator) -> list[int]:
    """Whole shares of so many pieces in proportion to what each arm still needs; what is over goes by lot."""
    exact = left * pieces / left.sum()
    shares = np.floor(exact + 1e-9).astype(int)
    order = np.lexsort((rng.random(left.size), -(exact - shares)))
    for a in order[: pieces - int(shares.sum())]:
        shares[a] += 1
    return [int(share) for share in shares]
