"""Tops against roots: a lush top over a bare stem misleads the eye."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from orderly_bench.core.vocabulary import Top

LUSH = (Top.FRESH, Top.GROWING, Top.FLOWER)


@dataclass(frozen=True)
class TopsAgainstRoots:
    """Of the cuttings with a good-looking top, how many had no roots; and the reverse."""

    arm: str
    lush: int
    lush_without_roots: int
    poor: int
    poor_with_roots: int


def tops_against_roots(
    arms: Iterable[str], cuttings: Iterable[tuple[str, Top | None, bool | None]]
) -> list[TopsAgainstRoots]:
    """Count by arm, in the order given; cuttings without a top or a known outcome take no part, and there is nothing where all are such.

    Parameters
    ----------
    arms : iterable of str
    cuttings : iterable of (arm, top, rooted)
    """
    counts = {arm: [0, 0, 0, 0] for arm in arms}
    for arm, top, rooted in cuttings:
        row = counts[arm]
        if top is None or rooted is None:
            continue
        lush = top in LUSH
        row[0 if lush else 2] += 1
        row[1] += lush and not rooted
        row[3] += (not lush) and rooted
    return [TopsAgainstRoots(arm, *row) for arm, row in counts.items()] if any(map(any, counts.values())) else []
