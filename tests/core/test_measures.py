"""Lengths and volumes as typed and said."""

from __future__ import annotations

import pytest

from orderly_bench.core.measures import Measure, UnitSystem, length, read_as, small_length, units_of, volume


@pytest.mark.parametrize(
    ("typed", "measure", "value"),
    [
        ("10", Measure.CM, 10), ("1,5", Measure.CM, 1.5), ("48 in", Measure.CM, 121.92), ('2"', Measure.CM, 5.08), ("6ft", Measure.CM, 182.88),
        ("1.2 m", Measure.CM, 120), ("25 mm", Measure.CM, 2.5), ("0.5 in", Measure.MM, 12.7), ("2 cm", Measure.MM, 20), ("12", Measure.MM, 12),
        ("1 gal", Measure.ML, 3785.411784), ("1 qt", Measure.ML, 946.352946), ("8 fl oz", Measure.ML, 236.588237), ("1 L", Measure.ML, 1000),
        ("90 ml", Measure.ML, 90), ("1 Gallon", Measure.ML, 3785.411784), ("1e2", Measure.CM, 100), ("-3 cm", Measure.CM, -3),
    ],
)  # fmt: skip
def test_a_number_is_read_in_its_own_unit(typed: str, measure: Measure, value: float) -> None:
    assert read_as(typed, measure) == pytest.approx(value, abs=1e-6)


@pytest.mark.parametrize(
    "typed", ["", "in", "ten", "1 gal", "1 furlong", "nan", "inf", "1..2", "9" * 30, "1 2", "1e999"]
)
def test_what_is_no_length_is_none(typed: str) -> None:
    assert read_as(typed, Measure.CM) is None


def test_every_unit_named_can_be_typed() -> None:
    for measure, named in ((Measure.CM, "in"), (Measure.MM, "ft"), (Measure.ML, "fl oz")):
        assert named in units_of(measure) and read_as(f"1 {named}", measure) is not None
    assert read_as("1 in", Measure.ML) is None


def test_the_other_unit_stands_beside_where_the_lab_thinks_in_it() -> None:
    assert (length(60, UnitSystem.METRIC), length(60, UnitSystem.IMPERIAL)) == ("60 cm", "23.6 in (60 cm)")
    assert (small_length(10, UnitSystem.METRIC), small_length(10, UnitSystem.IMPERIAL)) == ("10 mm", "0.39 in (10 mm)")
    assert (volume(2, UnitSystem.METRIC), volume(3.785411784, UnitSystem.IMPERIAL)) == ("2.0 L", "1.0 gal (3.8 L)")
