"""A destructive look draws whole blocks where it can, the same number of each arm, and leaves some of each."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.score.sample import InScope, drawn_sample, what_stays


def rng(seed: int = 1) -> np.random.Generator:
    return np.random.default_rng(seed)


LOOSE = [InScope(i, "ABC"[i % 3]) for i in range(24)]
BLOCKS = [InScope(i, "ABC"[i % 3], f"block {i // 3}") for i in range(24)]


@given(st.integers(1, 7), st.integers(0, 1000), st.booleans())
def test_each_arm_gives_as_many_and_the_same_seed_the_same(of_each: int, seed: int, blocked: bool) -> None:
    units = BLOCKS if blocked else LOOSE
    drawn = drawn_sample(units, of_each, rng(seed))
    arm = {unit.id: unit.arm for unit in units}
    assert Counter(arm[i] for i in drawn) == dict.fromkeys("ABC", of_each)
    assert drawn == drawn_sample(units, of_each, rng(seed))


def test_blocks_pairs_and_rows_are_taken_whole() -> None:
    for seed in range(40):
        drawn = drawn_sample(BLOCKS, 3, rng(seed))
        assert set(Counter(unit.together for unit in BLOCKS if unit.id in drawn).values()) == {3}


def test_every_unit_can_be_drawn_alike() -> None:
    seen = Counter(i for seed in range(2000) for i in drawn_sample(LOOSE, 2, rng(seed)))
    assert all(400 < seen[i] < 600 for i in range(24)), "2 of 8 each, 2,000 times: about 500"


def test_uneven_blocks_are_drawn_by_arm() -> None:
    uneven = [InScope(i, unit.arm, f"block {i // 5}") for i, unit in enumerate(LOOSE)]
    assert len(drawn_sample(uneven, 2, rng())) == 6


@pytest.mark.parametrize("of_each", [0, -1, 8, 90])
def test_one_of_each_arm_has_to_stay(of_each: int) -> None:
    with pytest.raises(InvalidInput, match="has 8 units, and one at least has to stay"):
        drawn_sample(LOOSE, of_each, rng())


def test_blocks_of_several_give_alike_or_whole() -> None:
    twice = [InScope(i, "AB"[i % 2], f"block {i // 4}") for i in range(24)]
    where = {unit.id: unit.together for unit in twice}
    assert set(Counter(where[i] for i in drawn_sample(twice, 6, rng())).values()) == {2}, "one of each from all six"
    assert set(Counter(where[i] for i in drawn_sample(twice, 4, rng())).values()) == {4}, "two whole blocks"
    with pytest.raises(InvalidInput, match=r"6 blocks hold 2 units of each arm: a multiple of 6, .* or of 2 for whole"):
        drawn_sample(twice, 3, rng())


def test_what_stays_is_said_without_an_arm() -> None:
    said = what_stays(LOOSE, drawn_sample(LOOSE, 2, rng()))
    assert (
        said == "6 of 24 units, drawn over the arms, are lifted for good and are in no later count; 6 of each arm stay."
    )
    uneven = [*LOOSE, InScope(99, "A")]
    assert "6 to 7 of each arm stay" in what_stays(uneven, drawn_sample(uneven, 2, rng()))
