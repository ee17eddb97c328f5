"""Minutes are shared by the cuttings they were for."""

from __future__ import annotations

import pytest

from orderly_bench.core.conclude.time_spent import Spent, Work, by_work, check_minutes, for_a_cutting
from orderly_bench.core.errors import InvalidInput


def test_minutes_of_some_arms_are_shared_by_their_cuttings_alone() -> None:
    spent = [Spent(Work.STICKING, 60), Spent(Work.CARE, 30, ("B", "C")), Spent(Work.CHECK, 10, ("C",))]
    found = for_a_cutting(spent, {"A": 20, "B": 20, "C": 10})
    assert found == pytest.approx({"": 60 / 50, "A": 0.0, "B": 1.0, "C": 2.0})
    assert sum(found[""] * n + found[arm] * n for arm, n in {"A": 20, "B": 20, "C": 10}.items()) == pytest.approx(100)


def test_nothing_stuck_and_nothing_written_is_nothing() -> None:
    assert for_a_cutting([], {"A": 3}) == {"": 0.0, "A": 0.0}
    assert for_a_cutting([Spent(Work.CARE, 9), Spent(Work.CARE, 9, ("A",))], {"A": 0}) == {"": 0.0, "A": 0.0}


def test_kinds_of_work_add_up_in_their_order() -> None:
    assert by_work([Spent(Work.CHECK, 5), Spent(Work.CARE, 2), Spent(Work.CARE, 3)]) == [
        (Work.CARE, 5),
        (Work.CHECK, 5),
    ]


@pytest.mark.parametrize("minutes", [0.0, -5.0, 10_001.0])
def test_minutes_that_can_not_be_are_refused(minutes: float) -> None:
    with pytest.raises(InvalidInput, match="minutes"):
        check_minutes(minutes)
