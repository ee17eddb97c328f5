"""Supplies: as typed, first out, what lies on the shelf."""

from __future__ import annotations

from datetime import date

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.prepare.ready import Needed, with_shelf
from orderly_bench.core.stock.supplies import SUPPLIES, Supply, Unit, first_out, on_shelf

TODAY = date(2026, 3, 9)


def test_what_is_typed_is_kept_and_said() -> None:
    supply = Supply(
        "IBA of 10000 ppm", 40.0, Unit.MILLILITRES, "7a", date(2026, 2, 1), date(2026, 3, 8), 0.5, "EUR", "cool, dark"
    )
    assert SUPPLIES.read(SUPPLIES.as_typed(supply)) == supply
    assert (
        supply.words(TODAY)
        == "40 mL, lot 7a, opened 1 Feb 2026, use by 8 Mar 2026, 0.5 EUR a unit, past its day: don't use it for a trial"
    )
    assert not supply.past(date(2026, 3, 8)) and supply.past(TODAY)
    for wrong in (
        {"name": "x"}, {"amount": "2"}, {"name": "x", "amount": "-1"}, {"name": "x", "amount": "1", "unit": "bags"},
        {"name": "x", "amount": "1", "opened": "2026-03-02", "use_by": "2026-03-01"}, {"name": "x", "amount": "1", "use_by": "31 February"},
    ):  # fmt: skip
        with pytest.raises(InvalidInput):
            SUPPLIES.read(wrong)


def test_what_is_to_be_used_first_comes_first() -> None:
    later, open_one, undated = (
        Supply("x", 1, use_by=date(2026, 9, 1)),
        Supply("x", 1, opened=date(2026, 1, 1)),
        Supply("x", 1),
    )
    assert sorted([undated, open_one, later], key=first_out) == [later, open_one, undated]


def test_the_shelf_counts_what_is_good_in_units_that_are_alike() -> None:
    shelf = on_shelf(
        [
            Supply("Pumice", 4, Unit.LITRES),
            Supply("pumice ", 500, Unit.MILLILITRES),
            Supply("pumice", 9, Unit.LITRES, use_by=date(2026, 3, 8)),
            Supply("labels", 30),
        ],
        TODAY,
    )
    assert (
        shelf["pumice", "L"] == pytest.approx(4.5)
        and shelf["pumice", "mL"] == pytest.approx(4500)
        and shelf["labels", ""] == 30
    )
    lines = with_shelf(
        [Needed("pumice", 6.0, "L", "mix"), Needed("labels", 24, "", "units"), Needed("coir", 1, "L", "mix", "n")],
        shelf,
    )
    assert [line.note for line in lines] == [
        "4.5 L on the shelf, 1.5 to get",
        "30 on the shelf",
        "n",
    ]
