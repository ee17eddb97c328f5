"""A forecast with its gains, in both units, and what is warned of."""

from __future__ import annotations

from datetime import date, timedelta

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.sums.climate import frost
from orderly_bench.core.tend.forecast import Night, read_night, warned

TODAY = date(2026, 3, 9)


def test_inside_is_forecast_and_gains_as_the_sum_has_it() -> None:
    night = Night(TODAY, -4.0, gains=2.8)
    same = frost(-4.0, 2.8, None, None).result
    assert (night.inside, night.frost) == (same["inside_c"], same["frost"]) == (-1.2, True)
    assert (
        night.words
        == "9 Mar 2026: −4 °C forecast, 2.8 gained, −1.2 °C (30 °F) inside: frost inside; cover, heat, or bring them in"
    )
    assert Night(TODAY, 0.0).frost and not Night(TODAY, 0.1).frost
    assert "shade and vent" in Night(TODAY, 12.0, 32.0).words and "shade" not in Night(TODAY, 12.0, 31.9).words


def test_fahrenheit_is_read_as_what_it_is() -> None:
    """24.8 °F are -4 °C; 5 °F gained are 2.78 °C."""
    night = read_night({"day": "2026-03-09", "low": "24,8", "high": "50", "gains": "5"}, True)
    assert (night.low, night.high, night.gains) == (-4.0, 10.0, 2.78)
    assert read_night({"day": "2026-03-09", "low": "-4"}, False) == Night(TODAY, -4.0)


@pytest.mark.parametrize(
    "wrong",
    [
        {"low": "-4"},
        {"day": "2026-03-09"},
        {"day": "2026-03-09", "low": "70"},
        {"day": "2026-03-09", "low": "5", "high": "1"},
        {"day": "31 February", "low": "1"},
    ],
)
def test_what_cannot_be_is_refused(wrong: dict[str, str]) -> None:
    with pytest.raises(InvalidInput):
        read_night(wrong, False)


def test_only_what_lies_just_ahead_is_warned_of() -> None:
    nights = [Night(TODAY + timedelta(days=n), -2.0) for n in (-1, 0, 3, 4)] + [
        Night(TODAY + timedelta(days=1), 5.0, 20.0)
    ]
    assert [(one.day - TODAY).days for one in warned(nights, TODAY)] == [0, 3]
