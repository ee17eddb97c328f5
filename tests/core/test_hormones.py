"""The hormone sheet: what the words of a level say, and what goes into each dish. Sums worked by hand."""

from __future__ import annotations

from dataclasses import replace

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.judgement.dose_curve import strengths_of
from orderly_bench.core.plan import edit
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.treatments import Treatments
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.prepare.hormone_levels import Taken, read_level
from orderly_bench.core.prepare.hormones import Bottle, as_typed, read_bottle, sheet_of, usual_for
from orderly_bench.core.question.doubts import blank_doubt, unproven_doubt
from orderly_bench.core.sums.solutions import Active, Form


def plan_with(*levels: str, each: int = 40, types: str = "") -> Plan:
    treatments = edit.with_factors(Treatments(), [(AspectKind.HORMONE, "hormone", list(levels))])
    treatments = edit.with_arms(treatments, [(level.id,) for level in treatments.asked[0].levels], None)
    plan = Plan("x", treatments=treatments)
    return replace(plan, design=replace(plan.design, cuttings_per_arm=each, cuttings_per_unit=1))


@pytest.mark.parametrize(
    ("words", "active", "ppm", "taken", "as_salt", "seconds"),
    [
        ("IBA 3000 ppm talc", Active.IBA, 3000, Taken.POWDER, False, None),
        ("IBA 1,000 ppm liquid, 5 s", Active.IBA, 1000, Taken.LIQUID, False, 5),
        ("K-IBA 0.1 % solution", Active.IBA, 1000, Taken.LIQUID, True, None),
        ("IBA-K 1000 ppm liquid, 5 s dip", Active.IBA, 1000, Taken.LIQUID, True, 5),
        ("NAA (K) 500 ppm liquid", Active.NAA, 500, Taken.LIQUID, True, None),
        ("KIBA 1000 ppm liquid", Active.IBA, 1000, Taken.LIQUID, True, None),
        ("potassium salt of IBA 1000 ppm liquid", Active.IBA, 1000, Taken.LIQUID, True, None),
        ("IBA 1000 ppm, kept dark", Active.IBA, 1000, Taken.NOT_SAID, False, None),
        ("naa 0,3 % gel", Active.NAA, 3000, Taken.GEL, False, None),
        ("IBA 500 mg/L, 2 min", Active.IBA, 500, Taken.LIQUID, False, 120),
        ("IBA 8 000 ppm", Active.IBA, 8000, Taken.NOT_SAID, False, None),
        ("IBA 20 ppm in the water", Active.IBA, 20, Taken.IN_WATER, False, None),
        ("IBA 1.000 ppm", Active.IBA, 1000, Taken.NOT_SAID, False, None),
        ("IBA 0.125 mg/L in the water", Active.IBA, 0.125, Taken.IN_WATER, False, None),
        ("IBA 3 g/L, 5 s", Active.IBA, 3000, Taken.LIQUID, False, 5),
        ("IBA 3 g/kg", Active.IBA, 3000, Taken.POWDER, False, None),
        ("IBA gel 3 g/kg", Active.IBA, 3000, Taken.GEL, False, None),
        ("NAA 0.5 mg/mL", Active.NAA, 500, Taken.LIQUID, False, None),
        ("IBA 25 mg/L, soak 24 h", Active.IBA, 25, Taken.LIQUID, False, 86_400),
        ("IBA 10 mM", Active.IBA, 2032.4, Taken.LIQUID, False, None),
        ("K-IBA 500 uM", Active.IBA, 120.7, Taken.LIQUID, True, None),
        ("IBA 3000 ppm on 5 mm of stem", Active.IBA, 3000, Taken.NOT_SAID, False, None),
        ("bark tea", None, None, Taken.NOT_SAID, False, None),
    ],
)
def test_what_the_words_of_a_level_say(
    words: str, active: Active | None, ppm: float | None, taken: Taken, as_salt: bool, seconds: float | None
) -> None:
    read = read_level(words)
    assert (read.active, read.ppm, read.taken, read.as_salt, read.seconds) == (active, ppm, taken, as_salt, seconds)


def test_two_active_parts_are_not_mixed_as_one() -> None:
    sheet = sheet_of(plan_with("IBA 1000 ppm + NAA 500 ppm liquid, 5 s", "none"))
    assert sheet is not None and not sheet.dishes[0].mixed and sheet.stock_ml == 0
    assert "Two active parts" in sheet.dishes[0].says[0]


def test_a_dish_holds_what_the_dips_take_and_never_less_than_covers_a_stem() -> None:
    sheet = sheet_of(plan_with("IBA 1000 ppm liquid, 5 s", "none", each=200))
    assert sheet is not None
    dish, none = sheet.dishes
    assert (dish.ml, dish.stock_ml, dish.fill_ml) == pytest.approx((40.0, 4.0, 36.0))  # 200 x 0.2 mL
    assert not none.mixed and "carrier alone" in none.says[0]
    few = sheet_of(plan_with("IBA 1000 ppm liquid, 5 s", "none", each=10))
    assert few is not None and few.dishes[0].ml == 20.0
    assert sheet.stock_ml == pytest.approx(4.0)


def test_salt_and_acid_are_held_against_each_other_as_one_thing() -> None:
    """1,000 mg/L of the potassium salt are 842.2 mg/L of the acid: of 10,000 mg/L acid, 20 mL take 1.684 mL."""
    sheet = sheet_of(plan_with("K-IBA 1000 ppm liquid, 5 s", "none"))
    assert sheet is not None and sheet.dishes[0].stock_ml == pytest.approx(1.6844, abs=1e-4)
    salt = sheet_of(plan_with("IBA 1000 ppm liquid, 5 s", "none"), Bottle(holds=Form.SALT))
    assert salt is not None and salt.dishes[0].stock_ml == pytest.approx(
        20 * 1000 * 241.331 / 203.241 / 10_000, abs=1e-4
    )
    same = sheet_of(plan_with("K-IBA 1000 ppm liquid, 5 s", "none"), Bottle(holds=Form.SALT))
    assert same is not None and same.dishes[0].stock_ml == pytest.approx(2.0)


