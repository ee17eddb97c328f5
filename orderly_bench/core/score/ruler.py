"""Lengths clicked on a photo: a stretch of known length gives the scale, points along a root its length."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from math import hypot

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.words import tell

Point = tuple[float, float]
#: A scale of fewer pixels is too coarse to measure by.
LEAST_SCALE_PX = 20
MOST_POINTS = 200
LEAST_MM, MOST_MM = 0.1, 2_000.0


def along(points: Sequence[Point]) -> float:
    """Pixels along a line through points.

    >>> along([(0, 0), (3, 4), (3, 10)])
    11.0
    """
    return sum(hypot(b[0] - a[0], b[1] - a[1]) for a, b in pairwise(points))


def length_mm(points: Sequence[Point], scale: Sequence[Point], scale_mm: float) -> float:
    """Millimetres along a line, by a stretch of known length on the same photo; lens and slant are not corrected.

    Parameters
    ----------
    points : sequence of (x, y)
        Along the root, in pixels of the photo, two at least.
    scale : sequence of (x, y)
        The two ends of the known stretch.
    scale_mm : float

    Raises
    ------
    InvalidInput
        Too few points, a scale too short on the photo, a length that no root has.

    Examples
    --------
    >>> length_mm([(0, 0), (30, 40)], [(0, 0), (100, 0)], 20)
    10.0
    """
    if len(scale) != 2:
        raise InvalidInput(
            tell("scale"), tell("click both ends of something of known length, such as the ruler beside it")
        )
    if not LEAST_MM <= scale_mm <= MOST_MM:
        raise InvalidInput(
            tell("scale, mm"), tell("must be between {low:g} and {high:g}", low=LEAST_MM, high=MOST_MM), scale_mm
        )
    if along(scale) < LEAST_SCALE_PX:
        rule = tell("its ends lie too close on the photo; take a longer stretch")
        raise InvalidInput(tell("scale"), rule, tell("{n:.0f} pixels", n=along(scale)))
    if not 2 <= len(points) <= MOST_POINTS:
        raise InvalidInput(
            tell("points"),
            tell("click from the base of the root to its tip, 2 to {n} points", n=MOST_POINTS),
            len(points),
        )
    found = along(points) * scale_mm / along(scale)
    if not LEAST_MM <= found <= MOST_MM:
        raise InvalidInput(tell("length"), tell("no root is so long; look at the scale"), tell("{n:.1f} mm", n=found))
    return round(found, 1)


def inside(points: Sequence[Point], width: int, height: int) -> bool:
    """Whether all points lie on the photo."""
    return all(0 <= x <= width and 0 <= y <= height for x, y in points)
