"""What stands on the bench, in numbers."""

from __future__ import annotations

import pytest

from orderly_bench.core.design.in_numbers import COUNTED, Standing, in_numbers
from orderly_bench.core.plan.treatments import Shape


@pytest.mark.parametrize(
    ("stands", "said"),
    [
        ([Standing(Shape.POT, 3, 3, 9)], ["9 pots"]),
        ([Standing(Shape.POT, 3, 3, 8), Standing(Shape.POT, 1, 1, 1)], ["9 pots"]),
        ([Standing(Shape.POT, 1, 1, 1)], ["1 pot"]),
        ([Standing(Shape.CELLS, 4, 8, 20)] * 2 + [Standing(Shape.JAR, 1, 1, 1)], ["2 trays of cells, 4 x 8", "1 jar"]),
        (
            [Standing(Shape.CELLS, 4, 8, 20), Standing(Shape.CELLS, 2, 8, 16)],
            ["1 tray of cells, 4 x 8", "1 tray of cells, 2 x 8"],
        ),
        ([Standing(Shape.LIDDED_TRAY, 1, 1, 1)] * 3, ["3 lidded trays"]),
        ([], []),
    ],
)
def test_each_kind_is_counted_as_it_stands(stands: list[Standing], said: list[str]) -> None:
    assert in_numbers(stands) == said


def test_every_shape_has_its_words() -> None:
    assert set(COUNTED) == set(Shape)
