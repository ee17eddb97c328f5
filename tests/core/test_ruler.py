"""Lengths clicked on a photo."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.score.ruler import along, inside, length_mm

SCALE = [(0.0, 0.0), (100.0, 0.0)]


def test_worked_by_hand() -> None:
    assert length_mm([(10, 10), (40, 50)], SCALE, 20) == 10.0, "50 px at 0.2 mm"
    assert length_mm([(0, 0), (30, 40), (30, 140)], [(0, 0), (60, 80)], 10) == 15.0, (
        "150 px by a slanted scale of 100 px"
    )


@given(st.floats(0, 2 * math.pi), st.floats(0.5, 4))
def test_turning_or_enlarging_the_photo_changes_nothing(turn: float, large: float) -> None:
    root = [(10.0, 10.0), (60.0, 20.0), (90.0, 80.0)]

    def seen(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
        c, s = large * math.cos(turn), large * math.sin(turn)
        return [(c * x - s * y, s * x + c * y) for x, y in points]

    assert length_mm(seen(root), seen(SCALE), 25) == pytest.approx(length_mm(root, SCALE, 25), abs=0.11)
    assert along(seen(root)) == pytest.approx(large * along(root))


@pytest.mark.parametrize(
    ("points", "scale", "mm", "says"),
    [
        ([(0, 0)], SCALE, 20, "from the base"), ([], SCALE, 20, "from the base"), ([(0, 0)] * 201, SCALE, 20, "from the base"),
        ([(0, 0), (9, 9)], SCALE[:1], 20, "both ends"), ([(0, 0), (9, 9)], [(0, 0), (5, 0)], 20, "too close"),
        ([(0, 0), (9, 9)], SCALE, 0, "between"), ([(0, 0), (9, 9)], SCALE, -3, "between"), ([(0, 0), (0, 0)], SCALE, 20, "no root"),
        ([(0, 0), (90_000, 0)], SCALE, 20, "no root"),
    ],
)  # fmt: skip
def test_what_makes_no_length_is_refused(points: list, scale: list, mm: float, says: str) -> None:
    with pytest.raises(InvalidInput, match=says):
        length_mm(points, scale, mm)


def test_points_off_the_photo() -> None:
    assert inside([(0, 0), (320, 240)], 320, 240)
    assert not inside([(0, 241)], 320, 240) and not inside([(-1, 3)], 320, 240)
