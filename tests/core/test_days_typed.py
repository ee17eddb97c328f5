"""Days as people write them: read in one way, as the lab writes them, or asked about."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.typed import DayOrder, day_order, read_day


@pytest.fixture
def asked() -> Iterator[list[DayOrder]]:
    """The lab's order, which the test sets; ``day_order`` counts how often it is asked for by taking from the list."""
    orders: list[DayOrder] = []
    before = day_order.set(lambda: orders.pop())
    yield orders
    day_order.reset(before)


@pytest.mark.parametrize(
    ("order", "means"), [(DayOrder.DAY_FIRST, date(2026, 7, 5)), (DayOrder.MONTH_FIRST, date(2026, 5, 7))]
)
def test_strokes_are_read_as_the_lab_writes_them(asked: list[DayOrder], order: DayOrder, means: date) -> None:
    asked.append(order)
    assert read_day("5/7/2026", "day") == means and not asked


def test_the_lab_is_asked_only_where_it_matters(asked: list[DayOrder]) -> None:
    assert read_day("31/3/2026", "day") == read_day("3/31/2026", "day") == date(2026, 3, 31)
    assert read_day("5/5/2026", "day") == date(2026, 5, 5)


@pytest.mark.parametrize(
    "typed",
    ["2026-05-12", "12.5.2026", "12 May 2026", "12 may 2026", "May 12, 2026", "12th of May 2026", "12th May 2026", "12-May-2026", "Tue 12 May 2026", "Tuesday, 12 May 2026", "2026/05/12", " 12  May  2026 "],
)  # fmt: skip
def test_one_day_in_many_writings(typed: str) -> None:
    assert read_day(typed, "day") == date(2026, 5, 12)


@pytest.mark.parametrize(
    "typed",
    ["12 May", "May 2026", "12/5/26", "12.05.26", "12-May-26", "2026", "123456", "about 12 May 2026", "32 May 2026"],
)
def test_what_lacks_something_is_not_guessed(typed: str) -> None:
    with pytest.raises(InvalidInput):
        read_day(typed, "day")


@pytest.mark.parametrize("order", [None, DayOrder.ASK])
def test_without_an_order_it_is_asked_about(asked: list[DayOrder], order: DayOrder | None) -> None:
    if order is None:
        day_order.set(None)
    else:
        asked.append(order)
    with pytest.raises(InvalidInput, match="can be read as two days"):
        read_day("5/7/2026", "day")


@pytest.mark.parametrize(
    ("typed", "said"),
    [
        ("14", "a day without its month"), ("14.", "a day without its month"), ("the 3rd", "a day without its month"),
        ("day 40 of the trial", "counted from another"), ("Day 7", "counted from another"), ("on day 12", "counted from another"),
        ("tomorrow", "choose a date"), ("31.2.2026", "choose a date"), ("", "choose a date"), ("140", "choose a date"),
    ],
)  # fmt: skip
def test_what_is_no_date_is_told_what_it_lacks(typed: str, said: str) -> None:
    with pytest.raises(InvalidInput, match=said):
        read_day(typed, "day")
