"""Pieces shared among the arms inside donor and grade, and the things of the stock."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.pieces import allotted, check_pieces, pick_list, read_pieces, write_pieces
from orderly_bench.core.plan.value import Design, PlannedWave, Schedule
from orderly_bench.core.randomise.allocation import allot
from orderly_bench.core.stock.kept import (
    BenchKept,
    MethodCard,
    RecipeKept,
    StockPlant,
    check_bench,
    check_card,
    check_plant,
    check_recipe,
)
from orderly_bench.core.vocabulary import LayoutKind
from tests.core.test_plan import two_by_two

LINES = "T1, A, 9\nT1, B, 4, s2, tip\nT2, A, 7"


class TestAllocation:
    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(st.integers(1, 9), min_size=2, max_size=4),
        st.lists(st.integers(1, 12), min_size=1, max_size=5),
        st.integers(0, 9),
    )
    def test_every_arm_is_filled_and_has_its_share_of_every_kind(
        self, needs: list[int], kinds: list[int], seed: int
    ) -> None:
        arm, kind = np.repeat(np.arange(len(needs)), needs), np.repeat(np.arange(len(kinds)), kinds)
        if kind.size < arm.size:
            kind = np.concatenate([kind, np.zeros(arm.size - kind.size, dtype=int)])
        pieces = allot(arm, kind, np.random.default_rng(seed))
        assert len(set(pieces.tolist())) == arm.size
        used = kind[pieces]
        for one in np.unique(used):
            shares = np.bincount(arm[used == one], minlength=len(needs))
            # Rounding is carried from kind to kind, so a share is never off by more than one for each kind dealt before.
            assert (np.abs(shares - (used == one).sum() * np.array(needs) / arm.size) < 1 + len(kinds)).all()

    def test_equal_arms_share_each_kind_to_within_one(self) -> None:
        arm, kind = np.repeat([0, 1], 20), np.repeat([0, 1, 2], [15, 15, 10])
        for seed in range(20):
            pieces = allot(arm, kind, np.random.default_rng(seed))
            for one in range(3):
                shares = np.bincount(arm[kind[pieces] == one], minlength=2)
                assert abs(int(shares[0] - shares[1])) <= 1

    def test_which_pieces_an_arm_gets_is_drawn(self) -> None:
        arm, kind = np.repeat([0, 1], 3), np.zeros(6, dtype=int)
        rng = np.random.default_rng(5)
        first = np.zeros(6)
        for _ in range(2_000):
            first[allot(arm, kind, rng)[:3]] += 1
        assert np.abs(first / 2_000 - 0.5).max() < 0.05

    def test_too_few_are_refused(self) -> None:
        with pytest.raises(InvalidInput, match="at least the 4 places"):
            allot(np.array([0, 0, 1, 1]), np.zeros(3, dtype=int), np.random.default_rng(1))


class TestLines:
    def test_there_and_back(self) -> None:
        pieces = read_pieces(LINES)
        assert [(p.donor, p.grade, p.how_many, p.stem, p.place) for p in pieces] == [
            ("T1", "A", 9, "", ""), ("T1", "B", 4, "s2", "tip"), ("T2", "A", 7, "", ""),
        ]  # fmt: skip
        assert write_pieces(pieces) == LINES and read_pieces("\n \n") == ()

    @pytest.mark.parametrize(
        "line", ["T1, A", "T1, A, many", ", A, 3", "T1, A, 0", "T1, A, 3, s, t, u", "x" * 41 + ", A, 3"]
    )
    def test_a_line_that_is_none_is_named(self, line: str) -> None:
        with pytest.raises(InvalidInput, match="pieces, line 2"):
            read_pieces(f"T1, A, 3\n{line}")

    def test_enough_of_one_day_and_no_pairs(self) -> None:
        plan = two_by_two()
        enough = replace(plan, design=replace(plan.design, pieces=read_pieces(f"T1, A, {plan.cuttings}")))
        check_pieces(enough)
        check_pieces(plan)
        for broken, says in (
            (replace(enough, design=replace(enough.design, pieces=read_pieces("T1, A, 1"))), "at least the"),
            (replace(enough, design=replace(enough.design, layout=LayoutKind.PAIRS)), "pairs"),
            (replace(enough, schedule=Schedule(waves=(PlannedWave(1), PlannedWave(2)))), "waves"),
        ):
            with pytest.raises(InvalidInput, match=says):
                check_pieces(broken)

    def test_the_same_draw_allots_the_same_and_the_pick_list_adds_up(self) -> None:
        plan = replace(two_by_two(), design=Design(pieces=read_pieces(LINES)))
        arms = list("AABBCCDDAABBCCDD")
        lines = allotted(plan, arms, 5)
        assert lines == allotted(plan, arms, 5) != allotted(plan, arms, 6)
        picks = pick_list(plan, [(f"K{i}", line) for i, line in enumerate(lines)])
        assert sum(len(pick.codes) for pick in picks) == 16 and sum(pick.left for pick in picks) == 4


class TestStock:
    def test_what_can_t_be_kept_is_named(self) -> None:
        for check, value, says in (
            (check_plant, StockPlant("", "Olea europaea"), "code"),
            (check_plant, StockPlant("T1", "Olea europaea", age_years=-1), "age"),
            (check_plant, StockPlant("T1", "Olea europaea", most_to_take=99_999), "most to take"),
            (check_bench, BenchKept("North", length_cm=1), "length"),
            (check_recipe, RecipeKept("mix", "pumice"), "parts"),
            (check_card, MethodCard("Olea europaea", "", rate=0.4), "cutting type"),
            (check_card, MethodCard("Olea europaea", "tip", rate=1.4), "rate"),
            (check_card, MethodCard("Olea europaea", "tip", rooted=5), "both"),
            (check_card, MethodCard("Olea europaea", "tip", rooted=5, stuck=4), "rooted must be"),
            (check_card, MethodCard("Olea europaea", "tip", weeks_least=8, weeks_most=6), "weeks"),
        ):
            with pytest.raises(InvalidInput, match=says):
                check(value)  # type: ignore[operator]

    def test_own_counts_stand_before_a_typed_rate(self) -> None:
        card = check_card(MethodCard("Olea europaea", "tip", 0.6, 31, 50))
        assert card.own and card.known_rate == 0.62
        assert MethodCard("Olea europaea", "tip", 0.6).known_rate == 0.6 and not MethodCard("x", "y", 0.6).own
