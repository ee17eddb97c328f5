"""The rules of the job: codes, places, days, states, tallies, litres, words."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from orderly_bench.core.compare.tops import tops_against_roots
from orderly_bench.core.design import bench, codes
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.numbers import of, p_value, points, span
from orderly_bench.core.messages.translation import gettext
from orderly_bench.core.plan.recipe import Part, read_recipe
from orderly_bench.core.plan.rules import endpoint_window_days
from orderly_bench.core.prepare.medium import Filling, medium_need
from orderly_bench.core.randomise import shuffled
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.score.endpoint import NOT_EXAMINED, outcome_at_endpoint, reconcile
from orderly_bench.core.score.entry import check_score, suggest_fit
from orderly_bench.core.score.progress import next_unscored, progress
from orderly_bench.core.score.sites import of_plant
from orderly_bench.core.stick.tally import tally
from orderly_bench.core.tend.schedule import (
    DayZero,
    DueState,
    about,
    care_days,
    das_in_words,
    days_after_sticking,
    due_state,
)
from orderly_bench.core.vocabulary import INDIRECT_GRADES, Fit, KnownBy, Roots, Score, State, Top

symbols = st.text(codes.ALPHABET, min_size=codes.DATA_SYMBOLS, max_size=codes.DATA_SYMBOLS)


class TestCodes:
    def test_the_alphabet_is_23_symbols_that_cannot_be_misread(self) -> None:
        assert len(set(codes.ALPHABET)) == 23
        assert not set("0O1IL2Z5S8BUV") & set(codes.ALPHABET)

    @given(symbols, st.integers(0, 4), st.sampled_from(codes.ALPHABET))
    def test_any_single_wrong_symbol_is_noticed(self, data: str, place: int, wrong: str) -> None:
        code = data + codes.check_symbol(data)
        changed = code[:place] + wrong + code[place + 1 :]
        assert codes.is_valid(changed) == (changed == code)

    @given(symbols, st.integers(0, 4), st.integers(0, 4))
    def test_any_two_swapped_symbols_are_noticed(self, data: str, i: int, j: int) -> None:
        code = list(data + codes.check_symbol(data))
        swapped = code.copy()
        swapped[i], swapped[j] = swapped[j], swapped[i]
        assert codes.is_valid("".join(swapped)) == (swapped == code)

    def test_drawn_codes_are_distinct_valid_and_not_taken(self) -> None:
        first = codes.draw_codes(300, np.random.default_rng(1))
        second = codes.draw_codes(300, np.random.default_rng(1), frozenset(first))
        assert len(set(first) | set(second)) == 600
        assert all(codes.is_valid(code) for code in first + second)

    def test_a_typed_code_is_read_as_printed(self) -> None:
        assert codes.normalise(" k73-m4 ") == "K73M4" and codes.spaced("K73M4") == "K73 M4"


class TestLayouts:
    def test_blocks_redraw_only_inside_blocks(self) -> None:
        layout = shuffled.complete_blocks([6] * 3, 3, np.random.default_rng(2))
        for labels in layout.redraw(np.random.default_rng(3), 50):
            for block in range(3):
                assert np.bincount(labels[layout.stratum == block]).tolist() == [2, 2, 2]
        assert layout.assignments() == 90**3

    def test_every_assignment_of_a_small_draw_comes_up_alike(self) -> None:
        layout = shuffled.completely_randomised([2, 2], np.random.default_rng(4))
        drawn = layout.redraw(np.random.default_rng(5), 6_000)
        _, counts = np.unique(drawn, axis=0, return_counts=True)
        assert len(counts) == layout.assignments() == 6
        assert abs(counts - 1000).max() < 5 * np.sqrt(1000)

    def test_cuttings_that_do_not_divide_are_refused_with_a_way_out(self) -> None:
        with pytest.raises(InvalidInput, match="multiple of the 4 blocks; take 8"):
            shuffled.complete_blocks([7, 7], 4, np.random.default_rng(1))


class TestBench:
    def test_a_block_starts_a_fresh_tray_when_it_does_not_fit(self) -> None:
        places = bench.places_for([5, 5], rows=2, columns=4)
        assert [p.tray for p in places] == [1] * 5 + [2] * 5
        assert (places[4].row, places[4].column) == (2, 1)

    def test_small_blocks_share_a_tray_and_large_ones_run_on(self) -> None:
        assert {p.tray for p in bench.places_for([4, 4], 2, 4)} == {1}
        assert [p.tray for p in bench.places_for([10], 2, 4)] == [1] * 8 + [2] * 2

    def test_a_whole_plot_has_its_tray_for_itself(self) -> None:
        places = bench.places_for([3, 3, 10], 2, 4, fresh=True)
        assert [p.tray for p in places] == [1] * 3 + [2] * 3 + [3] * 8 + [4] * 2

    @given(st.lists(st.integers(1, 30), min_size=1, max_size=5), st.integers(1, 6), st.integers(1, 6))
    def test_no_two_units_share_a_place(self, sizes: list[int], rows: int, columns: int) -> None:
        places = bench.places_for(sizes, rows, columns)
        assert len(set(places)) == len(places) == sum(sizes)
        assert all(1 <= p.row <= rows and 1 <= p.column <= columns for p in places)


class TestDays:
    zero = DayZero(date(2026, 3, 2), date(2026, 3, 2))

    def test_the_sticking_day_is_0_and_weeks_are_7_days(self) -> None:
        assert days_after_sticking(date(2026, 3, 2), self.zero) == 0
        assert days_after_sticking(date(2026, 4, 13), self.zero) == 42

    def test_an_approximate_day_stays_a_range(self) -> None:
        zero = about(date(2026, 3, 12))
        assert das_in_words(date(2026, 3, 26), zero) == "day 12 to 16" and zero.middle == date(2026, 3, 12)
        assert das_in_words(date(2026, 3, 26), self.zero) == "day 24"

    @pytest.mark.parametrize(
        ("off", "state"), [(-3, DueState.LATER), (-2, DueState.DUE), (2, DueState.DUE), (3, DueState.OVERDUE)]
    )
    def test_due_inside_the_window_overdue_after(self, off: int, state: DueState) -> None:
        due = date(2026, 3, 16)
        assert due_state(due + timedelta(days=off), due, 2, False) is state
        assert due_state(due + timedelta(days=off), due, 2, True) is DueState.DONE

    def test_the_endpoint_window_is_a_tenth_rounded_down(self) -> None:
        assert [endpoint_window_days(d) for d in (9, 42, 60)] == [0, 4, 6]

    def test_care_repeats_before_the_endpoint(self) -> None:
        assert care_days(7, 28) == [7, 14, 21] and care_days(0, 28) == []


class TestEndpoint:
    @pytest.mark.parametrize(
        ("score", "rooted"),
        [
            (Score(State.ALIVE, Roots.COUNTED, 1), True),
            (Score(State.LOOKS_DEAD, Roots.COUNTED, 2), True),
            (Score(State.ALIVE, Roots.SEEN), True),
            (Score(State.ALIVE, Roots.NONE), False),
            (Score(State.DEAD, Roots.COUNTED, 3), False),
            (Score(State.TAKEN_OUT_DEAD, Roots.NOT_LOOKED), False),
            (Score(State.ALIVE, Roots.SEEN, known_by=KnownBy.TUG), None),
            (Score(State.ALIVE, Roots.NOT_LOOKED), None),
            (Score(State.CANNOT_TELL, Roots.COUNTED, 3), None),
            (Score(State.MISSING, Roots.NOT_LOOKED), None),
            (Score(State.POTTED_OUT, Roots.COUNTED, 3), None),
        ],
    )
    def test_what_counts_as_rooted(self, score: Score, rooted: bool | None) -> None:
        assert outcome_at_endpoint(score).rooted is rooted

    def test_death_carries_forward_and_earlier_roots_do_not(self) -> None:
        assert outcome_at_endpoint(None, Score(State.DEAD, Roots.NONE)).rooted is False
        assert outcome_at_endpoint(None, Score(State.POTTED_OUT, Roots.COUNTED, 4)).rooted is None
        assert outcome_at_endpoint(None) == NOT_EXAMINED

    def test_columns_add_up_to_the_stuck(self) -> None:
        scores = [
            Score(State.ALIVE, Roots.SEEN),
            Score(State.ALIVE, Roots.NONE),
            Score(State.DEAD, Roots.NONE),
            Score(State.MISSING, Roots.NOT_LOOKED),
        ]
        counts = reconcile([outcome_at_endpoint(s) for s in scores] + [NOT_EXAMINED])
        assert list(counts.values()) == [1, 1, 1, 1, 1]


class TestEntry:
    @pytest.mark.parametrize("number", [-1, 0, 501, 10**9])
    def test_root_numbers_out_of_range(self, number: int) -> None:
        with pytest.raises(InvalidInput, match="between 1 and 500"):
            check_score(Score(State.ALIVE, Roots.COUNTED, number))

    def test_a_number_on_none_is_refused(self) -> None:
        with pytest.raises(InvalidInput, match="leave it empty when roots are 'none'"):
            check_score(Score(State.ALIVE, Roots.NONE, 3))

    def test_a_growing_top_is_not_dead_and_bare_stems_are_not_fit(self) -> None:
        with pytest.raises(InvalidInput, match="not dead"):
            check_score(Score(State.DEAD, Roots.NONE, top=Top.GROWING))
        with pytest.raises(InvalidInput, match="not fit"):
            check_score(Score(State.ALIVE, Roots.NONE, fit=Fit.YES))

    @pytest.mark.parametrize(
        ("number", "longest", "fit"),
        [(3, 10.0, Fit.YES), (2, 40.0, Fit.NO), (5, 9.5, Fit.NO), (5, None, Fit.NOT_JUDGED)],
    )
    def test_fit_is_suggested_by_the_rule(self, number: int, longest: float | None, fit: Fit) -> None:
        assert suggest_fit(Roots.COUNTED, number, longest, 3, 10.0) is fit
        assert suggest_fit(Roots.NONE, None, None, 3, 10.0) is Fit.NO


@pytest.mark.parametrize(
    ("score", "says"),
    [
        (Score(State.ALIVE, Roots.NONE, foliage=6), "between 0 and 5"),
        (Score(State.MISSING, Roots.NOT_LOOKED, foliage=0), "missing"),
        (Score(State.DEAD, Roots.NONE, foliage=3), "dead"),
    ],
)
def test_foliage_that_can_t_be_is_refused(score: Score, says: str) -> None:
    with pytest.raises(InvalidInput, match=says):
        check_score(score)


def test_foliage_is_read_apart_from_roots() -> None:
    read = kind_of(Response.FOLIAGE).from_score
    assert check_score(Score(State.ALIVE, Roots.NOT_LOOKED, foliage=4)).foliage == 4
    assert read(Score(State.ALIVE, Roots.NOT_LOOKED, foliage=4), None) == 4
    assert (
        read(Score(State.TAKEN_OUT_DEAD, Roots.NONE), False) == 0
        and read(Score(State.ALIVE, Roots.NONE), False) is None
    )
    assert of_plant([Score(State.ALIVE, Roots.NONE, foliage=2), Score(State.ALIVE, Roots.NONE, foliage=5)]).foliage == 5
    longer = of_plant([Score(State.ALIVE, Roots.COUNTED, 2, mm) for mm in (12.0, None, 31.0, 4.0)])
    assert longer.longest_root_mm == 31.0, "of a plant the longest of all its sites"


def test_progress_tells_passed_by_from_ahead() -> None:
    found = progress([1, 2, 3, 4, 5, 6], seen={1, 4}, carried={2})
    assert (found.unaccounted, found.passed_by, found.ahead) == (3, 1, 2)
    assert next_unscored([1, 2, 3, 4, 5, 6], {1, 2, 4}, after=4) == 5
    assert next_unscored([1, 2, 3], {2, 3}, after=3) == 1
    assert next_unscored([1, 2], {1, 2}) is None
    assert next_unscored([1, 2, 3], set(), after=1) == 2, "one passed by does not come up at once again"


def test_the_tally_adds_up() -> None:
    found = tally([("stuck", None)] * 3 + [("not stuck", "broke"), ("planned", None)])
    assert (found.planned, found.stuck, found.not_stuck, found.waiting, found.reasons) == (5, 3, 1, 1, {"broke": 1})


def test_litres_with_settling_and_waste_split_by_parts() -> None:
    need = medium_need("mix", [Filling(50, 90.0)], [Part("pumice", 2), Part("coir", 1)])
    assert need.litres == pytest.approx(50 * 0.09 / 0.9 * 1.1)
    assert dict(need.components)["pumice"] == pytest.approx(need.litres * 2 / 3)
    two = medium_need("mix", [Filling(10, 100.0, 20, 0), Filling(4, 500.0, 0, 50)], [])
    assert two.litres == pytest.approx(1.0 / 0.8 + 2.0 * 1.5)
    assert (
        two.working
        == "10 x 100 mL = 1.00 L; / 0.80 settling x 1.00 waste = 1.25 L; 4 x 500 mL = 2.00 L; / 1.00 settling x 1.50 waste = 3.00 L; together 4.25 L"
    )
    assert read_recipe("2 pumice, 1.5 bark fines") == [Part("pumice", 2.0), Part("bark fines", 1.5)]
    with pytest.raises(InvalidInput, match="parts and component"):
        read_recipe("pumice")


def test_tops_that_mislead_are_counted_by_arm() -> None:
    found = tops_against_roots(
        ("A", "B"),
        [
            ("B", Top.DRIED, False),
            ("A", Top.GROWING, False),
            ("A", Top.FRESH, True),
            ("A", Top.WILTING, True),
            ("A", None, True),
        ],
    )
    assert [(t.arm, t.lush, t.lush_without_roots, t.poor, t.poor_with_roots) for t in found] == [
        ("A", 2, 1, 1, 1),
        ("B", 0, 0, 1, 0),
    ]
    assert tops_against_roots(("A",), [("A", None, True), ("A", Top.FRESH, None)]) == []


@pytest.mark.parametrize(
    ("p", "words"),
    [
        (0.00001, "p < 0.0001"),
        (0.0256, "p = 0.026"),
        (0.5, "p = 0.50"),
        (0.00024, "p = 0.00024"),
        (0.1 - 1e-12, "p = 0.10"),
        (0.00996, "p = 0.010"),
        (1.0, "p = 1.0"),
        (None, "no p"),
    ],
)
def test_p_has_two_significant_figures(p: float | None, words: str) -> None:
    assert p_value(p) == words


def test_percent_never_without_its_n() -> None:
    assert of(16, 20) == "16 of 20 (80 %)" and of(101, 200) == "101 of 200 (50.5 %)" and of(0, 0) == "0 of 0"
    assert points(-0.004) == "0" and points(-0.35, True) == "\u221235" and points(None) == "no estimate"


def test_levels_sort_by_their_numbers_however_long() -> None:
    from orderly_bench.core.observations.table import natural_key

    names = ["300 ppm", "1000 ppm", "007", "8", "none", "9" * 5_000, "10" * 3_000]
    assert sorted(names, key=natural_key) == ["007", "8", "300 ppm", "1000 ppm", "9" * 5_000, "10" * 3_000, "none"]


@pytest.mark.parametrize("known_by", sorted(INDIRECT_GRADES))
def test_what_shows_no_roots_is_no_way_to_see_them(known_by: KnownBy) -> None:
    for roots, number in ((Roots.SEEN, None), (Roots.COUNTED, 4)):
        with pytest.raises(InvalidInput, match="how it is known: shows no roots"):
            check_score(Score(State.ALIVE, roots, number, known_by=known_by))
    assert check_score(Score(State.ALIVE, Roots.NOT_LOOKED, known_by=known_by)).known_by is known_by


@pytest.mark.parametrize(
    ("ends", "yes_no", "apart_from", "said"),
    [
        ((-0.381, -0.002), True, (0.0,), "−38.1 to −0.2"),
        ((-0.381, 0.0), True, (0.0,), "−38 to 0"),
        ((0.0002, 0.5), True, (0.0,), "+0.02 to +50.00"),
        ((-0.003, 0.503), True, (0.0,), "−0.3 to +50.3"),
        ((1.0004, 2.3), False, (1.0,), "1.0004 to 2.3000"),
        ((1.2, 2.3), False, (1.0,), "1.2 to 2.3"),
        ((0.12, 0.1521), True, (0.0, 0.15), "+12.0 to +15.2"),
    ],
)
def test_an_end_never_reads_as_what_it_is_held_against(
    ends: tuple[float, float], yes_no: bool, apart_from: tuple[float, ...], said: str
) -> None:
    assert span(*ends, yes_no, yes_no, apart_from=apart_from) == said


def test_no_text_writes_a_number_in_powers_of_ten() -> None:
    assert gettext("{litres:.3g} L, {pieces:g} pieces", litres=1234.5, pieces=2_000_000) == "1230 L, 2000000 pieces"
    assert gettext("{share:.2g} of it", share=0.000031) == "0.000031 of it"
    error = InvalidInput("rate", "must lie above {least}", 3e-7)
    assert str(error).endswith("(given: 0.0000003).")
