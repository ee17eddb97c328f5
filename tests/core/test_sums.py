"""The bench's sums against values worked by hand, against their own inverses, and what they refuse."""

from __future__ import annotations

import json
from math import isclose

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orderly_bench.cli.main import main
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.methods.stick_for import for_batches, for_rate
from orderly_bench.core.plan.recipe import read_recipe
from orderly_bench.core.sums.registry import CALLED, SUMS


def worked(name: str, **typed: object) -> dict[str, object]:
    return SUMS[name].of({key: str(value) for key, value in typed.items()}).plain()["result"]  # type: ignore[no-any-return]


@pytest.mark.parametrize(
    ("name", "typed", "result"),
    [
        ("dilution", {"stock": 10_000, "want": 1_000, "volume_ml": 250}, {"stock_ml": 25, "diluent_ml": 225}),
        ("dilution", {"stock": "0,5", "want": "0.5", "volume_ml": 80}, {"stock_ml": 80, "diluent_ml": 0}),
        ("weigh", {"want_mg_per_l": 1_000, "volume_ml": 250, "as": "acid", "active": "iba"}, {"mg": 250}),
        ("weigh", {"want_mg_per_l": 1_000, "volume_ml": 250, "as": "k-salt", "active": "iba"}, {"mg": 296.8532}),
        ("weigh", {"want_mg_per_l": 500, "volume_ml": 100, "as": "k-salt", "active": "naa"}, {"mg": 60.2277}),
        ("salt", {"active": "iba", "k_salt_mg_per_l": 1_000}, {"acid_mg_per_l": 842.1670, "k_salt_mg_per_l": 1_000}),
        ("salt", {"active": "naa", "acid_mg_per_l": 1_000}, {"acid_mg_per_l": 1_000, "k_salt_mg_per_l": 1204.554}),
        ("strength", {"percent": "0.3"}, {"percent": 0.3, "ppm": 3_000}),
        ("strength", {"ppm": 500}, {"percent": 0.05, "ppm": 500}),
        ("medium", {"containers": 48, "ml": 90, "settling": 0.1, "waste": 0.1, "recipe": "3 pumice, 1 coir"}, {"litres": 5.28, "parts": {"pumice": 3.96, "coir": 1.32}}),
        ("medium", {"containers": 1, "ml": 1_000, "settling": 0, "waste": 0, "recipe": "75 % bark : 25 % grit"}, {"litres": 1, "parts": {"bark": 0.75, "grit": 0.25}}),
        ("porosity", {"volume_ml": 500, "dry_g": 100, "saturated_g": 450, "drained_g": 350}, {"air_percent": 20, "water_percent": 50, "total_percent": 70, "bulk_density_g_per_ml": 0.2}),
        ("yield", {"stem_mm": 900, "node_every_mm": 45, "nodes_each": 3, "keep_tip": "yes"}, {"cuttings": 6}),
        ("yield", {"stem_mm": 900, "node_every_mm": 45, "nodes_each": 3}, {"cuttings": 5}),
        ("yield", {"stem_mm": 0.3, "node_every_mm": 0.1, "nodes_each": 1, "keep_tip": "yes"}, {"cuttings": 3}),
        ("yield", {"stem_mm": 20, "node_every_mm": 45, "nodes_each": 3}, {"cuttings": 0}),
        ("light", {"ppfd": 105, "hours": 14}, {"dli": 5.292}),
        ("vpd", {"air_c": 22, "rh": 80}, {"vpd_kpa": 0.52879}),
        ("vpd", {"air_c": 20, "rh": 100, "leaf_c": 20}, {"vpd_kpa": 0}),
        ("area", {"count": 40, "pot_mm": 90, "cells": 50, "tray_mm": "300x450"}, {"m2_now": 0.135, "m2_after": 0.324}),
        ("area", {"count": 51, "pot_mm": 100, "cells": 50, "tray_mm": "300 x 400"}, {"m2_now": 0.24, "m2_after": 0.51}),
        ("frost", {"forecast_c": -4, "gains_c": 2.8}, {"inside_c": -1.2, "inside_f": 29.84, "frost": True}),
        ("frost", {"forecast_f": 28, "gains_f": 4}, {"inside_c": 0, "inside_f": 32, "frost": True}),
        ("frost", {"forecast_c": -2, "gains_c": 2.5}, {"inside_c": 0.5, "inside_f": 32.9, "frost": False}),
        ("dates", {"from": "2026-05-07", "weeks_root": 5, "weeks_pot": 6}, {"rooted": "2026-06-11", "ready": "2026-07-23", "latest_sticking": None}),
        ("dates", {"from": "2028-02-28", "weeks_root": 0, "weeks_pot": 1, "latest": "2028-03-07"}, {"rooted": "2028-02-28", "ready": "2028-03-06", "latest_sticking": "2028-02-29"}),
        ("interval", {"k": 46, "n": 50}, {"wilson": [0.8116, 0.9685], "exact": [0.8077, 0.9778]}),
        ("interval", {"k": 0, "n": 20}, {"wilson": [0.0, 0.1611], "exact": [0.0, 0.1684]}),
    ],
)  # fmt: skip
def test_worked_by_hand(name: str, typed: dict[str, object], result: dict[str, object]) -> None:
    found = worked(name, **typed)
    assert list(found) == list(result)
    for key, value in result.items():
        assert found[key] == (value if isinstance(value, bool | str | None) else pytest.approx(value, abs=6e-5)), key


