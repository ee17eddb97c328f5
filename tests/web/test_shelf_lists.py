"""Lists of the shelf through their pages: covers and zones, files out and in, where a thing is used, what became of it."""

from __future__ import annotations

import io
from dataclasses import replace

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.chapters.shelf.lists import LISTS
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.stock.containers import ContainerKept
from orderly_bench.core.stock.usual import USUAL
from orderly_bench.stock import operations as stock
from orderly_bench.stock.models import StockCover, StockPlant, StockZone
from tests.factories import create_drawn, create_person
from tests.web.conftest import SignIn, flat


@pytest.mark.parametrize(
    ("page", "kind", "form", "then", "told"),
    [
        ("covers", StockCover, {"name": "clear lid", "kind": "lid", "pieces": "12", "lets_light": "90"}, {"pieces": "9"}, "Pieces: 12, now 9"),
        ("zones", StockZone, {"name": "mist bench", "kind": "glasshouse", "low_c": "18", "high_c": "24"}, {"gain": "4"}, "Gain: not said, now 4"),
        ("benches", None, {"name": "north", "length_cm": "300"}, {"length_cm": "320"}, "Length cm: 300, now 320"),
        ("genera", None, {"genus": "Daphne", "irritant": "yes", "source": "us"}, {"note": "gloves"}, "Note: not said, now gloves"),
    ],
)  # fmt: skip
def test_an_entry_is_kept_put_right_and_its_history_stands_beside_it(
    session: Session, sign_in: SignIn, page: str, kind, form: dict, then: dict, told: str
) -> None:
    client = sign_in()
    assert client.post(f"/{page}", data=form).status_code == 303
    assert client.post(f"/{page}", data=form | then).status_code == 303
    shown = flat(client.get(f"/{page}").text)
    assert told in shown and next(iter(form.values())) in shown
    if kind is not None:
        assert session.scalar(select(func.count()).select_from(kind)) == 1
    named = next(iter(form))
    again = client.get(f"/{page}?{named}={form[named]}").text
    assert all(f'value="{value}"' in again for value in then.values())
    assert sign_in("scorer").post(f"/{page}", data=form).status_code == 403


def test_a_new_entry_begins_with_nothing_said(sign_in: SignIn) -> None:
    for page, chosen in (("plants", ["not said"] * 3), ("zones", ["other"]), ("covers", ["other"])):
        form = BeautifulSoup(sign_in().get(f"/{page}").text, "html.parser").select_one("#keep")
        assert [one.select_one("[selected]").text for one in form.select("select")] == chosen


@pytest.mark.parametrize("name", sorted(LISTS))
def test_a_list_goes_out_as_a_file_and_comes_in_again_unchanged(session: Session, sign_in: SignIn, name: str) -> None:
    client = sign_in()
    client.post("/plants", data={"code": "T1", "taxon": "Olea europaea", "grows": "in a pot"})
    client.post("/benches", data={"name": "north", "length_cm": "300"})
    client.post("/covers", data={"name": "lid", "kind": "lid"})
    client.post("/zones", data={"name": "frame", "kind": "cold frame", "low_c": "-5", "high_c": "30"})
    client.post("/supplies", data={"name": "pumice", "amount": "4", "unit": "L"})
    client.post("/cards", data={"taxon": "Olea europaea", "cutting_type": "tip", "rate": "62.5"})
    client.post("/media", data={"name": "mix", "text": "1 sand", "litres": "4"})
    client.post("/containers", data={"name": "jar", "shape": "jar", "rows": "1", "columns": "1", "volume_ml": "500"})
    before = client.get(f"/shelf/{name}.csv").text
    assert before.count("\n") > 1
    sent = {"file": (io.BytesIO(before.encode()), "list.csv")}
    answer = client.post(f"/shelf/{name}/file", data=sent, content_type="multipart/form-data")
    assert answer.status_code == 303 and "All rows are kept" in client.get(answer.headers["Location"]).text
    assert client.get(f"/shelf/{name}.csv").text == before


@pytest.mark.parametrize("name", sorted(USUAL))
def test_an_empty_list_begins_with_what_is_usual_once(sign_in: SignIn, name: str) -> None:
    client = sign_in()
    assert "Begin with these" in client.get(f"/{name}").text
    assert client.post(f"/shelf/{name}/begin").status_code == 303
    shown = flat(client.get(f"/{name}").text)
    assert all(entry.name in shown for entry in USUAL[name]) and "Begin with these" not in shown
    assert "doubt small" not in client.get(f"/{name}").text, "nothing usual is asked about"
    before = client.get(f"/shelf/{name}.csv").text
    assert client.post(f"/shelf/{name}/begin").status_code == 422 and client.get(f"/shelf/{name}.csv").text == before


def test_of_a_file_with_one_wrong_row_nothing_is_kept(session: Session, sign_in: SignIn) -> None:
    data = b"code,taxon,most_to_take\nT1,Olea europaea,4\nT2,Olea europaea,-1\n"
    sent = {"file": (io.BytesIO(data), "plants.csv")}
    answer = sign_in().post("/shelf/plants/file", data=sent, content_type="multipart/form-data")
    assert answer.status_code == 422 and "row 3" in flat(answer.text) and "between 0 and 10000" in flat(answer.text)
    assert not session.scalars(select(StockPlant)).all()
    assert sign_in().get("/shelf/nothing.csv").status_code == 404
    assert sign_in().post("/shelf/plants/file", data={}).status_code == 422


def test_each_page_says_which_open_trials_use_a_thing(session: Session, sign_in: SignIn) -> None:
    trial = create_drawn(session, create_person(session), pieces="T1, A, 16")
    stock.keep_container(session, ContainerKept("our tray", trial.plan.design.container))
    other = replace(trial.plan.design.container, volume_ml=999.0)
    stock.keep_container(session, ContainerKept("another", other))
    medium = trial.plan.treatments.of_kind(AspectKind.MEDIUM)
    session.commit()
    client = sign_in()
    for code in ("T1", "T11"):
        client.post("/plants", data={"code": code, "taxon": "Olea europaea"})
    client.post("/supplies", data={"name": medium.levels[0].name, "amount": "4", "unit": "L"})
    assert flat(client.get("/plants").text).count(f"In {trial.code}.") == 1
    assert f"In {trial.code}." in flat(client.get("/supplies").text)
    page = flat(client.get("/containers").text)
    assert page.count(f"In {trial.code}.") == 1 and page.index("our tray") < page.index(f"In {trial.code}.")
