"""Media named by their recipe, and blends inside blends."""

from __future__ import annotations

import pytest

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.recipe import Part, in_parts, is_blend, read_recipe, same_blend, spelled_out
from orderly_bench.core.plan.table import Line, Table, treatments_of
from orderly_bench.core.plan.treatments import Treatments
from orderly_bench.core.stock.kept import RecipeKept, check_recipe
from orderly_bench.core.sums.mixes import medium


@pytest.mark.parametrize(
    "text",
    [
        "2 bark, 1 coir", "2 bark : 1 coir", "2:1 bark:coir", "bark and coir 2:1", "bark/coir 2/1", "2 bark and 1 coir",
        "2 parts bark, 1 part of coir", "2/3 bark + 1/3 coir", "2 bark;1 coir", "2 bark\n1 coir", "2 l bark, 1 l coir", "2 litres of bark and 1 litre of coir",
        "two parts bark to one part coir", "two-thirds bark, one third coir", "bark 2, coir 1", "bark (2), coir (1)", "1 (2 bark, 1 coir), 1 (4 bark, 2 coir)",
    ],
)  # fmt: skip
def test_one_recipe_in_many_writings(text: str) -> None:
    parts = spelled_out(read_recipe(text), {})
    whole = sum(part.parts for part in parts)
    assert {part.component: round(part.parts / whole, 9) for part in parts} == {
        "bark": 0.666666667,
        "coir": 0.333333333,
    }
    assert is_blend(text) and same_blend(text, "66.7 % bark, 33.3 % coir") is False
    assert same_blend(text, "4 bark, 2 coir")


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("2/5 bark and 2/5 coir and 2/5 sand", "6/5"), ("120 % bark", "120"), ("60 % bark 40 % coir", "comma"),
        ("2 bark 1 coir", "comma"), ("2 bark, 1 coir, 2 g/L lime", "by weight to a litre"), ("2 (bark, 1 coir", "bracket"), ("0 bark, 1 coir", "parts and component"),
    ],
)  # fmt: skip
def test_what_is_no_recipe_is_asked_about(text: str, said: str) -> None:
    with pytest.raises(InvalidInput, match=said):
        read_recipe(text)
    assert is_blend(text), "so a level of that name is asked about too"
    with pytest.raises(InvalidInput, match=said):
        treatments_of(_media(text, "pumice"), Treatments())


@pytest.mark.parametrize("text", ["2 mm pumice, 1 coir", "500 mL bark, 1 coir", "3 kg bark, 1 coir"])
def test_a_size_or_weight_is_no_part(text: str) -> None:
    with pytest.raises(InvalidInput, match="a size or weight"):
        read_recipe(text)


@pytest.mark.parametrize(
    ("text", "parts"),
    [
        ("equal parts sand and coir", {"sand": 1, "coir": 1}), ("equal parts of bark, sand and coir", {"bark": 1, "sand": 1, "coir": 1}),
        ("half perlite, half coir", {"perlite": 0.5, "coir": 0.5}), ("coir (70 %), perlite (30 %)", {"coir": 70, "perlite": 30}),
        ("three quarters bark, a quarter coir", {"bark": 0.75, "coir": 0.25}), ("sand 50 %, grit 50 %", {"sand": 50, "grit": 50}),
    ],
)  # fmt: skip
def test_amounts_in_words_and_behind(text: str, parts: dict[str, float]) -> None:
    assert {part.component: part.parts for part in read_recipe(text)} == parts
    assert is_blend(text)


@pytest.mark.parametrize(
    "name",
    [
        "half-strength feed",
        "quarter-inch grit",
        "pumice",
        "house mix",
        "rain water",
        "2 mm pumice, 5 mm grit",
        "grit 2 mm",
        "bark no. 3",
        "5 L of bark",
    ],
)
def test_names_that_are_no_recipe(name: str) -> None:
    assert not is_blend(name)
    assert len(treatments_of(_media(name, "sand"), Treatments()).arms) == 2


def _media(*names: str) -> Table:
    return Table(len(names), (Line(AspectKind.MEDIUM, "medium", True, names),))


def test_two_names_of_one_recipe_are_one_medium() -> None:
    with pytest.raises(InvalidInput, match="one recipe"):
        treatments_of(_media("2 bark : 1 coir", "1 coir, 2 bark"), Treatments())


def test_blends_inside_blends() -> None:
    known = {"base": "3 peat, 1 lime", "house mix": "1 base, 1 coir"}
    found = spelled_out(read_recipe("2 House mix, 1 coir"), known)
    assert found == [Part("peat", 0.75), Part("lime", 0.25), Part("coir", 2.0)]
    assert in_parts(found) == "0.75 peat, 0.25 lime, 2 coir"
    assert check_recipe(RecipeKept("third", "1 house mix, 1 sand"), known)
    assert check_recipe(RecipeKept("pumice", "1 pumice"), {"pumice": "1 pumice"})
    assert spelled_out([Part("pumice", 2)], {"pumice": "1 Pumice"}) == [Part("Pumice", 2)]
    for name, text in (("base", "1 house mix, 1 lime"), ("base", "1 Base, 1 lime"), ("x", "1 (1 x, 1 lime), 1 sand")):
        with pytest.raises(InvalidInput, match="part of itself"):
            check_recipe(RecipeKept(name, text), known | {name: text})


def test_the_sum_parts_a_blend_in_brackets() -> None:
    found = medium(10, 100, 0, 0, "1 (1 bark, 1 coir), 1 bark").result
    assert found["parts"] == {"bark": 0.75, "coir": 0.25}
