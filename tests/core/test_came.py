"""How a lot came to the bench, as typed and in words."""

from __future__ import annotations

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.stick.came import Came, Origin, as_typed, read_came


def test_what_is_typed_is_kept_and_what_is_not_is_not_said() -> None:
    came = Came(Origin.STORM, 2, "at dawn, wet", "Rowan Beck, 40, 3 dead on arrival", "Ines")
    assert read_came(as_typed(came)) == came
    assert as_typed(Came()) == {} and read_came({}) == Came() and Came().words == ""
    assert (
        came.words
        == "storm damage, condition 2 of 5, from Rowan Beck, 40, 3 dead on arrival, taken at dawn, wet, stuck by Ines"
    )
    assert read_came({"condition": "0"}).words == "condition 0 of 5", "dead on arrival is said"


def test_what_could_carry_disease_is_one_of_a_few_and_said() -> None:
    came = read_came({"exposed": "one dish for all"})
    assert came.words == "exposed: one dish for all" and read_came(as_typed(came)) == came
    with pytest.raises(InvalidInput):
        read_came({"exposed": "the moon"})


def test_shoots_may_be_riper_than_their_plant() -> None:
    came = read_came({"wood": "hard"})
    assert came.words == "hard shoots" and read_came(as_typed(came)) == came and Came(wood="").words == ""
    with pytest.raises(InvalidInput):
        read_came({"wood": "green"})


def test_a_batch_has_its_supplier_day_and_counts() -> None:
    typed = {"from_whom": "Rowan Beck, no. 40", "arrived": "2026-05-03", "how_many": "60", "dead_on_arrival": "4", "discarded": "3 broken, 2 soft; 1 broken"}  # fmt: skip
    came = read_came(typed)
    assert read_came(as_typed(came)) == came and came.discarded == (("broken", 4), ("soft", 2))
    assert came.words == (
        "from Rowan Beck, no. 40, came on 3 May 2026, 60 pieces came, 4 dead on arrival, 6 thrown away: 4 broken, 2 soft"
    )
    assert read_came({"dead_on_arrival": "2"}).words == "2 dead on arrival", "how many came may not be known"


def test_the_condition_of_a_lot_is_a_measure_of_each_of_its_pieces() -> None:
    assert read_came({"condition": "0"}).measures == {"condition": "0"} and Came().measures == {}


def test_scope_names_only_pieces_nobody_chose() -> None:
    assert Came(Origin.STORM).in_scope == "storm damage"
    assert Came(Origin.PLANNED).in_scope == "" and Came().in_scope == ""


@pytest.mark.parametrize(
    "wrong",
    [
        {"condition": "6"},
        {"condition": "good"},
        {"origin": "the sea"},
        {"taken": "x" * 121},
        {"how_many": "3", "dead_on_arrival": "4"},
        {"how_many": "-1"},
        {"arrived": "31 February 2026"},
        {"discarded": "some"},
        {"discarded": "3"},
    ],
)
def test_what_cannot_be_is_refused_by_name(wrong: dict[str, str]) -> None:
    with pytest.raises(InvalidInput):
        read_came(wrong)
