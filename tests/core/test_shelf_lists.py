"""Every list of the shelf: an entry as typed is the entry, a file of entries is the entries, and what can't be is asked about."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.core.stock import genera, kept, supplies, surroundings
from orderly_bench.core.stock.containers import CONTAINERS, ContainerKept
from orderly_bench.core.sums.climate import SUMS
from orderly_bench.core.typed import read_day
from orderly_bench.formats.shelf_csv import read_entries, write_entries

CELLS = Container(Shape.CELLS, 5, 8, 60.0, "dark", True, 4.5, "square")
ENTRIES = [
    (kept.PLANTS, kept.StockPlant("T1", "Olea europaea", "hedge", 4.5, "scale", kept.Stage.HARD, 12, kept.Flowering.BUD, kept.Grows.GROUND, date(2026, 3, 1), True)),
    (kept.PLANTS, kept.StockPlant("T2", "Buxus sempervirens")),
    (kept.BENCHES, kept.BenchKept("north", 320.0, 90.5, "warm end west")),
    (kept.MEDIA, kept.RecipeKept("mix", "2 pumice, 1 bark", 12.5)),
    (kept.CARDS, kept.MethodCard("Olea europaea", "tip", 0.625, None, None, 6, 10, "Mist: daily\nVent: from week 3", "bark")),
    (CONTAINERS, ContainerKept("40-cell tray", CELLS, 38.0, 24.0)),
    (CONTAINERS, ContainerKept("jar", Container(Shape.JAR, 1, 1, 500.0))),
    (surroundings.COVERS, surroundings.Cover("lid", surroundings.CoverKind.LID, 12, 12.0, 90.0, "two vents")),
    (surroundings.ZONES, surroundings.Zone("frame", surroundings.ZoneKind.FRAME, -5.0, 30.0, None, 2.5, "open sky", "=cold, at dawn")),
    (supplies.SUPPLIES, supplies.Supply("pumice", 5.0, supplies.Unit.LITRES, "b2", None, date(2031, 1, 1), 0.4, "EUR", "dusty")),
    (genera.GENERA, genera.GenusNote("Daphne", irritant=True, note="long gloves", source="our own rash")),
]  # fmt: skip


@pytest.mark.parametrize(("listed", "entry"), ENTRIES)
def test_an_entry_is_read_as_it_was_written_from_form_and_file(listed, entry) -> None:
    assert listed.read(listed.as_typed(entry)) == entry
    assert read_entries(listed, write_entries(listed, [entry]).encode()) == [entry]


def test_a_file_in_the_labs_own_hand_is_read() -> None:
    text = "code;taxon;age_years\nT1;Olea europaea;4,5\nT2;Olea europaea;\n"
    assert [p.age_years for p in read_entries(kept.PLANTS, text.encode())] == [4.5, None]


@pytest.mark.parametrize(
    ("typed", "means"),
    [
        ("2026-03-09", date(2026, 3, 9)), ("9.3.2026", date(2026, 3, 9)), ("9 Mar 2026", date(2026, 3, 9)), ("29 February 2028", date(2028, 2, 29)),
        ("31/3/2026", date(2026, 3, 31)), ("3/31/2026", date(2026, 3, 31)), ("5/5/2026", date(2026, 5, 5)), ("3/9/2026", "can be read as two days"),
        ("31.2.2026", "choose a date"), ("29 Feb 2027", "choose a date"), ("9.3.26", "choose a date"), ("", "choose a date"),
    ],
)  # fmt: skip
def test_a_day_is_read_as_written_where_it_can_be_read_in_one_way_only(typed: str, means: date | str) -> None:
    if isinstance(means, date):
        assert read_day(typed, "day") == means
    else:
        with pytest.raises(InvalidInput, match=means):
            read_day(typed, "day")


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("code,taxon,height\nT1,Olea europaea,3\n", "no field 'height'.*The columns may be: code"), ("code\nT1\n", "no column 'taxon'"),
        ("code,taxon\n", "no entry under the header"), ("code,taxon,stage\nT1,Olea europaea,hard\nT2,Olea europaea,green\n", "(?s)row 3.*choose one of: soft|choose one of: soft.*row 3"),
        ("code,taxon\n,Olea europaea\n", "must be given"),
    ],
)  # fmt: skip
def test_a_file_that_can_t_be_kept_is_refused_with_its_place(text: str, says: str) -> None:
    with pytest.raises(UnusableData, match=says):
        read_entries(kept.PLANTS, text.encode())


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({}, ""), ({"across_cm": 5.5}, "5 x 8 cells of 5.5 cm take 44 x 27.5 cm, and the tray is 38 x 24 cm outside"),
        ({"rows": 8, "columns": 5}, ""), ({"volume_ml": 6000.0}, "6000 mL in 4.5 cm across would stand 300 cm deep"),
        ({"volume_ml": 5.0, "outline": "round"}, "5 mL in 4.5 cm across would stand 0.31 cm deep"), ({"across_cm": None}, ""),
    ],
)  # fmt: skip
def test_cells_that_don_t_fit_and_volumes_that_can_t_be_held_are_asked_about(change: dict, says: str) -> None:
    found = ContainerKept("tray", replace(CELLS, **change), 38.0, 24.0).questions
    assert says in " ".join(found) and bool(found) is bool(says)
    assert not ContainerKept("tray", CELLS).questions


def test_a_hardiness_zone_adds_no_degrees() -> None:
    frost = next(kind for kind in SUMS if kind.name == "frost")
    gained = next(one for one in frost.asks if one.name == "gains_c").kind
    for typed in ("zone 8", "8b", "USDA zone 9a"):
        for refuse in (
            lambda t: surroundings.ZONES.read({"name": "frame", "gain": t}),
            lambda t: gained.read(t, "gained"),
        ):
            with pytest.raises(InvalidInput, match="a hardiness zone says how cold winters get"):
                refuse(typed)
    assert surroundings.ZONES.read({"name": "frame", "gain": "2,5"}).gain == 2.5
    for band in ({"low_c": "5"}, {"low_c": "20", "high_c": "18"}):
        with pytest.raises(InvalidInput, match="Air"):
            surroundings.ZONES.read({"name": "frame", **band})


def test_health_has_its_day_and_flowers_are_told_apart_from_wood() -> None:
    plant = kept.StockPlant("T1", "Olea europaea", "hedge", 4, "scale", kept.Stage.HARD, 12, kept.Flowering.BUD, kept.Grows.GROUND, date(2026, 3, 1))  # fmt: skip
    assert plant.words == "in the ground, hard, in bud, 4 years, scale on 1 Mar 2026, hedge"
    with pytest.raises(InvalidInput, match="say what was seen on that day"):
        kept.check_plant(replace(plant, health=""))
    assert kept.StockPlant("T1", "Olea europaea").words == ""
