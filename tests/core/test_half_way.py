"""What runs out half-way: whole blocks first, every arm loses alike."""

from __future__ import annotations

from collections import Counter
from datetime import datetime

import numpy as np
import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.stick.half_way import Lacking, ToStick, propose, read_enough, waited_hours
from orderly_bench.core.stick.tally import NOT_STUCK_REASONS

BLOCKS = [ToStick(f"{arm}{b}", arm, f"block {b}", 4) for b in (1, 2, 3) for arm in "AB"]
FREE = [ToStick(f"{arm}{n}", arm, "", 1) for n in range(1, 5) for arm in "ABC"]


def test_whole_blocks_are_stuck_first_and_the_others_named() -> None:
    found = propose(BLOCKS, {}, (), Lacking.PIECES, 18)
    assert found.stick == ("A1", "B1", "A2", "B2") and found.leave == ("A3", "B3") and found.over == 2
    assert found.words() == "Stick block 1, block 2 whole, and leave block 3 out: every arm loses alike. 2 stay over."


def test_a_block_that_was_begun_is_made_whole_before_others() -> None:
    found = propose(BLOCKS[1:], {"A": 1}, {"block 3"}, Lacking.PIECES, 8)
    assert found.whole == ("block 3",) and found.dropped == ("block 1", "block 2")


def test_a_smaller_block_is_taken_where_a_larger_one_does_not_fit() -> None:
    left = [*BLOCKS[:2], ToStick("A9", "A", "block 9", 1), ToStick("B9", "B", "block 9", 1)]
    assert propose(left, {}, (), Lacking.PIECES, 3).whole == ("block 9",)


def test_containers_and_medium_count_units_and_pieces_count_cuttings() -> None:
    assert propose(BLOCKS, {}, (), Lacking.CONTAINERS, 4).leave == ("A3", "B3")
    assert propose(BLOCKS, {}, (), Lacking.MEDIUM, 4).leave == ("A3", "B3")
    assert propose(BLOCKS, {}, (), Lacking.PIECES, 4).whole == ()
    assert propose(BLOCKS, {}, (), Lacking.PIECES, 4).words().startswith("Stick no more, and leave block 1, block 2")


def test_without_blocks_every_arm_gets_as_many_and_the_one_behind_catches_up() -> None:
    found = propose(FREE, {}, (), Lacking.PIECES, 7)
    assert found.of_arm == {"A": 2, "B": 2, "C": 2} and found.over == 1
    assert "A 2, B 2, C 2; then every arm loses alike. 1 stays over." in found.words()
    assert found.words(hidden=True) == "Stick those that are not listed here; then every arm loses alike. 1 stays over."
    behind = propose(FREE, {"A": 1, "B": 1}, (), Lacking.PIECES, 4)
    assert behind.of_arm == {"A": 1, "B": 1, "C": 2}


def test_enough_for_all_leaves_none() -> None:
    found = propose(BLOCKS, {}, (), Lacking.PIECES, 24)
    assert found.leave == () and found.words() == "There is enough for all that is left."


def test_arms_of_a_free_layout_never_part_by_more_than_a_unit_however_much_there_is() -> None:
    rng = np.random.default_rng(20261130)
    for _ in range(200):
        left = [ToStick(f"u{i}", arm, "", 1) for i, arm in enumerate(rng.permutation([*"AAAAABBBBBCCCCC"]))]
        enough = int(rng.integers(0, 16))
        found = propose(left, {}, (), Lacking.PIECES, enough)
        arms = Counter({arm: 0 for arm in "ABC"}) + Counter(one.arm for one in left if one.code in found.stick)
        assert len(set(arms[arm] for arm in "ABC")) == 1 and len(found.stick) + found.over == min(enough, 15)
        assert enough - len(found.stick) < 3


def test_every_lack_has_a_reason_that_a_cutting_can_have() -> None:
    assert {one.reason for one in Lacking} <= set(NOT_STUCK_REASONS)


def test_what_waits_counts_its_hours_and_those_before() -> None:
    since, now = datetime(2026, 4, 2, 9, 30), datetime(2026, 4, 3, 8, 0)
    assert waited_hours(since, now, None) == 22.5 and waited_hours(since, now, 3) == 25.5


@pytest.mark.parametrize("typed", [None, -1, 100_001])
def test_a_count_that_can_not_be_is_refused(typed: int | None) -> None:
    with pytest.raises(InvalidInput, match="how many there are"):
        read_enough(typed)
