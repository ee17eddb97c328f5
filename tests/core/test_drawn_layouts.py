"""Layouts: what the draw keeps, that it is even, and that the test repeats just that draw."""

from __future__ import annotations

from collections import Counter
from itertools import combinations, permutations, product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import chisquare

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.judgement.analysis import analyse
from orderly_bench.core.judgement.settings import Settings
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.layouts.draws import for_all_arms, for_factor, for_pair
from orderly_bench.core.layouts.from_rows import layout_of
from orderly_bench.core.layouts.incomplete_blocks.block_sets import blocks_of_arms, concurrences, connected
from orderly_bench.core.layouts.incomplete_blocks.draw import IncompleteBlocks
from orderly_bench.core.layouts.kinds import draw_layout
from orderly_bench.core.layouts.latin_square import squares
from orderly_bench.core.layouts.latin_square.draw import LatinSquare
from orderly_bench.core.layouts.split_plot.draw import SplitPlot
from orderly_bench.core.methods import permutation, redrawn
from orderly_bench.core.observations.table import Row
from orderly_bench.core.randomise.drawn_layout import Request
from orderly_bench.core.randomise.shuffled import ShuffledWithin
from orderly_bench.core.vocabulary import LayoutKind

FEW = settings(max_examples=15, deadline=None)
REQUESTS = {
    "completely randomised": Request(LayoutKind.COMPLETELY_RANDOMISED, 3, 4),
    "blocks": Request(LayoutKind.COMPLETE_BLOCKS, 3, 4, blocks=2),
    "pairs": Request(LayoutKind.PAIRS, 2, 6),
    "Latin square": Request(LayoutKind.LATIN_SQUARE, 5, 5),
    "larger Latin square": Request(LayoutKind.LATIN_SQUARE, 7, 7),
    "incomplete blocks": Request(LayoutKind.INCOMPLETE_BLOCKS, 4, 3, blocks=6, block_size=2),
    "split-plot": Request(LayoutKind.SPLIT_PLOT, 6, 4, blocks=4, whole=((0, 1, 2), (3, 4, 5))),
}


@pytest.mark.parametrize("name", REQUESTS)
def test_a_redraw_keeps_what_the_draw_kept(name: str) -> None:
    request = REQUESTS[name]
    layout = draw_layout(request, np.random.default_rng(4))
    drawn = layout.redraw(np.random.default_rng(5), 40)
    sizes = np.bincount(layout.arm, minlength=request.arms)
    assert drawn.shape == (40, layout.arm.size) and (sizes == request.units_per_arm).all()
    for again in drawn:
        assert np.array_equal(np.bincount(again, minlength=request.arms), sizes)
        for kind, group in layout.groups().items():
            table, first = (np.zeros((group.max() + 1, request.arms), dtype=int) for _ in range(2))
            np.add.at(table, (group, again), 1)
            np.add.at(first, (group, layout.arm), 1)
            if kind in ("row", "column", "pair") or name == "blocks":
                assert np.array_equal(table, first)
            assert np.array_equal(table.sum(axis=1), first.sum(axis=1))
    assert len({again.tobytes() for again in drawn}) > 25


def test_the_same_seed_draws_the_same_and_another_another() -> None:
    request = REQUESTS["split-plot"]
    first, again, other = (draw_layout(request, np.random.default_rng(s)).arm for s in (1, 1, 2))
    assert np.array_equal(first, again) and not np.array_equal(first, other)


