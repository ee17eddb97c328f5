"""The card of steps at the tray."""

from __future__ import annotations

import pytest

from orderly_bench.core.stick.steps import COMMON, MOST_STEPS, SENT_IN, steps_for


def test_the_card_s_own_steps_stand_before_the_usual_ones() -> None:
    assert steps_for(" bark slit ;; laid  flat ", "hardwood", False) == ["bark slit", "laid flat"]
    assert len(steps_for(";".join(f"step {n}" for n in range(40)), "", False)) == MOST_STEPS
    assert steps_for("a; a", "", False) == ["a"]


@pytest.mark.parametrize(
    ("kind", "step"),
    [
        ("root piece", "flat end up"),
        ("leaf", "upper side up"),
        ("dormant hardwood", "two buds in the medium"),
        ("heel", "tail of the heel trimmed"),
    ],
)
def test_a_kind_of_piece_has_its_own(kind: str, step: str) -> None:
    assert step in steps_for("", kind, False)


@pytest.mark.parametrize(
    "kind",
    [
        "",
        "semi-hard tip",
        "softwood",
        "leaf-bud",
        "not said",
        "semi-hard tips, 2 leaves",
        "stem piece with roots trimmed",
        "nodal, leaf halved",
    ],
)
def test_all_others_have_the_common_ones(kind: str) -> None:
    assert steps_for("", kind, False) == list(COMMON)


def test_pieces_sent_in_are_washed_and_rinsed_too() -> None:
    assert steps_for("", "tip", True)[-2:] == list(SENT_IN) and not set(SENT_IN) & set(steps_for("", "tip", False))
