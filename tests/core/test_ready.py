"""What has to be seen to, and what is to be had."""

from __future__ import annotations

from dataclasses import replace

import pytest

from orderly_bench.core.plan import edit
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.treatments import Treatments
from orderly_bench.core.plan.value import Plan, PlannedWave, Schedule
from orderly_bench.core.prepare.hormones import sheet_of
from orderly_bench.core.prepare.needs import media_of
from orderly_bench.core.prepare.ready import left, shopping, to_do
from tests.core.test_hormones import plan_with


def with_recipe(plan: Plan, text: str) -> Plan:
    return replace(plan, preparation=replace(plan.preparation, recipes={"all": text}))


def test_the_list_is_of_this_plan() -> None:
    keys = [item.key for item in to_do(plan_with("IBA 1000 ppm liquid", "none"))]
    assert "hormone" in keys and "hands" not in keys and keys[0] == "rights"
    bare = plan_with("none", "water dip")
    assert "hormone" not in [item.key for item in to_do(bare)]
    timed = replace(bare, design=replace(bare.design, hours=3.0))
    assert any(item.key == "hands" and "3 h" in item.words for item in to_do(timed))
    assert [item.key for item in left(to_do(bare), ["rights", "media"])] == [*keys[2:4], "pieces", "blades"]


def test_what_is_to_be_had_is_what_the_shelf_lacks() -> None:
    plan = with_recipe(plan_with("IBA 1000 ppm liquid", "none"), "3 pumice, 1 coir")
    need = media_of(plan)[0].need
    lines = {line.what: line for line in shopping(plan, {}, {}, 80)}
    assert lines["pumice"].amount == pytest.approx(0.75 * need.litres, abs=0.1)
    assert lines["coir"].amount == pytest.approx(0.25 * need.litres, abs=0.1) and "nobody said" in lines["coir"].note
    assert (lines["labels"].amount, lines["containers"].amount) == (80, need.cells)
    assert lines["IBA of 10000 ppm"].amount == pytest.approx(2.0)
    half = {line.what: line for line in shopping(plan, {need.medium.casefold(): need.litres / 2}, {}, 80)}
    assert half["pumice"].amount == pytest.approx(0.375 * need.litres, abs=0.1) and "free" in half["pumice"].note
    enough = {line.what for line in shopping(plan, {need.medium.casefold(): need.litres}, {}, 0)}
    assert "pumice" not in enough and "labels" not in enough


def test_litres_are_rounded_up_never_down() -> None:
    plan = with_recipe(plan_with("none", "water dip"), "1 pumice")
    line = shopping(plan, {}, {}, 0)[0]
    assert 0 <= line.amount - media_of(plan)[0].need.litres < 0.1


def test_each_wave_of_a_season_has_dishes_of_its_own_for_the_arms_that_are_stuck_in_it() -> None:
    seasons = [
        (AspectKind.SEASON, "season", ["spring", "autumn"]),
        (AspectKind.HORMONE, "hormone", ["none", "IBA 1000 ppm liquid, 5 s"]),
    ]
    treatments = edit.with_factors(Treatments(), seasons)
    every = [(s, h) for s in ("season-1", "season-2") for h in ("hormone-1", "hormone-2")]
    waves = tuple(PlannedWave(n, season="season-1" if n < 3 else "season-2") for n in range(1, 5))
    plan = Plan("x", treatments=edit.with_arms(treatments, every, None), schedule=Schedule(waves=waves))
    plan = replace(plan, design=replace(plan.design, cuttings_per_arm=40, cuttings_per_unit=1))
    sheet = sheet_of(plan)
    assert sheet is not None and [dish.dips for dish in sheet.dishes] == [40, 40], "those of one wave"
    each = sheet.dishes[1].stock_ml or 0.0
    line = next(line for line in shopping(plan, {}, {}, 0) if line.what.startswith("IBA"))
    assert (line.amount, line.use) == (pytest.approx(4 * each), "the dishes of 4 waves")