def test_what_is_stronger_than_the_bottle_is_refused_and_the_others_stay() -> None:
    sheet = sheet_of(plan_with("IBA 4000 ppm liquid", "IBA 1000 ppm liquid", "none"), Bottle(ppm=2000))
    assert sheet is not None
    assert "stronger" in sheet.dishes[0].refused and sheet.dishes[0].stock_ml is None
    assert sheet.dishes[1].mixed and not sheet.dishes[1].refused


def test_powder_and_gel_are_not_diluted_nor_compared_with_a_liquid() -> None:
    sheet = sheet_of(plan_with("IBA 3000 ppm talc", "IBA 3000 ppm liquid", "none"))
    assert sheet is not None
    assert not sheet.dishes[0].mixed and "mg/kg" in sheet.dishes[0].says[0]
    assert any("not compared across forms" in line for line in sheet.says)


def test_a_brew_is_unproven_with_its_blank_offered_and_a_level_without_strength_is_asked() -> None:
    sheet = sheet_of(plan_with("tea of young bark", "IBA liquid", "none"))
    assert sheet is not None
    assert "Unproven" in sheet.dishes[0].says[0] and "blank" in sheet.dishes[0].says[0]
    assert "No strength" in sheet.dishes[1].says[0]


@pytest.mark.parametrize("blank", ["none", "Control", "untreated control", "Water dip", "carrier alone", "No hormone"])
def test_however_an_arm_without_is_called_it_is_one(blank: str) -> None:
    assert blank_doubt("hormone", ["IBA 3000 ppm", blank]) == () == unproven_doubt(["IBA 3000 ppm", blank])
    sheet = sheet_of(plan_with("IBA 3000 ppm liquid", blank))
    assert sheet is not None and not any("Unproven" in says or "named" in says for says in sheet.dishes[1].says)
    assert strengths_of([blank, "IBA 1000 ppm", "IBA 3000 ppm"]) == [0, 1000, 3000]
    assert [one.code for one in blank_doubt("hormone", ["IBA 3000 ppm", "honey"])] == ["no_blank"]


def test_a_strength_of_no_named_hormone_is_no_brew() -> None:
    sheet = sheet_of(plan_with("500 ppm", "2000 ppm talc", "none"))
    assert sheet is not None
    assert all("which it is (IBA, NAA)" in dish.says[0] for dish in sheet.dishes[:2])
    found = unproven_doubt(["500 ppm", "1000 ppm", "honey", "IBA 3000 ppm", "none"])
    assert [one.code for one in found] == ["unproven", "hormone_not_named"]
    assert found[0].text.startswith("Honey is unproven")
    assert found[1].text.startswith("500 ppm and 1000 ppm name no hormone")
    assert unproven_doubt(["500 ppm"])[0].text.startswith("500 ppm names no hormone")


def test_alcohol_that_goes_with_the_strength_is_told() -> None:
    """1,000 and 4,000 ppm from 10,000 ppm in 50 % alcohol: 5 and 20 % when filled up with water."""
    sheet = sheet_of(plan_with("IBA 1000 ppm liquid", "IBA 4000 ppm liquid", "none"))
    assert sheet is not None and "5 and 20 % alcohol" in sheet.says[0]
    watery = sheet_of(plan_with("IBA 1000 ppm liquid", "none"), Bottle(alcohol=0))
    assert watery is not None and not any("alcohol" in line for line in watery.says)


def test_a_zero_too_many_is_asked_about_by_the_wood() -> None:
    assert usual_for("semi-hard tip, 8 cm") == (1000, 3000) and usual_for("hardwood") == (2500, 8000)
    treatments = edit.with_factors(
        Treatments(),
        [(AspectKind.HORMONE, "hormone", ["IBA 30000 ppm liquid", "none"]), (AspectKind.CUTTING_TYPE, "cutting type", ["soft tip", "soft base"])],
    )  # fmt: skip
    pairs = [(h.id, t.id) for h in treatments.asked[0].levels for t in treatments.asked[1].levels]
    plan = Plan("x", treatments=edit.with_arms(treatments, pairs, None))
    sheet = sheet_of(plan)
    assert sheet is not None
    assert sheet.dishes[0].arms == ("A", "B") and any("is a zero wrong" in line for line in sheet.dishes[0].says)
    usual = sheet_of(plan_with("IBA 30000 ppm liquid", "none"))
    assert usual is not None and any("zero too many" in line for line in usual.dishes[0].says)


def test_weighing_out_what_all_dishes_take() -> None:
    sheet = sheet_of(plan_with("IBA 1000 ppm liquid", "none"))
    assert sheet is not None and "20 mg of acid" in sheet.working[0]  # 2 mL of 10,000 mg/L


def test_nothing_to_mix_is_no_sheet() -> None:
    assert sheet_of(Plan("x")) is None
    assert sheet_of(plan_with("none", "water dip")) is None


def test_a_bottle_as_typed() -> None:
    assert read_bottle(as_typed(Bottle())) == Bottle()
    assert read_bottle({"ppm": "2000,5", "holds": "k-salt"}) == Bottle(ppm=2000.5, holds=Form.SALT)
    for wrong in ({"ppm": "-1"}, {"holds": "sugar"}, {"alcohol": "101"}, {"least_ml": "nan"}):
        with pytest.raises(InvalidInput):
            read_bottle(wrong)
