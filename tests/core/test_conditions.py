"""A logger's readings summed up: worked by hand, against a slow second way, and where clocks change."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from itertools import pairwise
from math import exp
from statistics import median
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.tend.conditions import Reading, conditions
from orderly_bench.formats.log_csv import read_log

MAY = datetime(2026, 5, 7)
LONDON = ZoneInfo("Europe/London")


def log(air: list[float | None], minutes: float = 60, **more: list[float]) -> list[Reading]:
    rest = [dict(zip(more, values, strict=True)) for values in zip(*more.values(), strict=True)] or [{} for _ in air]
    return [Reading(MAY + timedelta(minutes=minutes * n), one, **rest[n]) for n, one in enumerate(air)]


def test_worked_by_hand() -> None:
    found = conditions(log([16.0, 20.0, 27.0, 24.0], rh=[80, 50, 50, 100], ppfd=[0, 100, 500, 0]), 18, 24)
    assert (found.rows, found.duplicates, found.gaps, found.spikes, found.known_hours) == (4, 0, 0, 0, 4)
    assert (found.hours_below, found.degree_hours_below) == (1, 2)
    assert (found.hours_above, found.degree_hours_above) == (1, 3)
    assert found.dli == {date(2026, 5, 7): pytest.approx(600 * 3600 / 1e6)}
    lacks = [
        0.6108 * exp(17.27 * c / (c + 237.3)) * (1 - rh / 100) for c, rh in ((16, 80), (20, 50), (27, 50), (24, 100))
    ]
    assert found.vpd_kpa_mean == pytest.approx(sum(lacks) / 4) and found.cautions == ()


def test_a_reading_holds_for_two_usual_intervals_at_most_and_over_three_are_a_gap() -> None:
    readings = log([10.0] * 7)
    apart = [*readings[:3], *(Reading(one.at + timedelta(hours=2), one.air_c) for one in readings[3:])]
    assert (conditions(apart, 18, 24).hours_below, conditions(apart, 18, 24).gaps) == (8, 0), (
        "three hours are no gap, two are held"
    )
    wider = [*readings[:3], *(Reading(one.at + timedelta(hours=2.5), one.air_c) for one in readings[3:])]
    found = conditions(wider, 18, 24)
    assert (
        (found.hours_below, found.gaps) == (8, 1)
        and "longest gap" in found.cautions[0]
        and "year" not in found.cautions[0]
    )
    off = [*readings, Reading(MAY.replace(year=2027), 10.0)]
    assert "Is the year right?" in conditions(off, 18, 24).cautions[0]


def test_spikes_and_repeated_times_are_counted_and_left_out() -> None:
    spiky = log([20.0, 85.0, 20.0, 36.0, 20.0, -31.0, 20.0, 36.0, 36.0, 20.0])
    found = conditions([*spiky, Reading(spiky[0].at, 5.0)], 18, 24)
    assert (found.rows, found.duplicates, found.spikes) == (11, 1, 3)
    assert found.hours_above == 2 and found.hours_below == 0 and found.known_hours == 10, (
        "what stays holds over what is left out"
    )


def test_light_over_midnight_counts_on_both_days() -> None:
    readings = [
        Reading(datetime(2026, 5, 7, 23, 45), 20, None, 100),
        Reading(datetime(2026, 5, 8, 0, 15), 20, None, 40),
    ]
    assert conditions(readings, 18, 24).dli == {
        date(2026, 5, 7): pytest.approx(100 * 900 / 1e6), date(2026, 5, 8): pytest.approx((100 * 900 + 40 * 1800) / 1e6)
    }  # fmt: skip


@pytest.mark.parametrize(
    ("day", "hours"), [("2026-03-29", 23), ("2026-10-25", 25), ("2024-02-29", 24), ("2026-12-31", 24)]
)
def test_a_day_has_the_hours_that_passed(day: str, hours: int) -> None:
    first = datetime.fromisoformat(day).replace(tzinfo=LONDON)
    start, end = first.timestamp(), (datetime.fromisoformat(day) + timedelta(days=1)).replace(tzinfo=LONDON).timestamp()
    times = [datetime.fromtimestamp(start + 1800 * n, LONDON) for n in range(int(end - start) // 1800)]
    text = "time,air_c,ppfd\n" + "".join(f"{at:%Y-%m-%d %H:%M},10,100\n" for at in times)
    found = conditions(read_log(text.encode(), LONDON), 18, 24)
    assert (found.hours_below, found.duplicates, found.gaps, found.cautions) == (hours, 0, 0, ())
    assert found.dli == {first.date(): pytest.approx(100 * hours * 3600 / 1e6)}
    if hours == 25:
        plain = conditions(read_log(text.encode()), 18, 24)
        assert plain.duplicates == 2 and "was the clock set back?" in plain.cautions[0]


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(st.integers(0, 400), st.floats(8, 22), st.integers(0, 100)), min_size=2, max_size=40),
    st.randoms(use_true_random=False),
)
def test_a_slow_second_way_gives_the_same_in_any_order(rows: list[tuple[int, float, int]], shuffled) -> None:  # type: ignore[no-untyped-def]
    """Second by second would do; minute by minute does, as times are whole minutes."""
    once: dict[int, tuple[float, int]] = {}
    for minute, air, rh in rows:
        once.setdefault(minute, (air, rh))
    if len(once) < 2:
        return
    times = sorted(once)
    usual = median(later - earlier for earlier, later in pairwise(times))
    below = degrees = vpd = known = 0.0
    for place, minute in enumerate(times):
        holds = usual if place == len(times) - 1 else min(times[place + 1] - minute, 2 * usual)
        air, rh = once[minute]
        for _ in range(round(holds * 2)):
            below += (air < 15) / 120
            degrees += max(0.0, 15 - air) / 120
            vpd += 0.6108 * exp(17.27 * air / (air + 237.3)) * (1 - rh / 100)
            known += 1
    readings = [Reading(MAY + timedelta(minutes=m), air, rh) for m, (air, rh) in once.items()]
    shuffled.shuffle(readings)
    found = conditions(readings, 15, 24)
    assert (found.hours_below, found.degree_hours_below) == (pytest.approx(below), pytest.approx(degrees))
    assert found.vpd_kpa_mean == pytest.approx(vpd / known)


def test_what_was_not_read_is_not_known() -> None:
    found = conditions(log([None, 10.0, None, 10.0]), 18, 24)
    assert (found.known_hours, found.hours_below, found.vpd_kpa_mean, found.dli) == (2, 2, None, {})
    assert "2 readings have no air temperature" in found.cautions[0]


def test_a_log_that_can_not_be_is_refused() -> None:
    with pytest.raises(UnusableData, match="hardly in Celsius"):
        conditions(log([68.0, 70.0, 66.0]), 18, 24)
    with pytest.raises(UnusableData, match="fewer than two times"):
        conditions(log([20.0]), 18, 24)
    with pytest.raises(UnusableData, match="the band 24 to 18 is none"):
        conditions(log([20.0, 21.0]), 24, 18)
