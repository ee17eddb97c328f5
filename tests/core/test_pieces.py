"""Pieces shared among the arms inside donor and grade, and the things of the stock."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orderly_bench.core.design.balance import balance
from orderly_bench.core.design.from_plan import draw_plan
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.piece_lines import read_pieces, write_pieces
from orderly_bench.core.plan.pieces import (
    Place,
    allotted,
    check_pieces,
    left_over,
    pick_list,
)
from orderly_bench.core.plan.value import BlocksAre, Design, PlannedWave, Schedule
from orderly_bench.core.randomise.allocation import Spread, allot
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
from tests.core.test_plan import two_arms, two_by_two

LINES = "T1, A, 9\nT1, B, 4, s2, tip\nT2, A, 7"
BEFORE = [3, 1, 3, 1, 3, 1, 2, 1, 2, 3, 1, 2, 1, 3, 3, 1]


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

    @settings(max_examples=60, deadline=None)
    @given(
        st.integers(2, 5),
        st.integers(1, 9),
        st.lists(st.integers(1, 14), min_size=1, max_size=8),
        st.integers(0, 9_999),
    )
    def test_equal_arms_never_differ_by_more_than_one(self, arms: int, each: int, kinds: list[int], seed: int) -> None:
        rng = np.random.default_rng(seed)
        arm, kind = np.repeat(np.arange(arms), each), np.repeat(np.arange(len(kinds)), kinds)
        kind = np.concatenate([kind, np.zeros(max(0, arm.size - kind.size), dtype=int)])
        stem, place = rng.integers(0, 6, kind.size), rng.integers(0, 3, kind.size)
        pieces = allot(arm, kind, rng, Spread(stem, place))
        assert len(set(pieces.tolist())) == arm.size
        for one in range(len(kinds)):
            assert np.ptp(np.bincount(arm[kind[pieces] == one], minlength=arms)) <= 1

    @pytest.mark.parametrize("arms", [2, 3])
    @pytest.mark.parametrize("stems_of_all_places", [True, False])
    def test_stem_and_place_are_spread_inside_the_kind(self, arms: int, stems_of_all_places: bool) -> None:
        """Twelve stems that give a tip, a middle and a base each, or one piece each."""
        stem = np.repeat(np.arange(12), 3) if stems_of_all_places else np.arange(36)
        place, kind = np.tile([0, 1, 2], 12), np.repeat([0, 1], 18)
        for seed in range(20):
            arm = np.repeat(np.arange(arms), 36 // arms)
            pieces = allot(arm, kind, np.random.default_rng(seed), Spread(stem, place))
            for label, most in ((stem, 1), (place, 1), (kind, 0)):
                for one in np.unique(label):
                    assert np.ptp(np.bincount(arm[label[pieces] == one], minlength=arms)) <= most

    def test_no_piece_leans_to_an_arm_though_places_are_spread(self) -> None:
        """Each piece of 4 stems of two places goes to either arm half the time."""
        stem, place = np.repeat(np.arange(4), 2), np.tile([0, 1], 4)
        rng, first = np.random.default_rng(8), np.zeros(8)
        for _ in range(2_000):
            first[allot(np.repeat([0, 1], 4), np.zeros(8, dtype=int), rng, Spread(stem, place))[:4]] += 1
        assert np.abs(first / 2_000 - 0.5).max() < 0.05

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
            (
                replace(enough, design=replace(enough.design, pieces=read_pieces("wave 2: T1, A, 400"))),
                "wave from 1 to 1",
            ),
            (replace(enough, design=replace(enough.design, pieces=read_pieces("wave 1: T1, A, 4"))), "at least the"),
        ):
            with pytest.raises(InvalidInput, match=says):
                check_pieces(broken)

    def test_the_same_draw_allots_the_same_and_the_pick_list_adds_up(self) -> None:
        plan = replace(two_by_two(), design=Design(pieces=read_pieces(LINES)))
        places = [Place(arm) for arm in "AABBCCDDAABBCCDD"]
        lines = allotted(plan, places, 5)
        assert lines == allotted(plan, places, 5) != allotted(plan, places, 6)
        picks = pick_list(plan, [(f"K{i}", 1, line) for i, line in enumerate(lines)])
        assert sum(len(pick.codes) for pick in picks) == 16 and sum(pick.left for pick in picks) == 4
        over = replace(plan, design=replace(plan.design, cuttings_per_arm=4))
        assert left_over(over) == 4 and left_over(replace(over, design=replace(over.design, pieces=()))) == 0

    def test_every_arm_has_of_every_stem_and_place(self) -> None:
        lines = "\n".join(
            f"T{d}, A, 1, s{s}, {place}" for d in (1, 2) for s in (1, 2) for place in ("tip", "Tip", "base", "base")
        )
        plan = replace(two_arms(), design=Design(pieces=read_pieces(lines)))
        places = [Place(arm) for arm in "AB" * 8]
        for seed in range(12):
            got = [plan.design.pieces[n - 1] for n in allotted(plan, places, seed)]
            of_a = [
                (p.donor, p.stem, p.place.casefold()) for p, place in zip(got, places, strict=True) if place.arm == "A"
            ]
            assert sorted(of_a) == sorted({(p.donor, p.stem, p.place.casefold()) for p in got})

    def test_an_old_draw_is_allotted_as_it_was(self) -> None:
        """What the allotment of one wave gave before waves, pairs and blocks of plants were known."""
        plan = replace(two_by_two(), design=Design(pieces=read_pieces(LINES)))
        assert allotted(plan, [Place(arm) for arm in "AABBCCDDAABBCCDD"], 5) == BEFORE


class TestWavesPairsAndPlants:
    def test_every_wave_is_filled_from_its_own_lines(self) -> None:
        waves = Schedule(waves=(PlannedWave(1), PlannedWave(2)))
        pieces = read_pieces("T1, A, 8\nwave 1: T2, A, 8\nwave 2: T3, A, 8")
        plan = replace(two_by_two(), schedule=waves, design=Design(pieces=pieces, cuttings_per_arm=4))
        assert write_pieces(pieces) == "T1, A, 8\nwave 1: T2, A, 8\nwave 2: T3, A, 8"
        check_pieces(plan)
        places = [Place(arm, wave) for wave in (1, 2) for arm in "ABCD" * 4]
        lines = allotted(plan, places, 3)
        assert {line for line, place in zip(lines, places, strict=True) if place.wave == 1} == {1, 2}
        assert {line for line, place in zip(lines, places, strict=True) if place.wave == 2} == {1, 3}
        picks = pick_list(plan, [(f"K{i}", p.wave, n) for i, (p, n) in enumerate(zip(places, lines, strict=True))])
        assert [(p.wave, p.pieces.donor, len(p.codes)) for p in picks] == [
            (1, "T1", 8), (1, "T2", 8), (2, "T1", 8), (2, "T3", 8),
        ]  # fmt: skip

    def test_two_of_a_pair_come_from_one_line(self) -> None:
        pieces = read_pieces("T1, A, 5, s1\nT1, A, 4, s2\nT2, A, 3, s1")
        design = Design(layout=LayoutKind.PAIRS, pieces=pieces, cuttings_per_arm=5)
        plan = replace(two_arms(), design=design)
        check_pieces(plan)
        places = [Place(arm, 1, "", f"pair {n}") for n in range(5) for arm in "AB"]
        seen = set()
        for seed in range(30):
            lines = allotted(plan, places, seed)
            assert all(lines[2 * n] == lines[2 * n + 1] for n in range(5))
            assert [lines.count(n) for n in (1, 2, 3)] == [4, 4, 2], "an odd piece makes no pair"
            seen.add(tuple(lines))
        assert len(seen) > 10
        short = replace(plan, design=replace(design, cuttings_per_arm=6))
        with pytest.raises(InvalidInput, match="at least the 6 pairs"):
            check_pieces(short)

    def test_a_block_that_is_a_plant_is_stuck_from_that_plant(self) -> None:
        pieces = read_pieces("t1, A, 6\nT1, B, 2\nT2, A, 8")
        design = Design(
            layout=LayoutKind.COMPLETE_BLOCKS, blocks=2, blocks_are=BlocksAre.DONORS, block_names=("T1", "T2"),
            pieces=pieces, cuttings_per_arm=8,
        )  # fmt: skip
        plan = replace(two_arms(), design=design)
        check_pieces(plan)
        units = [unit for wave in draw_plan(plan, np.random.default_rng(2)) for unit in wave.units]
        assert {unit.groups["block"] for unit in units} == {"T1", "T2"}
        places = [Place(unit.arm, 1, unit.groups["block"]) for unit in units]
        lines = allotted(plan, places, 4)
        assert all((line == 3) == (place.block == "T2") for line, place in zip(lines, places, strict=True))
        grades = balance(plan, places, lines)
        assert {b.of for b in grades} == {"block", "donor", "grade"} and not any(b.uneven for b in grades)
        for lines_of, says in (
            ("T1, A, 9\nT2, A, 7", "of T2 must be at least the 8"),
            ("", "each block is stuck from its own"),
        ):
            with pytest.raises(InvalidInput, match=says):
                check_pieces(replace(plan, design=replace(design, pieces=read_pieces(lines_of))))

    def test_names_of_blocks_are_asked_for(self) -> None:
        design = Design(layout=LayoutKind.COMPLETE_BLOCKS, blocks=2, blocks_are=BlocksAre.PEOPLE, cuttings_per_arm=8)
        for names, says in (
            (("Ann",), "each of the 2"),
            (("Ann", "ann"), "share a name"),
            (("Ann", " "), "each of the 2"),
        ):
            with pytest.raises(InvalidInput, match=says):
                draw_plan(replace(two_arms(), design=replace(design, block_names=names)), np.random.default_rng(1))
        alone = replace(design, layout=LayoutKind.COMPLETELY_RANDOMISED, block_names=("Ann", "Bo"))
        with pytest.raises(InvalidInput, match="can be people who stick in"):
            draw_plan(replace(two_arms(), design=alone), np.random.default_rng(1))

    def test_what_falls_unevenly_is_named_with_its_counts(self) -> None:
        plan = replace(two_arms(), design=Design(pieces=read_pieces("T1, A, 8\nT2, A, 8"), cuttings_per_arm=8))
        places = [Place(arm) for arm in "A" * 8 + "B" * 8]
        (donor,) = balance(plan, places, [1] * 6 + [2] * 2 + [1] * 2 + [2] * 6)
        assert donor.of == "donor" and [g.counts for g in donor.uneven] == [{"A": 6, "B": 2}, {"A": 2, "B": 6}]
        (even,) = balance(plan, places, [1, 2] * 8)
        assert not even.uneven and balance(plan, places, [1] * 16) == []

    def test_several_waves_count_as_days_and_a_sticker_by_arm_as_a_person(self) -> None:
        plan = replace(two_arms(), schedule=Schedule(waves=(PlannedWave(1, date(2027, 3, 1)), PlannedWave(2))))
        places = [Place(arm, wave) for wave in (1, 2) for arm in "AABB"]
        (day,) = balance(plan, places, [None] * 8)
        assert day.of == "day" and [g.name for g in day.groups] == ["1 Mar 2027", "wave 2"] and not day.uneven
        (apart,) = balance(plan, [Place(arm, wave) for wave, arm in enumerate("AB", 1) for _ in range(4)], [None] * 8)
        assert len(apart.uneven) == 2, "each arm on a day of its own"

    def test_an_arm_of_a_season_has_its_share_of_the_waves_of_that_season_alone(self) -> None:
        waves = tuple(PlannedWave(n, season="medium-1" if n < 3 else "medium-2") for n in range(1, 5))
        plan = replace(two_by_two(AspectKind.SEASON), schedule=Schedule(waves=waves))
        places = [Place(arm, wave) for wave in (1, 2, 3, 4) for arm in ("AABB" if wave < 3 else "CCDD")]
        (day,) = balance(plan, places, [None] * 16)
        assert [group.name for group in day.groups] == ["wave 1", "wave 2", "wave 3", "wave 4"] and not day.uneven
        slip = [Place(arm, wave) for wave in (1, 2) for arm in ("AAAA" if wave == 1 else "BBBB")]
        assert [group.name for group in balance(plan, [*slip, *places[8:]], [None] * 16)[0].uneven] == [
            "wave 1",
            "wave 2",
        ]


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
