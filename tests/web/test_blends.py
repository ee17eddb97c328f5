"""A blend is its recipe on Question, Shelf, Prepare and Sums."""

from __future__ import annotations

from dataclasses import replace

from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.core.plan import edit
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.treatments import Container, Treatments
from orderly_bench.core.prepare.needs import media_of, undrained
from orderly_bench.core.stock.kept import RecipeKept
from orderly_bench.stock.operations import keep_recipe
from tests.factories import LOCKED, create_drawn, create_locked, create_person
from tests.web.conftest import SignIn, flat

MEDIA = [(AspectKind.MEDIUM, "medium", ["2 bark : 1 coir", "house mix"])]


def test_a_level_typed_as_a_blend_is_its_recipe_and_a_name_is_the_shelf_s(session: Session, sign_in: SignIn) -> None:
    person = create_person(session)
    keep_recipe(session, RecipeKept("base", "3 peat, 1 lime"))
    keep_recipe(session, RecipeKept("House mix", "1 base, 1 coir"))
    trial = create_drawn(session, person, factors=MEDIA, cuttings_per_arm=10)
    session.commit()
    client, page = sign_in("researcher"), f"/trials/{trial.id}/prepare"
    shown = flat(client.get(page).text)
    assert "bark 0.5 L, coir 0.2 L" in shown, "24 cells of the usual size"
    assert "peat 0.3 L, lime 0.1 L, coir 0.4 L" in shown and "2 bark : 1 coir 0.7 L" not in shown
    locking.lock_plan(session, trial, person, LOCKED)
    assert sorted(trial.plan.preparation.recipes.values()) == ["3 peat, 1 lime, 4 coir"], "as it stood when locked"
    keep_recipe(session, RecipeKept("House mix", "1 sand, 1 coir"))
    session.commit()
    assert "peat 0.3 L" in flat(client.get(page).text), "the plan is not changed by the shelf"
    assert "peat" in client.get(f"/trials/{trial.id}/shopping.csv").text


def test_a_loop_is_refused_on_the_shelf(session: Session, sign_in: SignIn) -> None:
    keep_recipe(session, RecipeKept("base", "1 bark, 1 coir"))
    session.commit()
    client = sign_in("researcher")
    kept = client.post("/media", data={"name": "house mix", "text": "1 base, 1 sand"})
    assert kept.status_code == 303
    loop = client.post("/media", data={"name": "base", "text": "1 house mix, 1 coir"})
    assert (
        loop.status_code == 422 and "base &gt; house mix &gt; base" in loop.text and "1 house mix, 1 coir" in loop.text
    )


def test_sums_know_the_shelf_s_blends(session: Session, sign_in: SignIn) -> None:
    keep_recipe(session, RecipeKept("base", "1 bark, 1 coir"))
    session.commit()
    client = sign_in("reader")
    asked = {"containers": "10", "ml": "100", "settling": "0", "waste": "0", "recipe": "1 base, 1 sand"}
    shown = flat(client.get("/sums/medium", query_string=asked).text)
    assert "bark" in shown and "sand" in shown and "1 base, 1 sand" in shown
    bad = client.get("/sums/medium", query_string=asked | {"recipe": "2/5 bark and 2/5 coir and 2/5 sand"})
    assert bad.status_code == 422 and "6/5" in bad.text


def test_components_are_held_against_the_shelf_those_of_all_media_together(session: Session, sign_in: SignIn) -> None:
    media = [(AspectKind.MEDIUM, "medium", ["2 bark : 1 coir", "1 pumice : 1 coir"])]
    trial = create_locked(session, create_person(session), factors=media, cuttings_per_arm=20)
    session.commit()
    client, page = sign_in("researcher"), f"/trials/{trial.id}"
    coir = sum(litres for one in media_of(trial.plan) for name, litres in one.need.components if name == "coir")
    assert (
        client.post("/media", data={"name": "coir", "text": "1 coir", "litres": f"{coir + 0.01:.2f}"}).status_code
        == 303
    )
    assert "short by" not in client.get(f"{page}/prepare").text, "it is enough for both"
    create_locked(session, create_person(session, name="Una"), factors=media, cuttings_per_arm=10)
    session.commit()
    shown = flat(client.get(f"{page}/prepare").text)
    assert f"Coir: {coir:.3g} L needed" in shown and "of it for other trials; short by" in shown
    assert "enough for 20 of 40 containers" in shown
    assert client.post(f"{page}/prepared", data={"anyway": ""}).status_code == 422
    listed = client.get(f"{page}/shopping.csv").text
    assert listed.count("\r\ncoir,") == 1 and '"2 bark : 1 coir, 1 pumice : 1 coir"' in listed
    bought = {
        "name": "coir",
        "amount": "5",
        "unit": "L",
        "lot": "",
        "opened": "",
        "use_by": "",
        "price": "",
        "currency": "",
        "note": "",
    }
    assert client.post("/supplies", data=bought).status_code == 303
    assert "short by" not in client.get(f"{page}/prepare").text, "a bag of it counts"


def test_pots_without_drainage_are_minded(session: Session, sign_in: SignIn) -> None:
    trial = create_drawn(session, create_person(session), container=replace(Container(), drained=False))
    session.commit()
    client, page = sign_in("researcher"), f"/trials/{trial.id}"
    assert "stands in containers without drainage" in flat(client.get(f"{page}/design").text)
    assert "Some containers have no drainage" in flat(client.get(f"{page}/prepare").text)
    assert (
        "without drainage"
        not in client.get(f"/trials/{create_drawn(session, create_person(session, name='Una')).id}/prepare").text
    )
    water = edit.with_factors(Treatments(), [(AspectKind.MEDIUM, "medium", ["rain water", "pumice"])])
    every = edit.with_arms(water, [("medium-1",), ("medium-2",)], None)
    jars = replace(trial.plan, treatments=every)
    assert undrained(jars) == ["B"], "water needs none"