@pytest.mark.parametrize(
    ("name", "typed", "says"),
    [
        ("dilution", {"stock": 100, "want": 1_000, "volume_ml": 10}, "above that of the stock"),
        ("dilution", {"stock": 100, "want": 10}, "volume to make, mL: is needed"),
        ("dilution", {"stock": 100, "want": -10, "volume_ml": 5}, "must be between"),
        ("dilution", {"stock": "much", "want": 1, "volume_ml": 5}, "type a number"),
        ("weigh", {"want_mg_per_l": 1, "volume_ml": 1, "as": "powder", "active": "iba"}, "choose one of"),
        ("salt", {"active": "iba"}, "give one of --k-salt-mg-per-l, --acid-mg-per-l"),
        ("salt", {"active": "iba", "k_salt_mg_per_l": 1, "acid_mg_per_l": 1}, "give one of"),
        ("strength", {"percent": 101}, "between"),
        ("medium", {"containers": 5, "ml": 90, "recipe": "2/5 a, 2/5 bark, 2/5 coir"}, "they come to 6/5"),
        ("medium", {"containers": 5, "ml": 90, "recipe": "60 % bark, 60 % coir"}, "they come to 120"),
        ("medium", {"containers": 5, "ml": 90, "recipe": "60 % bark, 1 coir"}, "all components in percent"),
        ("medium", {"containers": 5, "ml": 90, "recipe": "2 bark 1 coir"}, "comma missing"),
        ("medium", {"containers": 5, "ml": 90, "recipe": "bark"}, "parts and component"),
        ("medium", {"containers": 5, "ml": 90, "settling": 1}, "between 0 and 0.9"),
        ("porosity", {"volume_ml": 500, "dry_g": 100, "saturated_g": 300, "drained_g": 350}, "must grow"),
        ("porosity", {"volume_ml": 100, "dry_g": 100, "saturated_g": 450, "drained_g": 350}, "check the volume"),
        ("area", {"count": 4, "pot_mm": 90, "cells": 5, "tray_mm": "300"}, "300x450"),
        ("frost", {"forecast_c": 1}, "give --forecast-c and --gains-c"),
        ("frost", {"forecast_c": 1, "gains_c": 1, "gains_f": 1}, "give --forecast-c"),
        ("dates", {"weeks_root": 1, "weeks_pot": 1}, "choose a date"),
        ("dates", {"from": "2026-02-31", "weeks_root": 1, "weeks_pot": 1}, "choose a date"),
        ("interval", {"k": 51, "n": 50}, "more than the 50"),
        ("interval", {"k": 1, "n": 0}, "between 1"),
    ],
)
def test_what_can_not_be_is_refused_by_name(name: str, typed: dict[str, object], says: str) -> None:
    with pytest.raises(InvalidInput) as refused:
        worked(name, **typed)
    assert says in str(refused.value)


@given(st.floats(10, 1e5), st.floats(0.01, 1), st.floats(0.01, 1), st.floats(1, 1e4))
def test_diluted_twice_is_diluted_once(stock: float, first: float, second: float, volume: float) -> None:
    once = SUMS["dilution"].work(stock=stock, want=stock * first * second, volume_ml=volume).result["stock_ml"]
    between = (
        SUMS["dilution"].work(stock=stock * first, want=stock * first * second, volume_ml=volume).result["stock_ml"]
    )
    twice = SUMS["dilution"].work(stock=stock, want=stock * first, volume_ml=between).result["stock_ml"]
    assert isclose(once, twice, rel_tol=1e-9)


@given(
    st.integers(1, 999),
    st.floats(1, 500),
    st.floats(0, 0.9),
    st.floats(0, 5),
    st.lists(st.integers(1, 99), min_size=1, max_size=6),
)
def test_parts_add_up_to_the_litres(n: int, ml: float, settling: float, waste: float, parts: list[int]) -> None:
    recipe = ", ".join(f"{part} component{'abcdef'[i]}" for i, part in enumerate(parts))
    found = SUMS["medium"].work(containers=n, ml=ml, settling=settling, waste=waste, recipe=recipe).result
    assert isclose(sum(found["parts"].values()), found["litres"], rel_tol=1e-9)


