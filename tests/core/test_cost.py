"""Cost of a plant by hand."""

from __future__ import annotations

from datetime import date

import pytest

from orderly_bench.core.conclude.cost import Came, Own, Prices, cost_notes, cost_of, read_own, read_prices
from orderly_bench.core.conclude.material import material_of
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.methods.rates import Interval
from orderly_bench.core.stock.supplies import Supply, Unit, prices
from tests.core.test_bench_and_needs import plan_of

HALF = Came("A", 10, 20, Interval(0.25, 0.8, 0.95), 25.0)
ALL_SAID = Prices(hour=30.0, minutes=2.0, material=0.1, bench=4.0, weeks=8.0, bought=4.0, currency="EUR")


def test_work_material_and_bench_over_what_came_of_it() -> None:
    """2.5 min at 30 an hour 1.25; material 0.30; 25 cm2 for 8 weeks at 4: 0.08. 1.63 a cutting, 3.26 a plant, 2.0375 to 6.52."""
    found = cost_of(HALF, ALL_SAID, Own(0.5, 0.2))
    assert found.cutting == pytest.approx(1.63) and found.plant == pytest.approx((3.26, 2.0375, 6.52))
    assert found.cells == ["3.26, 2.04 to 6.52", "5, 3.12 to 10", "0.60, 0.38 to 1.20", "0.04, 0.025 to 0.08"]


def test_none_one_unit_and_an_interval_that_reaches_nothing() -> None:
    none = cost_of(Came("A", 0, 20, Interval(0.0, 0.16, 0.95), 25.0), ALL_SAID, Own())
    assert none.plant is None and none.cells == ["none of 20 came of it"] * 4
    single = cost_of(Came("A", 3, 4, None, 25.0), ALL_SAID, Own())
    assert single.plant == (pytest.approx(1.18 * 4 / 3), None, None)
    assert all(cell.endswith("no range from one unit") for cell in single.cells)
    assert cost_of(HALF, Prices(minutes=2.0), Own()).cells == ["", "4, 2.5 to 8", "", ""]
    open_ended = cost_of(Came("A", 1, 20, Interval(0.0, 0.2, 0.95), 25.0), ALL_SAID, Own())
    assert all(cell.endswith("or more") for cell in open_ended.cells)


def test_material_at_the_shelf_s_prices_by_hand() -> None:
    """Two arms of 8 cells of 60 mL in media m0 and m1: 0.48 L / 0.9 x 1.1 = 0.5867 L each; m0 costs 3 a litre, labels 0.02."""
    plan = plan_of(2)
    found = material_of(plan, {("m0", "L"): 3.0, ("labels", ""): 0.02}, 16)
    each = found.for_a_cutting({"A": 8, "B": 8})
    assert each[""] == pytest.approx(16 * 0.02 / 16) and each["A"] == pytest.approx(0.586667 * 3 / 8)
    assert "B" not in each and found.without == ("m1", "containers")
    assert material_of(plan, {("m0", "L"): 3.0}, 0).for_a_cutting({"A": 0, "B": 0}) == {"": 0.0}


def test_a_price_is_that_of_the_lot_that_is_used_first_in_the_common_currency() -> None:
    today = date(2026, 3, 9)
    lots = [
        Supply("Pumice", 5, Unit.LITRES, "late", use_by=date(2027, 1, 1), price=9.0, currency="EUR"),
        Supply("pumice", 5, Unit.LITRES, "soon", use_by=date(2026, 6, 1), price=0.4, currency="EUR"),
        Supply("pumice", 5, Unit.LITRES, "past", use_by=date(2026, 3, 1), price=7.0, currency="EUR"),
        Supply("labels", 5, price=0.1, currency="GBP"),
        Supply("coir", 5, Unit.LITRES),
    ]
    found, currency = prices(lots, today)
    assert currency == "EUR" and found == {("pumice", "L"): 0.4, ("pumice", "mL"): pytest.approx(0.0004)}
    assert prices([], today) == ({}, "")


def test_what_is_said_beside_them() -> None:
    cheap, dear = (
        cost_of(HALF, ALL_SAID, Own()),
        cost_of(Came("B", 4, 20, Interval(0.1, 0.3, 0.95), 25.0), ALL_SAID, Own(10, 0)),
    )
    lines = cost_notes([cheap, dear], ALL_SAID)
    assert lines[0].startswith("A: cheaper than bought as long as more than 30 of 100")
    assert "B: a cutting costs more than a bought plant" in lines
    assert not any("not settled" in line for line in lines)
    close = cost_of(Came("B", 9, 20, Interval(0.25, 0.7, 0.95), 25.0), ALL_SAID, Own())
    assert any("The range of A meets that of B" in line for line in cost_notes([cheap, close], ALL_SAID))
    assert cost_notes([cheap], Prices(minutes=2.0))[0].startswith(
        "Not said, so counted as nothing: An hour of work costs, Material"
    )


def test_as_typed() -> None:
    assert read_prices({"hour": "30", "minutes": "2,5", "currency": "EUR"}) == Prices(
        hour=30.0, minutes=2.5, currency="EUR"
    )
    assert read_own({"minutes_B": "1", "material_B": "0.2"}, "AB") == {"A": Own(), "B": Own(1.0, 0.2)}
    for wrong in ({"hour": "-1"}, {"weeks": "600"}, {"currency": "x" * 9}):
        with pytest.raises(InvalidInput):
            read_prices(wrong)
    with pytest.raises(InvalidInput, match="minutes more in B"):
        read_own({"minutes_B": "long"}, "AB")
