"""Lengths clicked on a photo: a stretch of known length gives the scale, points along a root its length."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise
from math import hypot

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _

Point = tuple[float, float]
#: A scale of fewer pixels is too coarse to measure by.
LEAST_SCALE_PX = 20
MOST_POINTS = 200
#: Width of the widest photo where several stand at one scale.
SHOWN_PX = 300
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
        raise InvalidInput(_("scale"), _("click both ends of something of known length, such as the ruler beside it"))
    if not LEAST_MM <= scale_mm <= MOST_MM:
        raise InvalidInput(
            _("scale, mm"), _("must be between {low:g} and {high:g}", low=LEAST_MM, high=MOST_MM), scale_mm
        )
    if along(scale) < LEAST_SCALE_PX:
        rule = _("its ends lie too close on the photo; take a longer stretch")
        raise InvalidInput(_("scale"), rule, _("{n:.0f} pixels", n=along(scale)))
    if not 2 <= len(points) <= MOST_POINTS:
        raise InvalidInput(
            _("points"),
            _("click from the base of the root to its tip, 2 to {n} points", n=MOST_POINTS),
            len(points),
        )
    found = along(points) * scale_mm / along(scale)
    if not LEAST_MM <= found <= MOST_MM:
        raise InvalidInput(_("length"), _("no root is so long; look at the scale"), _("{n:.1f} mm", n=found))
    return round(found, 1)


def pixels_per_mm(scale: Sequence[Sequence[float]], scale_mm: float) -> float:
    """Pixels of a photo to the millimetre, by a stretch of known length on it.

    >>> pixels_per_mm([(0, 0), (100, 0)], 20)
    5.0
    """
    (x, y), (to_x, to_y) = scale
    return along([(x, y), (to_x, to_y)]) / scale_mm


def at_scale(photos: Mapping[int, tuple[int, float | None]]) -> dict[int, int]:
    """Widths to show photos at so that a millimetre is as long on each; the widest, and those without a scale, in full.

    Parameters
    ----------
    photos : mapping of id to (width, scale)
        Width in pixels, and pixels per mm; None where it is not known.

    Examples
    --------
    >>> at_scale({1: (1000, 10.0), 2: (1000, 20.0), 3: (800, None)})
    {1: 300, 2: 150, 3: 300}
    """
    widest = max((width / scale for width, scale in photos.values() if scale), default=1.0)
    return {
        id: SHOWN_PX if not scale else max(1, round(SHOWN_PX * (width / scale) / widest))
        for id, (width, scale) in photos.items()
    }


def inside(points: Sequence[Point], width: int, height: int) -> bool:
    """Whether all points lie on the photo."""
    return all(0 <= x <= width and 0 <= y <= height for x, y in points)
