"""What was stuck and nobody counted makes no rate."""

from __future__ import annotations

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.question.not_counted import counted_alone, read_stuck


def test_without_a_number_the_rooted_stand_alone() -> None:
    said = counted_alone({"bark": 12, "pumice": 0}, "not known")
    assert said.endswith("With roots: bark 12, pumice 0.") and "%" not in said and "no rate is made" in said


def test_a_range_gives_the_shares_between_which_it_lies() -> None:
    assert "bark 18 (60 to 90 % of 20 to 30)" in counted_alone({"bark": 18}, "20 to 30")
    assert "bark 25 (83 to 100 % of 20 to 30)" in counted_alone({"bark": 25}, "20 to 30"), "no share is above the whole"
    with pytest.raises(InvalidInput, match="more than were stuck"):
        counted_alone({"bark": 31}, "20 to 30")


@pytest.mark.parametrize(
    ("typed", "kept"), [("20–30", "20 to 30"), ("Not  known", "not known"), (" ", ""), ("30 to 30", "30 to 30")]
)
def test_it_is_kept_as_it_is_meant(typed: str, kept: str) -> None:
    assert read_stuck(typed) == kept and read_stuck(kept) == kept


@pytest.mark.parametrize("typed", ["many", "30 to 20", "0 to 5", "20"])
def test_what_is_no_range_is_asked_again(typed: str) -> None:
    with pytest.raises(InvalidInput, match="stuck in each arm"):
        read_stuck(typed)
