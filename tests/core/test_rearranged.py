"""Units moved on the bench: each to its place, and nobody loses one."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.tend.rearranged import Place, changed, following, rearranged, turned

SIZES = {1: (2, 3), 2: (2, 3), 3: (1, 1)}
PLACES = [
    (tray, row, column)
    for tray, (rows, columns) in SIZES.items()
    for row in range(1, rows + 1)
    for column in range(1, columns + 1)
]


def test_places_follow_along_the_rows_and_on_to_the_next_tray() -> None:
    assert following((1, 1, 3), 4, SIZES) == [(1, 1, 3), (1, 2, 1), (1, 2, 2), (1, 2, 3)]
    assert following((1, 2, 3), 2, SIZES) == [(1, 2, 3), (2, 1, 1)]
    with pytest.raises(InvalidInput, match="are 2 places for 3 units"):
        following((2, 2, 3), 3, SIZES)
    with pytest.raises(InvalidInput, match="2 rows of 3"):
        following((1, 3, 1), 1, SIZES)
    with pytest.raises(InvalidInput, match="one of the trays 1, 2, 3"):
        following((9, 1, 1), 1, SIZES)


def test_a_tray_turned_round_has_its_last_first() -> None:
    assert turned(1, {"a": (1, 1, 1), "b": (1, 2, 2), "c": (2, 1, 1)}, SIZES) == {"a": (1, 2, 3), "b": (1, 1, 2)}


def test_two_trays_change_cell_by_cell_and_only_like_ones() -> None:
    assert changed(1, 2, {"a": (1, 1, 2), "b": (2, 2, 1)}, SIZES) == {"a": (2, 1, 2), "b": (1, 2, 1)}
    for other in (1, 3):
        with pytest.raises(InvalidInput, match="as many rows and columns"):
            changed(1, other, {}, SIZES)


def test_refusals_name_the_place() -> None:
    standing = {"a": (1, 1, 1), "b": (1, 1, 2)}
    with pytest.raises(InvalidInput, match="two units"):
        rearranged(standing, {"a": (1, 2, 1), "b": (1, 2, 1)}, SIZES)
    with pytest.raises(InvalidInput, match="stand there already"):
        rearranged(standing, {"a": (1, 1, 1)}, SIZES)
    with pytest.raises(InvalidInput, match="2 rows of 3"):
        rearranged(standing, {"a": (1, 1, 4)}, SIZES)


@given(st.permutations(PLACES), st.integers(1, len(PLACES)), st.data())
def test_after_any_move_everyone_has_a_place_of_their_own(places: list[Place], there: int, data: st.DataObject) -> None:
    standing = {f"u{i}": place for i, place in enumerate(places[:there])}
    movers = data.draw(st.lists(st.sampled_from(sorted(standing)), min_size=1, unique=True))
    targets = data.draw(st.permutations(PLACES))[: len(movers)]
    wanted = dict(zip(movers, targets, strict=True))
    if all(standing[unit] == place for unit, place in wanted.items()):
        return
    found = rearranged(standing, wanted, SIZES)
    after = standing | found
    assert {unit: after[unit] for unit in wanted} == wanted
    assert len(set(after.values())) == len(standing), "no two in one place"
    assert all(standing[unit] != place for unit, place in found.items()), "only those whose place changes"
    assert set(found) - set(wanted) == {u for u, p in standing.items() if u not in wanted and p in wanted.values()}
