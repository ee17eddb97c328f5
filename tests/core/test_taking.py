"""How pieces are taken, and how long it takes."""

from __future__ import annotations

from orderly_bench.core.prepare.taking import hours_for_hands, how_to_take
from orderly_bench.core.stock.kept import Flowering, StockPlant


def test_plants_that_flower_or_are_not_well_are_named_and_others_are_not() -> None:
    plain = StockPlant("L1", "Lavandula")
    assert len(how_to_take([plain])) == 3 and not any("L1" in line for line in how_to_take([plain]))
    bud = StockPlant("L2", "Lavandula", flowering=Flowering.BUD, health="scale on two twigs")
    said = how_to_take([plain, bud])
    assert "L2 flowers or fruits: take shoots without, they root more easily." in said
    assert any("L2: scale on two twigs" in line and "L1" not in line for line in said)
    assert not any("gone" in line for line in said)
    assert any("L3 is marked as gone" in line for line in how_to_take([StockPlant("L3", "Lavandula", gone=True)]))


def test_hours_fall_with_hands_and_a_long_day_is_said() -> None:
    assert (
        hours_for_hands(1, 60)
        == "1 cutting at 60 an hour: 1 min for one pair of hands, 1 min for two, 1 min for three."
    )
    assert "wait long" not in hours_for_hands(360, 60)
    assert hours_for_hands(361, 60).endswith("The last wait long: take them in parts, or find more hands.")
