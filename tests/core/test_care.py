"""Care over the weeks, worked by hand."""

from __future__ import annotations

from datetime import date, timedelta

import pytest

from orderly_bench.core.tend.care import CareDay, CareState, summed

STUCK = date(2026, 5, 1)


def on(day: int) -> date:
    return STUCK + timedelta(days=day)


def mist(due: int, done: int | None = None, skipped: str = "") -> CareDay:
    return CareDay("Mist", on(due), on(due + 1), None if done is None else on(done), skipped)


def test_what_was_missed_is_one_line_with_the_longest_gap() -> None:
    days = [mist(3, 3), mist(6, 6), mist(9), mist(12), mist(15, 15), mist(18, 18), mist(21), mist(24)]
    (care,) = summed(days, STUCK, on(19))
    assert (care.due, care.done, care.gap_days, care.gap_from, care.usual_days, care.next) == (
        6,
        4,
        9,
        on(6),
        3,
        on(21),
    )
    assert care.gap and care.words == "Mist: 4 of 6 done, longest gap 9 days from 7 May"


def test_all_done_a_day_late_is_no_gap_and_one_left_out_for_a_reason_is_not_missed() -> None:
    (care,) = summed([mist(3, 4), mist(6, 7), mist(9, None, "rain all day"), mist(12, 12)], STUCK, on(12))
    assert (care.due, care.done, care.skipped) == (
        4,
        3,
        1,
    ) and care.words == "Mist: 3 of 4 done, 1 left out for a reason"


def test_what_was_left_out_for_a_reason_to_the_end_is_a_stretch_without_all_the_same() -> None:
    (care,) = summed([mist(day, None, "the pump failed") for day in (4, 8, 12, 16)], STUCK, on(20))
    assert care.gap and care.words.endswith("0 of 4 done, 4 left out for a reason, longest gap 20 days from 1 May")


def test_one_missed_before_the_last_that_was_done_is_no_gap_to_today() -> None:
    (care,) = summed([mist(3, 3), mist(6), mist(9, 9)], STUCK, on(40))
    assert (care.gap_days, care.gap_from) == (6, on(3))


def test_a_gap_that_still_lasts_counts_up_to_today() -> None:
    (care,) = summed([mist(3, 3), mist(6), mist(9)], STUCK, on(20))
    assert (care.gap_days, care.gap_from) == (17, on(3)) and care.gap


@pytest.mark.parametrize(("today", "state"), [(3, CareState.TO_COME), (4, CareState.TO_COME), (5, CareState.MISSED)])
def test_a_job_is_missed_when_its_window_is_over(today: int, state: CareState) -> None:
    assert mist(3).state(on(today)) is state


def test_kinds_of_care_stand_apart() -> None:
    found = summed([mist(3, 3), CareDay("Feed", on(2), on(3))], STUCK, on(10))
    assert [(one.title, one.done) for one in found] == [("Feed", 0), ("Mist", 1)]
