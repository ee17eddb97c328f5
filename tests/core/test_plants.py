"""After the end: fates that add up, room and mix by hand, trays put together."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest

from orderly_bench.core.conclude.plants import (
    Fate,
    Place,
    Sold,
    Tray,
    check_fate,
    check_price,
    columns_of,
    fates_by_arm,
    put_together,
    room_for,
    sold_by_arm,
)
from orderly_bench.core.errors import InvalidInput

TRAYS = [Tray(n, 2, 5, 4.0) for n in range(1, 6)]


def standing(*per_tray: int) -> list[Place]:
    """So many plants in the first cells of each tray."""
    return [Place(f"T{t}-{i}", t, i // 5 + 1, i % 5 + 1) for t, n in enumerate(per_tray, start=1) for i in range(n)]


def test_only_what_was_sold_has_a_price() -> None:
    for fate, price in ((Fate.SOLD, 0.0), (Fate.SOLD, 3.5), (Fate.GIVEN, None)):
        check_price(fate, price)
    for fate, price in ((Fate.GIVEN, 3.5), (Fate.SOLD, -0.01), (Fate.SOLD, 1e9)):
        with pytest.raises(InvalidInput, match="price of each"):
            check_price(fate, price)


def test_what_was_sold_is_summed_by_arm_and_currency() -> None:
    sold = [
        Sold("B", 4.0, "EUR"),
        Sold("A", 3.5, "EUR"),
        Sold("B", 2.5, "EUR"),
        Sold("A", 3.5, "EUR"),
        Sold("A", 3.0, "GBP"),
    ]
    assert sold_by_arm([*sold, Sold("C", None, "")]) == [
        "A: 2 sold at 3.50 each, 7.00 EUR",
        "A: 1 sold at 3.00 each, 3.00 GBP",
        "B: 2 sold at 2.50 to 4.00 each, 6.50 EUR",
        "C: 1 sold, at no price that was written down",
    ]
    assert sold_by_arm([]) == []


def test_what_leaves_the_lab_needs_an_answer() -> None:
    assert check_fate("potted on", "") is Fate.POTTED and check_fate("sold", "free variety") is Fate.SOLD
    for fate, rights in (("sold", " "), ("given", ""), ("eaten", "yes")):
        with pytest.raises(InvalidInput):
            check_fate(fate, rights)


def test_fifty_cells_to_fifty_pots() -> None:
    """50 plants in five trays of ten cells of 4 cm: 5 x 160 cm2 = 0.08 m2; pots of 90 mm 0.405 m2; 50 x 0.4 L / 0.9 x 1.1 = 24.4 L."""
    room = room_for(standing(10, 10, 10, 10, 10), TRAYS, 90, 400)
    assert (room.plants, room.trays_now, room.trays_together) == (50, 5, 5)
    assert (room.m2_now, room.m2_after, room.litres) == (
        pytest.approx(0.08),
        pytest.approx(0.405),
        pytest.approx(24.444, abs=1e-3),
    )
    fewer = room_for(standing(8, 7, 6, 5, 4), TRAYS, 90, 400)
    assert (fewer.trays_now, fewer.trays_together, fewer.m2_together) == (5, 3, pytest.approx(0.048))
    nothing = room_for([], TRAYS, 90, 400)
    assert (nothing.plants, nothing.trays_together, nothing.litres) == (0, 0, 0)
    for pot_mm, pot_ml in ((5, 400), (90, 0), (float("nan"), 400)):
        with pytest.raises(InvalidInput):
            room_for([], TRAYS, pot_mm, pot_ml)


def test_five_trays_go_into_four_and_everyone_is_found_again() -> None:
    places = standing(9, 9, 8, 8, 4)
    moves = put_together(places, TRAYS)
    assert {frm.tray for frm, _ in moves} == {5} and len(moves) == 4
    after = Counter((p.tray, p.row, p.column) for p in places if p.tray != 5)
    after.update((to.tray, to.row, to.column) for _, to in moves)
    assert max(after.values()) == 1 and sum(after.values()) == len(places)
    assert all(frm.code == to.code for frm, to in moves)
    assert put_together(standing(10, 10), TRAYS) == [] and put_together([], TRAYS) == []


@pytest.mark.parametrize("seed", range(40))
def test_whatever_stands_fits_with_nobody_twice(seed: int) -> None:
    rng = np.random.default_rng(seed)
    trays = [Tray(n, int(rng.integers(1, 4)), int(rng.integers(1, 6)), 4.0) for n in range(1, 6)]
    cells = [(t.number, r, c) for t in trays for r in range(1, t.rows + 1) for c in range(1, t.columns + 1)]
    chosen = rng.permutation(len(cells))[: rng.integers(0, len(cells) + 1)]
    places = [Place(str(i), *cells[i]) for i in chosen]
    moves = put_together(places, trays)
    gone = {frm.tray for frm, _ in moves}
    after = [(p.tray, p.row, p.column) for p in places if p.tray not in gone] + [
        (to.tray, to.row, to.column) for _, to in moves
    ]
    assert len(after) == len(set(after)) == len(places) and set(after) <= set(cells)
    assert len({t for t, _, _ in after}) == room_for(places, trays, 90, 400).trays_together


def test_every_arm_adds_up() -> None:
    table = fates_by_arm("AB", [("A", Fate.POTTED), ("A", None), ("A", Fate.POTTED), ("B", Fate.DEAD)])
    assert table == {"A": {"potted on": 2, "": 1}, "B": {"dead": 1}}
    assert [name for name, _ in columns_of(table)] == ["potted on", "dead", ""]
    assert [words for _, words in columns_of(fates_by_arm("A", []))] == []
