"""Signs of failure by arm, and what went wrong without a trial."""

from __future__ import annotations

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.question.starts import start_of
from orderly_bench.core.question.went_wrong import Case, Cover, Seen, Wet, Wood, hypotheses, read_case
from orderly_bench.core.score.signs import read_together, signs_of
from orderly_bench.core.vocabulary import FailureSign, Roots, Score, State


def showing(sign: FailureSign | None) -> Score:
    return Score(State.DEAD, Roots.NONE, failure=sign)


def trial(**of: dict[FailureSign, int]) -> list[tuple[str, Score | None]]:
    """Thirty of each arm, so many of which show a sign."""
    found: list[tuple[str, Score | None]] = []
    for letter, signs in of.items():
        own = [showing(sign) for sign, n in signs.items() for _ in range(n)]
        found += [(letter, score) for score in [*own, *[showing(None)] * (30 - len(own))]]
    return found


BLACK, DRY, PEST = FailureSign.BLACK_BASE, FailureSign.DRY_FROM_TOP, FailureSign.PEST


def test_counted_by_arm_with_their_denominators_the_most_frequent_first() -> None:
    signs = signs_of("AB", trial(A={BLACK: 9, DRY: 3}, B={BLACK: 2, DRY: 8}))
    assert [one.words for one in signs] == ["black base: A 9 of 30, B 2 of 30", "dry from top: A 3 of 30, B 8 of 30"]
    assert signs_of("AB", trial(A={BLACK: 1, PEST: 2}))[0].sign is PEST
    assert {one.sign: one.total for one in signs} == {BLACK: 11, DRY: 11}
    assert all(one.correction and one.points_to for one in signs)
    assert "alcohol" in next(one for one in signs if one.sign is BLACK).points_to


def test_few_are_counted_and_not_read() -> None:
    (four,) = signs_of("AB", trial(A={PEST: 4}, B={}))
    assert (four.total, four.points_to, four.correction) == (4, "", "")
    assert read_together([four]) == ["pest: too few to read, counted only."]
    (five,) = signs_of("AB", trial(A={PEST: 5}, B={}))
    assert five.correction and read_together([five]) == []


def test_opposite_signs_are_told_apart_only_where_both_can_be_read() -> None:
    both = signs_of("AB", trial(A={BLACK: 5}, B={DRY: 5}))
    assert read_together(both)[0].startswith("Opposite signs")
    assert not any("Opposite" in line for line in read_together(signs_of("AB", trial(A={BLACK: 5}, B={DRY: 4}))))


def test_who_was_not_looked_at_is_in_no_denominator() -> None:
    (one,) = signs_of("AB", [("A", showing(BLACK)), ("A", None), ("B", showing(None))])
    assert one.of_arm == {"A": (1, 1), "B": (0, 1)}
    assert signs_of("A", []) == []


def test_what_was_said_comes_first_and_says_why() -> None:
    first = hypotheses(Case(Seen.BLACK_BASE, wet=Wet.WET, warmth=12.0))
    assert [bool(one.because) for one in first] == [True, True, False, False, False]
    assert "too cool" in first[1].cause and "12 °C is below 15 °C" in first[1].because
    burned = hypotheses(Case(Seen.BLACK_BASE, dipped=True))[0]
    assert "burned" in burned.cause and burned.because == "they were dipped"
    assert hypotheses(Case(Seen.SHRIVELLED, cover=Cover.OPEN))[0].start == "cover"


@pytest.mark.parametrize(
    ("wood", "days", "slow"), [(Wood.HARD, 60, True), (Wood.SOFT, 60, False), (Wood.HARD, 90, False)]
)
def test_waiting_is_not_late_before_its_time(wood: Wood, days: int, slow: bool) -> None:
    late = next(one for one in hypotheses(Case(Seen.WAITING, wood=wood, days=days)) if one.start == "look")
    assert bool(late.because) is slow


def test_every_hypothesis_names_a_ready_question_that_there_is() -> None:
    for seen in Seen:
        found = hypotheses(Case(seen))
        assert bool(found) is (seen is not Seen.NOT_SAID)
        assert all(not one.start or start_of(one.start) for one in found), seen
        assert all(one.correction for one in found)


def test_a_case_as_typed() -> None:
    case = read_case({"seen": "alive and green, no roots", "days": "30", "warmth": "12,5", "dipped": "yes"})
    assert case == Case(Seen.WAITING, days=30, warmth=12.5, dipped=True)
    for wrong in ({"seen": "sad"}, {"days": "-1"}, {"warmth": "99"}):
        with pytest.raises(InvalidInput):
            read_case(wrong)