@given(st.floats(-60, 60), st.floats(-20, 20))
def test_celsius_and_fahrenheit_say_the_same(forecast: float, gains: float) -> None:
    one = SUMS["frost"].work(forecast_c=forecast, gains_c=gains, forecast_f=None, gains_f=None).result
    other = (
        SUMS["frost"]
        .work(forecast_c=None, gains_c=None, forecast_f=forecast * 9 / 5 + 32, gains_f=gains * 9 / 5)
        .result
    )
    assert isclose(one["inside_c"], other["inside_c"], abs_tol=1e-6) and isclose(
        one["inside_f"], other["inside_f"], abs_tol=1e-6
    )


@given(st.floats(1, 1e5), st.sampled_from(["iba", "naa"]))
def test_salt_and_acid_go_there_and_back(mg: float, active: str) -> None:
    acid = worked("salt", active=active, k_salt_mg_per_l=mg)["acid_mg_per_l"]
    assert isclose(float(str(worked("salt", active=active, acid_mg_per_l=acid)["k_salt_mg_per_l"])), mg, rel_tol=1e-6)


@pytest.mark.parametrize(
    ("text", "parts"),
    [
        ("2 bark, 1 coir", [("bark", 2), ("coir", 1)]),
        ("2 bark : 1 coir", [("bark", 2), ("coir", 1)]),
        ("1,5 bark\n0.5 fine grit", [("bark", 1.5), ("fine grit", 0.5)]),
        ("3/4 bark + 1/4 coir", [("bark", 0.75), ("coir", 0.25)]),
        ("33 % a bark, 33 % coir, 34 % grit", [("a bark", 33), ("coir", 33), ("grit", 34)]),
        ("1 grit 2-4 mm, 1 sand", [("grit 2-4 mm", 1), ("sand", 1)]),
    ],
)
def test_recipes_are_read_as_people_write_them(text: str, parts: list[tuple[str, float]]) -> None:
    assert [(part.component, part.parts) for part in read_recipe(text)] == parts


@pytest.mark.parametrize("name", SUMS)
def test_each_is_headless_with_its_example(name: str, capsys: pytest.CaptureFixture[str]) -> None:
    one = SUMS[name]
    words = [
        w
        for ask in one.asks
        if ask.name in one.example
        for w in ([ask.option] if ask.kind.box else [ask.option, one.example[ask.name]])
    ]
    assert main(["sum", name, *words, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert list(found) == ["result", "working", "cautions"] and found["working"]
    assert found["result"] == worked(name, **one.example)
    assert set(found["result"]) <= set(CALLED)
    assert main(["sum", name, *words]) == 0
    assert capsys.readouterr().out.splitlines() == [*found["working"], *found["cautions"]]
    assert main(["sum", name]) == 2
    assert capsys.readouterr().err


def test_below_nought_with_a_comma(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["sum", "frost", "--forecast-c", "-3,5", "--gains-c", "2,8", "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["result"]["inside_c"] == pytest.approx(-0.7)


def test_how_many_to_stick_is_what_the_method_says_and_takes_one_source() -> None:
    known = for_batches(100, [(31, 50), (18, 40)], 0.95)
    assert worked("stick", want=100, batches="31/50, 18/40", sure=95) == {"stick": known.stick}
    assert worked("stick", want=100, rate=60, sure=95) == {"stick": for_rate(100, 0.6, 0.95).stick}
    assert SUMS["stick"].of({"want": "100", "batches": "31/50", "sure": "95"}).cautions, (
        "one batch says little of the next"
    )
    for typed in ({"batches": "31/50", "rate": "60"}, {}, {"batches": "31 of 50"}, {"batches": "60/50"}, {"rate": "0"}):
        with pytest.raises(InvalidInput):
            SUMS["stick"].of({"want": "100", "sure": "95"} | typed)


@pytest.mark.parametrize(
    ("k", "said"),
    [(0, "none of 20: the true rate is at most 13.9 % at 95 %"), (20, "all of 20: the true rate is at least 86.1 %")],
)
def test_none_and_all_have_a_bound_beside_the_interval(k: int, said: str) -> None:
    first, bound = SUMS["interval"].of({"k": str(k), "n": "20"}).working
    assert "Wilson" in first and bound.startswith(said)
    assert len(SUMS["interval"].of({"k": "7", "n": "20"}).working) == 1