def test_split_plots_hold_one_whole_level_and_every_combination() -> None:
    layout = draw_layout(REQUESTS["split-plot"], np.random.default_rng(3))
    for arms in [layout.arm, *layout.redraw(np.random.default_rng(1), 20)]:
        for plot in range(4):
            inside = arms[layout.groups()["whole plot"] == plot]
            assert len(set(inside // 3)) == 1 and sorted(Counter(inside % 3).values()) == [2, 2, 2]


#: Small layouts with the number of arrangements each may fall in, by hand.
SMALL = {
    "completely randomised, C(6, 3)": (Request(LayoutKind.COMPLETELY_RANDOMISED, 2, 3), 20),
    "three arms, 6! / 2!^3": (Request(LayoutKind.COMPLETELY_RANDOMISED, 3, 2), 90),
    "unequal, C(6, 2)": (Request(LayoutKind.COMPLETELY_RANDOMISED, 2, 2, unequal=(2, 4)), 15),
    "blocks, C(4, 2)^2": (Request(LayoutKind.COMPLETE_BLOCKS, 2, 4, blocks=2), 36),
    "pairs, 2^5": (Request(LayoutKind.PAIRS, 2, 5), 32),
    "squares of order 3": (Request(LayoutKind.LATIN_SQUARE, 3, 3), 12),
    "squares of order 4": (Request(LayoutKind.LATIN_SQUARE, 4, 4), 576),
    "split-plot, C(4, 2) 2^4": (Request(LayoutKind.SPLIT_PLOT, 4, 2, blocks=4, whole=((0, 1), (2, 3))), 96),
    "incomplete blocks, 3! 2^3": (Request(LayoutKind.INCOMPLETE_BLOCKS, 3, 2, blocks=3, block_size=2), 48),
}


@pytest.mark.parametrize("again", [False, True], ids=["drawn", "redrawn"])
@pytest.mark.parametrize("name", SMALL)
def test_every_arrangement_is_as_likely(name: str, again: bool) -> None:
    """Pearson's chi-square over all arrangements, 40 draws for each."""
    request, ways = SMALL[name]
    rng = np.random.default_rng(20)
    if again:
        found = [row.tobytes() for row in draw_layout(request, rng).redraw(rng, 40 * ways).astype(int)]
    else:
        found = [draw_layout(request, rng).arm.astype(int).tobytes() for _ in range(40 * ways)]
    counts = np.array(list(Counter(found).values()))
    assert counts.size == ways
    assert chisquare(counts).pvalue > 0.001


def test_the_walk_through_squares_is_even() -> None:
    def intercalates(square: list[list[int]]) -> int:
        n = range(len(square))
        return sum(
            square[a][c] == square[b][d] and square[a][d] == square[b][c]
            for a, b in combinations(n, 2)
            for c, d in combinations(n, 2)
        )

    walked = squares._walk(4, np.random.default_rng(8), 3_000).tolist()
    kinds = Counter(intercalates(square) for square in walked)
    # Of the 4 reduced squares 1 is of the group of four (12 intercalates), 3 are cyclic (4).
    assert set(kinds) == {4, 12} and abs(kinds[12] / 3_000 - 0.25) < 0.05
    assert squares.count_squares(4) == 576 and squares.count_squares(5) == 161_280


@pytest.mark.parametrize(
    ("arms", "size", "blocks", "shared"), [(4, 2, 6, 1), (4, 3, 4, 2), (7, 3, 7, 1), (6, 3, 10, 2)]
)
def test_balanced_incomplete_blocks_are_found(arms: int, size: int, blocks: int, shared: int) -> None:
    design = np.array(blocks_of_arms(arms, size, blocks))
    together = concurrences(design, arms)
    assert set(together[np.triu_indices(arms, 1)].tolist()) == {shared}
    assert set(np.diag(together).tolist()) == {blocks * size // arms}
    assert all(len(set(block)) == size for block in design.tolist())


def test_blocks_that_do_not_link_the_arms_are_seen() -> None:
    assert not connected(np.array([[0, 1], [2, 3], [0, 1], [2, 3]]), 4)
    assert connected(np.array([[0, 1], [1, 2], [2, 3], [3, 0]]), 4)
    with pytest.raises(InvalidInput, match="too few to link"):
        blocks_of_arms(6, 2, 3)


@pytest.mark.parametrize(
    ("request_", "message"),
    [
        (Request(LayoutKind.COMPLETELY_RANDOMISED, 2, 0), "must be 1 or more"),
        (Request(LayoutKind.COMPLETE_BLOCKS, 3, 7, blocks=2), "multiple of the 2 blocks"),
        (Request(LayoutKind.PAIRS, 3, 6), "two arms"),
        (Request(LayoutKind.LATIN_SQUARE, 4, 5), "is 4 in a Latin square of 4 arms"),
        (Request(LayoutKind.LATIN_SQUARE, 13, 13), "between 2 and 12"),
        (Request(LayoutKind.INCOMPLETE_BLOCKS, 4, 4, blocks=4, block_size=4), "must be 2 to 3"),
        (Request(LayoutKind.INCOMPLETE_BLOCKS, 4, 3, blocks=5, block_size=3), "multiple of 4"),
        (Request(LayoutKind.INCOMPLETE_BLOCKS, 4, 5, blocks=4, block_size=3), "is 3: 4 blocks of 3"),
        (Request(LayoutKind.SPLIT_PLOT, 2, 4, blocks=4, whole=((0,), (1,))), "every combination"),
        (Request(LayoutKind.SPLIT_PLOT, 4, 4, blocks=2, whole=((0, 1), (2, 3))), "at least 4"),
        (Request(LayoutKind.SPLIT_PLOT, 4, 5, blocks=4, whole=((0, 1), (2, 3))), "whole plots of each level; take 4"),
    ],
)
def test_what_a_layout_cannot_hold_is_refused_with_what_it_can(request_: Request, message: str) -> None:
    with pytest.raises(InvalidInput, match=message):
        draw_layout(request_, np.random.default_rng(0))


@FEW
@given(st.lists(st.integers(0, 4), min_size=6, max_size=6))
def test_adjusted_effects_are_least_squares(values: list[int]) -> None:
    y, block = np.array(values, dtype=float), np.repeat([0, 1, 2], 2)
    drawn = np.array([[0, 1, 0, 2, 1, 2], [2, 1, 1, 0, 0, 2]])
    found = redrawn.arm_effects(y, drawn, block)
    for arm, effects in zip(drawn, found, strict=True):
        design = np.hstack([np.eye(3)[block], np.eye(3)[arm][:, 1:]])
        slow = np.concatenate([[0.0], np.linalg.lstsq(design, y, rcond=None)[0][3:]])
        assert effects == pytest.approx(slow - slow.mean(), abs=1e-9)


def test_incomplete_blocks_against_every_way_to_draw_them() -> None:
    y, arm, block = np.array([3.0, 1.0, 4.0, 1.5, 0.0, 2.0]), np.array([0, 1, 0, 2, 1, 2]), np.repeat([0, 1, 2], 2)
    sets = [(0, 1), (0, 2), (1, 2)]
    every = {
        tuple(labels[a] for b in order for a in (sets[b] if not turn[b] else sets[b][::-1]))
        for labels in permutations(range(3))
        for order in permutations(range(3))
        for turn in product((0, 1), repeat=3)
    }
    spread = (redrawn.arm_effects(y, np.array(sorted(every)), block) ** 2).sum(axis=1)
    observed = (redrawn.arm_effects(y, arm[None, :], block) ** 2).sum()
    exact = (spread >= observed - 1e-9).mean()
    overall, pairs = redrawn.tests(y, IncompleteBlocks(arm, block), np.random.default_rng(2), 20_000)
    assert overall.p == pytest.approx(exact, abs=5 * (overall.monte_carlo_error or 0))
    assert set(pairs) == {(0, 1), (0, 2), (1, 2)}


def test_a_latin_square_is_judged_by_all_squares_of_its_order() -> None:
    square = squares.all_squares(3)[5]
    row, column = np.divmod(np.arange(9), 3)
    values = np.arange(9.0) ** 1.5
    found = redrawn.tests(values, LatinSquare(square.ravel(), row, column), np.random.default_rng(1), 10)[0]
    spreads = [
        sum((values[s.ravel() == a].mean() - values.mean()) ** 2 for a in range(3)) for s in squares.all_squares(3)
    ]
    mine = sum((values[square.ravel() == a].mean() - values.mean()) ** 2 for a in range(3))
    assert found.exact and found.p == pytest.approx(np.mean(np.array(spreads) >= mine - 1e-9))


def rows_of(layout: object, names: list[tuple[str, ...]], seed: int) -> list[Row]:
    """One cutting a unit, named by the layout's own groupings."""
    rng, groups = np.random.default_rng(seed), layout.groups()
    keys = {"whole plot": "whole_plot"}
    return [
        Row(
            names[int(arm)],
            float(rng.random() < 0.3 + 0.1 * int(arm)),
            **{keys.get(kind, kind): f"{kind} {int(group[i])}" for kind, group in groups.items()},
        )
        for i, arm in enumerate(layout.arm)
    ]


@pytest.mark.parametrize("name", [n for n in REQUESTS if n != "split-plot"])
def test_the_layout_read_back_from_the_rows_is_the_one_that_drew_them(name: str) -> None:
    request = REQUESTS[name]
    layout = draw_layout(request, np.random.default_rng(9))
    made = arrange(("medium",), rows_of(layout, [(f"arm {a}",) for a in range(request.arms)], 10))
    found = for_all_arms(made)
    assert found is not None and type(found.layout) is type(layout)
    assert np.array_equal(found.layout.arm, layout.arm)
    for kind, group in layout.groups().items():
        read = found.layout.groups().get(kind, found.layout.block)
        assert np.array_equal(np.unique(read, return_inverse=True)[1], group)


def test_each_factor_of_a_split_plot_is_permuted_as_it_was_drawn() -> None:
    layout = draw_layout(REQUESTS["split-plot"], np.random.default_rng(12))
    assert isinstance(layout, SplitPlot)
    names = [(heat, medium) for heat in ("cold", "warm") for medium in ("bark", "pumice", "sand")]
    made = arrange(("heat", "medium"), rows_of(layout, names, 13))
    heat, medium = for_factor(made, 0), for_factor(made, 1)
    assert (
        heat is not None
        and isinstance(heat.layout, ShuffledWithin)
        and np.array_equal(heat.layout.arm, layout.whole_plots.arm)
    )
    assert medium is not None and np.array_equal(medium.layout.arm, layout.sub)
    assert np.array_equal(medium.layout.block, layout.plot)
    assert for_all_arms(made) is None
    same_level, across = for_pair(made, 0, 1), for_pair(made, 0, 3)
    assert same_level is not None and len(same_level.members) == 8
    assert across is not None and [len(m) for m in across.members] == [2, 2, 2, 2]


def test_the_whole_plot_factor_by_every_assignment_of_whole_plots() -> None:
    layout = draw_layout(REQUESTS["split-plot"], np.random.default_rng(14))
    names = [(heat, medium) for heat in ("cold", "warm") for medium in ("bark", "pumice", "sand")]
    made = arrange(("heat", "medium"), rows_of(layout, names, 15))
    means = np.array([made.responses[layout_of(made).group == g].mean() for g in range(4)])
    totals = np.array([means[list(chosen)].sum() for chosen in combinations(range(4), 2)])
    heat = layout.whole_plots.arm
    observed = abs(means[heat == 0].sum() - totals.mean())
    brute = (np.abs(totals - totals.mean()) >= observed - 1e-9).mean()
    assert analyse(made, Settings()).terms[0].p == pytest.approx(brute)


def test_shuffles_redrawn_agree_with_their_exact_test() -> None:
    layout = draw_layout(REQUESTS["blocks"], np.random.default_rng(16))
    values = np.random.default_rng(17).integers(0, 2, 12).astype(float)
    exact = permutation.test(values, layout, np.random.default_rng(1), 100)
    assert isinstance(layout, ShuffledWithin) and exact.exact
    drawn = redrawn.tests(values, layout, np.random.default_rng(2), 20_000)[0]
    assert drawn.p == pytest.approx(exact.p, abs=5 * (drawn.monte_carlo_error or 0))


#: Arm 1 stands in every block, the others not: labels matter, and so does which of them a draw gave the middle.
UNEVEN = IncompleteBlocks(np.array([0, 1, 0, 1, 1, 2]), np.repeat([0, 1, 2], 2))


def test_labels_are_drawn_too() -> None:
    drawn = UNEVEN.redraw(np.random.default_rng(20), 600)
    most = np.array([np.bincount(row).argmax() for row in drawn])
    counts = np.bincount(most, minlength=3)
    assert abs(counts - 200).max() < 5 * np.sqrt(200)


def test_effects_are_adjusted_by_each_draws_own_blocks() -> None:
    y, block = np.array([3.0, 1.0, 4.0, 1.5, 0.0, 2.0]), np.repeat([0, 1, 2], 2)
    drawn = UNEVEN.redraw(np.random.default_rng(21), 12)
    assert len({tuple(np.bincount(row)) for row in drawn}) > 3
    for arm, effects in zip(drawn, redrawn.arm_effects(y, drawn, block), strict=True):
        design = np.hstack([np.eye(3)[block], np.eye(3)[arm][:, 1:]])
        slow = np.concatenate([[0.0], np.linalg.lstsq(design, y, rcond=None)[0][3:]])
        assert effects == pytest.approx(slow - slow.mean(), abs=1e-9)
