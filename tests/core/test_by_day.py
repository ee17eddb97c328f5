"""A log day by day, and what the arms lived through."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.tend.by_day import Day, Log, Unit, apart, by_day, lived
from orderly_bench.core.tend.conditions import Reading, conditions, in_order, parted, parts_by_day
from orderly_bench.record.lived import Life, doubts_about_conditions

MAY = date(2026, 5, 1)
START = datetime(2026, 5, 1)


def day(number: int, **known: float) -> Day:
    return Day(
        MAY + timedelta(days=number),
        24.0,
        known.get("air"),
        10.0,
        30.0,
        known.get("below", 0.0),
        0.0,
        24.0,
        known.get("light"),
        known.get("dry"),
    )


def unit(arm: str, number: int, days: int = 10) -> Unit:
    return Unit(arm, number, MAY, MAY + timedelta(days=days - 1))


def test_a_day_is_worked_by_hand_and_one_over_midnight_counts_on_both() -> None:
    readings = [
        Reading(START + timedelta(hours=22), 16.0, 50.0, 100.0),
        Reading(START + timedelta(hours=25), 20.0, 50.0, 0.0),
    ]
    first, second = by_day(readings, 18, 24)
    assert (first.day, first.air_hours, first.air, first.hours_below) == (MAY, 2, 16.0, 2)
    assert (second.air_hours, second.hours_below, second.low, second.high) == (4, 1, 16.0, 20.0)
    assert second.air == pytest.approx((16 + 3 * 20) / 4)
    assert first.light is None and second.light is None, "light of a few hours is no light of a day"


def test_a_day_on_which_the_clock_is_set_has_its_own_hours() -> None:
    zone = ZoneInfo("Europe/London")
    spring = [
        Reading((datetime(2026, 3, 29, tzinfo=ZoneInfo("UTC")) + timedelta(hours=h)).astimezone(zone), 20.0)
        for h in range(-24, 48)
    ]
    hours = {one.day: one.air_hours for one in by_day(spring, 18, 24)}
    assert hours[date(2026, 3, 28)] == 24 and hours[date(2026, 3, 29)] == 23


@settings(max_examples=60, deadline=None)
@given(
    st.lists(
        st.tuples(st.integers(1, 400), st.floats(-5, 40), st.floats(0, 100), st.floats(0, 900)), min_size=2, max_size=60
    )
)
def test_days_add_up_to_the_whole_log(rows: list[tuple[int, float, float, float]]) -> None:
    at, readings = START, []
    for minutes, air, rh, ppfd in rows:
        at += timedelta(minutes=minutes)
        readings.append(Reading(at, air, rh, ppfd))
    whole, days = conditions(readings, 18, 24), by_day(readings, 18, 24)
    assert sum(one.air_hours for one in days) == pytest.approx(whole.known_hours)
    assert sum(one.hours_below for one in days) == pytest.approx(whole.hours_below)
    assert sum(one.hours_above for one in days) == pytest.approx(whole.hours_above)
    assert {one.day: one.light for one in days if one.light is not None} == pytest.approx(
        {d: whole.dli[d] for one in days if one.light is not None for d in [one.day]}
    )


def test_arms_under_one_log_lived_alike_and_a_darker_corner_is_told_with_its_figures() -> None:
    units = [unit("A", 1), unit("A", 2), unit("C", 3), unit("C", 4)]
    bright, dark = (
        tuple(day(n, air=20.0, light=5.3) for n in range(10)),
        tuple(day(n, air=20.2, light=3.3) for n in range(10)),
    )
    assert apart(units, [Log(frozenset({1, 2, 3, 4}), bright)]) == []
    (one,) = apart(units, [Log(frozenset({1, 2}), bright), Log(frozenset({3, 4}), dark)])
    assert one.words == "C got 38 % less light than A: 3.3 against 5.3 mol/m² a day on 10 days"


def test_what_the_plan_makes_differ_is_no_doubt_and_its_figures_stand() -> None:
    units = (unit("A", 1), unit("C", 2))
    logs = tuple(
        Log(frozenset({n}), tuple(day(d, air=20.0, light=light) for d in range(10)))
        for n, light in ((1, 5.3), (2, 3.3))
    )
    end = MAY + timedelta(days=9)
    for differ, told in ((set(), 1), ({AspectKind.LIGHT}, 0), ({AspectKind.PLACE}, 0), ({AspectKind.HORMONE}, 1)):
        life = Life(("A", "C"), units, logs, (), (), differ, False, end)
        assert len(doubts_about_conditions(life)) == told, differ
        assert life.by_arm["C"].light == pytest.approx(3.3)


def test_only_days_on_which_both_were_read_are_compared() -> None:
    units = [unit("A", 1), unit("B", 2)]
    warm, cold = tuple(day(n, air=25.0) for n in range(5)), tuple(day(n, air=15.0) for n in range(5, 10))
    logs = [Log(frozenset({1}), warm), Log(frozenset({2}), cold)]
    assert apart(units, logs) == []
    told = apart(units, [*logs, Log(frozenset({2}), (day(0, air=21.0),))])
    assert [one.words for one in told] == ["B stood colder than A: 21.0 against 25.0 °C on 1 day"]


def test_days_without_a_reading_are_counted_and_an_arm_without_any_is_not_known() -> None:
    found = lived(
        [unit("A", 1), unit("B", 2)], [Log(frozenset({1}), tuple(day(n, air=20.0, below=3.0) for n in range(4)))]
    )
    assert (found["A"].days, found["A"].air_days, found["A"].light_days, found["A"].hours_below) == (10, 4, 0, 12.0)
    assert found["A"].known and not found["B"].known and found["B"].air is None


def test_of_two_logs_of_a_day_the_later_stands_and_days_outside_the_trial_do_not_count() -> None:
    units = [unit("A", 1, days=2)]
    logs = [Log(frozenset({1}), (day(0, air=10.0), day(5, air=50.0))), Log(frozenset({1}), (day(0, air=20.0),))]
    assert lived(units, logs)["A"].air == 20.0 and lived(units, logs)["A"].air_days == 1


@pytest.mark.parametrize("zone", [None, ZoneInfo("Europe/London"), ZoneInfo("America/New_York")])
@pytest.mark.parametrize("seed", range(8))
def test_parts_of_days_are_those_of_one_reading_after_the_other(zone: ZoneInfo | None, seed: int) -> None:
    """Over days on which the clock is set too, with readings that lie minutes or days apart."""
    rng = np.random.default_rng(seed)
    start = datetime(2026, 3, 27, 5) if seed % 2 else datetime(2026, 10, 23, 5)
    steps = np.cumsum(rng.choice([60, 600, 3_600, 40_000, 90_000], size=120, p=[0.3, 0.3, 0.3, 0.07, 0.03]))
    first = start if zone is None else start.replace(tzinfo=zone)
    ats = [
        first + timedelta(seconds=int(s)) if zone is None else datetime.fromtimestamp(first.timestamp() + int(s), zone)
        for s in steps
    ]
    log = in_order([Reading(at, float(rng.normal(20, 3))) for at in ats])
    parts = parted(log)
    slow = [
        (i, day.toordinal(), hours)
        for i, one in enumerate(log.readings)
        for day, hours in parts_by_day(one.at, float(log.hours[i]))
    ]
    assert list(zip(parts.reading.tolist(), parts.day.tolist(), strict=True)) == [(i, day) for i, day, _ in slow]
    assert parts.hours == pytest.approx([hours for _, _, hours in slow], abs=1e-9)
    assert parts.hours.sum() == pytest.approx(log.hours.sum())


@pytest.mark.parametrize("first", ["air", "light"])
def test_a_logger_of_air_and_one_of_light_go_together_in_either_order(first: str) -> None:
    air = Log(frozenset({1}), tuple(replace(day(n, air=20.0), dry=0.8, light=None, light_hours=0.0) for n in range(4)))
    light = Log(
        frozenset({1}),
        tuple(replace(day(n, light=5.0), air=None, air_hours=0.0, dry=None, light_hours=24.0) for n in range(4)),
    )
    found = lived([unit("A", 1, 4)], [air, light] if first == "air" else [light, air])["A"]
    assert (found.air_days, found.light_days, found.dry_days) == (4, 4, 4)
    assert (found.air, found.light, found.dry) == (20.0, 5.0, 0.8)


def test_of_two_loggers_the_one_that_knows_more_of_a_day_has_it() -> None:
    whole = Log(frozenset({1}), (replace(day(0, air=20.0), air_hours=24.0),))
    stopped = Log(frozenset({1}), (replace(day(0, air=30.0), air_hours=3.0),))
    for logs in ([whole, stopped], [stopped, whole]):
        assert lived([unit("A", 1, 1)], logs)["A"].air == 20.0
