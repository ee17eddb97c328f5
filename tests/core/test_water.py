"""The water sheet: litres, grams, changes and levels, each worked by hand."""

from __future__ import annotations

from dataclasses import replace

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan import edit
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.treatments import Container, Treatments
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.prepare.water import (
    Feeding,
    Fill,
    as_typed,
    days_between,
    depth_mm,
    fills,
    read_feeding,
    strength_of,
    together,
)


def plan_with(*levels: tuple[str, str], each: int = 12, per_unit: int = 3) -> Plan:
    """Arms of a medium and a way of feeding; vessels of 250 mL, the endpoint on day 42."""
    media = list(dict.fromkeys(medium for medium, _ in levels))
    ways = list(dict.fromkeys(way for _, way in levels))
    treatments = edit.with_factors(
        Treatments(), [(AspectKind.MEDIUM, "medium", media), (AspectKind.OTHER, "feed", ways)]
    )
    medium, feed = treatments.asked
    ids = [(medium.levels[media.index(m)].id, feed.levels[ways.index(w)].id) for m, w in levels]
    plan = Plan("x", treatments=edit.with_arms(treatments, ids, None))
    design = replace(plan.design, cuttings_per_arm=each, cuttings_per_unit=per_unit)
    design = replace(design, container=replace(design.container, volume_ml=250.0))
    return replace(plan, design=design, question=replace(plan.question, endpoint_day=42))


USUAL = Feeding()


def of(plan: Plan, feeding: Feeding = USUAL) -> list[Fill]:
    return fills(plan, feeding)


def test_litres_grams_and_changes() -> None:
    """Four jars of 250 mL at 80 % are 0.8 L; half of 1.2 g/L are 0.48 g; on day 42, every week: 5 changes."""
    half, none = of(plan_with(("water", "half feed"), ("water", "no feed")), Feeding(g_per_l=1.2))
    assert (half.vessels, half.level_ml, half.litres, half.strength) == (4, 200.0, pytest.approx(0.8), 0.5)
    assert half.grams == pytest.approx(0.48) and half.changes == 5
    assert half.working == (
        "4 vessels x 250 mL x 80 % = 0.8 L",
        "0.8 L x 1.2 g/L x 50 % = 0.48 g",
        "day 42 / every 7 days: 5 changes, 4.8 L in all",
    )
    assert (none.strength, none.grams) == (0.0, 0.0) and len(none.working) == 2


def test_only_arms_in_water_are_filled() -> None:
    wet, *rest = of(plan_with(("rain water", "full feed"), ("pumice", "full feed")))
    assert wet.arm == "A" and not rest and of(plan_with(("pumice", "full feed"), ("bark", "full feed"))) == []


def test_what_is_not_said_is_asked_and_nothing_is_made_up() -> None:
    unsaid, full = of(plan_with(("water", "on the bench"), ("water", "full feed")))
    assert (unsaid.strength, unsaid.grams) == (None, None) and "not said" in unsaid.says[0]
    assert (full.strength, full.grams) == (1.0, None) and "on the feed's label" in full.says[0]


def test_too_little_to_weigh_is_made_by_the_litre() -> None:
    fed, _ = of(plan_with(("water", "half feed"), ("water", "no feed"), each=1, per_unit=1), Feeding(g_per_l=0.5))
    assert fed.grams == pytest.approx(0.05) and "make 1 L with 0.25 g" in fed.says[0]


def test_the_level_s_own_words_stand_before_the_page() -> None:
    weekly, topped = of(
        plan_with(("water", "full feed, changed every 10 days"), ("water", "full feed, topped up")),
        Feeding(g_per_l=1, every_days=2, lost_ml=30),
    )
    assert (weekly.changes, topped.changes) == (4, 0)
    assert "every 10 days" in weekly.says[0] and "dry within 6 days" in weekly.says[1]
    assert (
        topped.says[0].startswith("Never changed")
        and topped.working[-1] == "4 vessels x 30 mL x 42 days = 5.04 L to top up to the endpoint"
    )
    assert together([weekly, topped]) == [], "feed is alike"
    mixed = of(plan_with(("water", "half feed, changed weekly"), ("water", "full feed, topped up")))
    assert "can't be told" in together(mixed)[0]
    assert "vessels are not alike" in together([weekly, replace(topped, level_ml=100.0)])[0]


def test_how_high_it_stands_needs_the_vessel_s_width_and_outline() -> None:
    """200 mL over a square of 8 cm are 31.25 mm; over a round of 8 cm 39.79 mm."""
    square = Container(across_cm=8.0, outline="square")
    assert depth_mm(square, 200) == pytest.approx(31.25)
    assert depth_mm(replace(square, outline="round"), 200) == pytest.approx(39.7887, abs=1e-4)
    assert depth_mm(replace(square, outline=""), 200) is None and depth_mm(replace(square, across_cm=None), 200) is None


@pytest.mark.parametrize(
    ("words", "share", "days"),
    [
        ("quarter-strength feed, changed daily", 0.25, 1), ("33,3 % nutrient, changed weekly", 0.333, 7), ("full feed, not changed", 1.0, 0),
        ("rain water", None, None), ("fed", None, None), ("half the height", None, None), ("unfed", 0.0, None),
        ("full feed without an air stone", 1.0, None), ("not fed, no changes", 0.0, None), ("freed", None, None),
    ],
)  # fmt: skip
def test_what_the_words_of_a_level_say(words: str, share: float | None, days: int | None) -> None:
    assert strength_of(words) == (None if share is None else pytest.approx(share)) and days_between(words) == days


def test_what_is_typed_comes_back_and_a_tenfold_is_asked_about() -> None:
    typed = {"g_per_l": "1,2", "filled": "75", "every_days": "0", "lost_ml": ""}
    feeding = read_feeding(typed)
    assert feeding == Feeding(1.2, 75.0, 0, None) and read_feeding(as_typed(feeding)) == feeding
    with pytest.raises(InvalidInput, match="is a point missing"):
        read_feeding({"g_per_l": "12"})
    with pytest.raises(InvalidInput, match="between 1 and 100"):
        read_feeding({"filled": "120"})
