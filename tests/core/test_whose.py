"""Whose care it is today."""

from __future__ import annotations

from datetime import date

import pytest

from orderly_bench.core.tend.whose import Absence, Whose, whose_today

TODAY = date(2026, 5, 3)
ADA, BO, CY = 1, 2, 3


def away(person: int, cover: int | None = None, first: int = 1, last: int = 9) -> Absence:
    return Absence(person, date(2026, 5, first), date(2026, 5, last), cover)


def test_what_nobody_took_on_is_everybody_s_and_one_s_own_is_one_s_own() -> None:
    assert whose_today(BO, {}, [], TODAY) == Whose(True) == whose_today(BO, {BO: "Bo"}, [], TODAY)
    assert whose_today(BO, {ADA: "Ada"}, [], TODAY) == Whose(False, "tended by Ada")


@pytest.mark.parametrize(("first", "last", "mine"), [(1, 9, True), (3, 3, True), (4, 9, False), (1, 2, False)])
def test_who_covers_has_it_on_those_days_only(first: int, last: int, mine: bool) -> None:
    assert whose_today(BO, {ADA: "Ada"}, [away(ADA, BO, first, last)], TODAY).mine is mine
    assert not whose_today(CY, {ADA: "Ada"}, [away(ADA, BO, first, last)], TODAY).mine or not mine


def test_whom_nobody_covers_leaves_it_to_everybody_unless_another_is_there() -> None:
    assert whose_today(CY, {ADA: "Ada"}, [away(ADA)], TODAY) == Whose(True, "Ada is away, and nobody covers")
    assert not whose_today(CY, {ADA: "Ada", BO: "Bo"}, [away(ADA)], TODAY).mine
    both = whose_today(CY, {ADA: "Ada", BO: "Bo"}, [away(ADA), away(BO)], TODAY)
    assert both == Whose(True, "Ada and Bo are away, and nobody covers")
    assert not whose_today(CY, {ADA: "Ada", BO: "Bo"}, [away(ADA, BO), away(BO, ADA)], TODAY).mine
