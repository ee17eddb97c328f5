"""What is read by hand: only like with like, what was not read is not known, what differs by plan is no doubt."""

from __future__ import annotations

from datetime import date, timedelta

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.tend.by_day import Unit
from orderly_bench.core.tend.by_hand import (
    ByHand,
    Kind,
    apart_by_hand,
    cover_days,
    covers_of,
    moisture_told,
    read_value,
)

ZERO = date(2026, 5, 1)
A1, A2, B1 = (Unit(arm, n, ZERO, ZERO + timedelta(days=27)) for arm, n in (("A", 1), ("A", 2), ("B", 3)))
UNITS = [A1, A2, B1]


def day(number: int) -> date:
    return ZERO + timedelta(days=number)


def read(kind: Kind, number: int, units: set[int], typed: str) -> ByHand:
    return ByHand(kind, day(number), frozenset(units), *read_value(kind, typed))


@pytest.mark.parametrize(
    ("kind", "typed", "found"),
    [
        (Kind.AIR, "14 to 31 °C", ("", 14.0, 31.0)), (Kind.AIR, "31/14", ("", 14.0, 31.0)), (Kind.MEDIUM, "21,5", ("", 21.5, 21.5)),
        (Kind.AIR, "50 to 86 °F", ("", 10.0, 30.0)), (Kind.SHADE, "60 %", ("", 60.0, 60.0)), (Kind.SUN, "6 h", ("", 6.0, 6.0)),
        (Kind.MOISTURE, "Nearly  dry", ("nearly dry", None, None)), (Kind.COVER, "off", ("off", None, None)),
        (Kind.LIGHT, "Bright shade", ("bright shade", None, None)),
    ],
)  # fmt: skip
def test_one_line_is_read(kind: Kind, typed: str, found: tuple[str, float | None, float | None]) -> None:
    assert read_value(kind, typed) == pytest.approx(found)


@pytest.mark.parametrize(
    ("kind", "typed", "says"),
    [
        (Kind.AIR, "", "one figure"), (Kind.AIR, "warm", "number"), (Kind.AIR, "14 to 21 to 31", "one figure"), (Kind.AIR, "212", "between -40 and 70"),
        (Kind.SHADE, "110", "between 0 and 100"), (Kind.MOISTURE, "damp", "choose one of: dry"), (Kind.LIGHT, "moist", "choose one of: deep shade"), (Kind.COVER, "14", "choose one of: closed"),
    ],
)  # fmt: skip
def test_what_can_not_be_is_refused(kind: Kind, typed: str, says: str) -> None:
    with pytest.raises(InvalidInput, match=says):
        read_value(kind, typed)


def test_like_is_compared_with_like_on_days_on_which_both_were_read() -> None:
    shade = [read(Kind.SHADE, 3, {1, 2}, "60"), read(Kind.SHADE, 3, {3}, "30"), read(Kind.SHADE, 5, {1}, "90")]
    assert apart_by_hand(UNITS, shade) == ["shade, percent: A 60 %, B 30 % on 1 day on which both were read"]
    assert apart_by_hand(UNITS, shade, {Kind.SHADE}) == []
    assert apart_by_hand(UNITS, [read(Kind.SHADE, 3, {1, 2}, "60"), read(Kind.SUN, 3, {3}, "2")]) == []
    assert apart_by_hand(UNITS, [read(Kind.SHADE, 3, {1, 2}, "60"), read(Kind.SHADE, 4, {3}, "10")]) == []
    near = [read(Kind.AIR, 3, {1, 2}, "14 to 20"), read(Kind.AIR, 3, {3}, "14 to 21")]
    assert apart_by_hand(UNITS, near) == []
    before = [read(Kind.SHADE, -2, {1}, "60"), read(Kind.SHADE, -2, {3}, "10")]
    assert apart_by_hand(UNITS, before) == [], "nothing was stuck yet"


def test_the_pair_that_is_furthest_apart_is_told() -> None:
    units = [*UNITS, Unit("C", 4, ZERO, day(27))]
    read_all = [read(Kind.SUN, 2, {1, 2}, "6"), read(Kind.SUN, 2, {3}, "5"), read(Kind.SUN, 2, {4}, "2")]
    assert apart_by_hand(units, read_all) == ["sun, hours a day: A 6 h, C 2 h on 1 day on which both were read"]


def test_moisture_is_counted_inside_and_outside_its_band() -> None:
    readings = [
        read(Kind.MOISTURE, n, {1, 2}, state) for n, state in enumerate(("moist", "nearly dry", "wet", "soaked"))
    ]
    assert moisture_told(UNITS, readings) == {"A": "moist or nearly dry on 2 of 4 days read; wet on 1; soaked on 1"}
    both = [*readings, *(read(Kind.MOISTURE, n, {3}, "dry") for n in range(4))]
    assert apart_by_hand(UNITS, both) == ["moisture of the medium: A moist, B dry on 4 days on which both were read"]


def test_a_cover_lasts_until_the_next_and_its_days_are_counted_by_arm() -> None:
    readings = [
        read(Kind.COVER, 0, {1, 2, 3}, "closed"), read(Kind.COVER, 10, {3}, "vented"), read(Kind.COVER, 20, {1, 2, 3}, "off"),
    ]  # fmt: skip
    assert covers_of(B1, readings) == [
        (day(0), day(9), "closed"),
        (day(10), day(19), "vented"),
        (day(20), day(27), "off"),
    ]
    assert cover_days(UNITS, readings) == {
        "A": {"closed": 20, "vented": 0, "holed": 0, "off": 8},
        "B": {"closed": 10, "vented": 10, "holed": 0, "off": 8},
    }
    assert apart_by_hand(UNITS, readings) == ["cover closed on 20 of 28 days in A, on 10 of 28 in B"]
    assert apart_by_hand(UNITS, readings, {Kind.COVER}) == []


def test_what_nobody_wrote_down_of_an_arm_is_not_known_and_not_the_same() -> None:
    assert cover_days(UNITS, [read(Kind.COVER, 0, {1, 2}, "closed")]) == {
        "A": {"closed": 28, "vented": 0, "holed": 0, "off": 0}
    }
    assert covers_of(B1, [read(Kind.COVER, 0, {1, 2}, "closed")]) == []


def test_light_in_words_is_compared_with_light_in_words_alone() -> None:
    bright = [read(Kind.LIGHT, n, {1, 2}, "half sun") for n in range(4)]
    dark = [read(Kind.LIGHT, n, {3}, "shade") for n in range(4)]
    hours = [read(Kind.SUN, n, {3}, "2 h") for n in range(4)]
    assert apart_by_hand(UNITS, [*bright, *hours]) == []
    assert apart_by_hand(UNITS, [*bright, *dark]) == [
        "light, in words: A half sun, B shade on 4 days on which both were read"
    ]
    assert apart_by_hand(UNITS, [*bright, *dark], [Kind.LIGHT]) == [], "it differs by plan"
    assert bright[0].words == "half sun"
