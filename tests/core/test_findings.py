"""Questions to the data: each raised by what it is for, and not by sound data."""

from __future__ import annotations

from datetime import date

from orderly_bench.core.score.findings import (
    VisitScores,
    question_arms,
    question_reconciliation,
    question_too_early,
    question_visits,
)
from orderly_bench.core.tend.schedule import DayZero, about
from orderly_bench.core.vocabulary import Roots, Score, State

ZERO = DayZero(date(2026, 3, 2), date(2026, 3, 2))
BARE, SEEN = Score(State.ALIVE, Roots.NONE), Score(State.ALIVE, Roots.SEEN)
DEAD = Score(State.DEAD, Roots.NONE)


def visits(
    first: dict[str, Score], second: dict[str, Score], days: tuple[date, date] = (date(2026, 3, 16), date(2026, 3, 30))
) -> list[VisitScores]:
    return [VisitScores(14, days[0], first), VisitScores(28, days[1], second)]


def codes(found: list) -> list[str]:
    return [finding.code for finding in found]


def test_sound_checks_raise_nothing() -> None:
    assert question_visits(visits({"A": BARE, "B": SEEN, "C": DEAD}, {"A": SEEN, "B": SEEN}), ZERO) == []


def test_roots_that_vanish_and_the_dead_that_live() -> None:
    found = question_visits(visits({"A": SEEN, "B": DEAD}, {"A": BARE, "B": BARE}), ZERO)
    assert [(f.code, f.cuttings) for f in found] == [("roots_vanished", ("A",)), ("living_after_dead", ("B",))]


def test_roots_that_rot_with_what_died_have_not_vanished() -> None:
    assert question_visits(visits({"A": SEEN, "B": SEEN}, {"A": DEAD, "B": SEEN}), ZERO) == []


def test_one_cutting_is_told_as_one() -> None:
    (one,) = question_visits(visits({"A": DEAD}, {"A": BARE}), ZERO)
    (two,) = question_visits(visits({"A": DEAD, "B": DEAD}, {"A": BARE, "B": BARE}), ZERO)
    assert one.text.startswith("1 was dead, then living") and two.text.startswith("2 were dead, then living")
    early = question_too_early({"A": DEAD}, 7, 21)
    assert early is not None and early.text == "1 was called dead on day 7; the plan says not before day 21."


def test_checks_before_sticking_only_when_certain_and_out_of_order() -> None:
    early = visits({}, {}, (date(2026, 3, 1), date(2026, 3, 30)))
    assert codes(question_visits(early, ZERO)) == ["check_before_sticking"]
    assert question_visits(early, about(date(2026, 3, 2))) == []
    assert codes(question_visits(visits({}, {}, (date(2026, 3, 30), date(2026, 3, 16))), ZERO)) == [
        "checks_out_of_order"
    ]


def test_counts_that_do_not_add_up_name_the_sum() -> None:
    assert question_reconciliation("A", 24, {"rooted": 20, "dead": 4}) is None
    found = question_reconciliation("A", 24, {"rooted": 20, "dead": 3})
    assert found is not None and "20 rooted + 3 dead = 23, not the 24 stuck" in found.text


def test_written_off_early_and_arms_not_examined() -> None:
    assert question_too_early({"A": DEAD}, 30, 28) is None
    early = question_too_early({"A": DEAD, "B": BARE}, 20, 28)
    assert early is not None and early.cuttings == ("A",)
    assert codes(question_arms({"A": 3, "B": 0})) == ["arm_without_check"]
