"""The shelf: stock plants, method cards and media, what trials take of them, and a trial begun from a card."""

from __future__ import annotations

from dataclasses import replace

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.stock.models import MethodCard, StockPlant, StockRecipe
from orderly_bench.trial.models import AuditEntry
from tests.factories import LOCKED, add_lot, create_drawn, create_person, create_trial, save_design
from tests.web.conftest import SignIn, flat

PLANT = {
    "code": "H7", "taxon": "Olea europaea", "source": "north bed", "age_years": "8", "health": "sound", "stage": "semi-hard",
    "most_to_take": "10",
}  # fmt: skip
CARD = {
    "taxon": "Lavandula angustifolia", "cutting_type": "soft tip", "rooted": "31", "stuck": "50", "weeks_least": "3",
    "weeks_most": "5", "care": "Vent from week 2.", "rate": "",
}  # fmt: skip


def test_a_plant_is_kept_described_anew_and_given_up(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    assert client.post("/plants", data=PLANT).status_code == 303
    assert client.post("/plants", data=PLANT | {"code": "h7", "health": "scale", "gone": "yes"}).status_code == 303
    (plant,) = session.scalars(select(StockPlant)).all()
    assert (plant.code, plant.health, plant.stage, plant.most_to_take, plant.gone) == (
        "H7",
        "scale",
        "semi-hard",
        10,
        True,
    )
    page = client.get("/plants").text
    assert (
        "semi-hard, 8 years, scale, north bed; nothing is taken from it any more" in flat(page)
        and "10 at most at once" in page
    )
    assert [a.action for a in session.scalars(select(AuditEntry).order_by(AuditEntry.id))][-2:] == [
        "kept a stock plant", "described a stock plant",
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("page", "form", "says"),
    [
        ("plants", PLANT | {"most_to_take": "-1"}, "Most to take at once, cuttings: must be between 0 and 10000"), ("plants", PLANT | {"stage": "green"}, "choose one of: soft"),
        ("plants", PLANT | {"code": ""}, "Code on its label: must be given"), ("cards", CARD | {"stuck": ""}, "give both"),
        ("cards", CARD | {"rooted": "60"}, "between 0 and the 50"), ("cards", CARD | {"weeks_most": "2"}, "weeks to root"),
        ("media", {"name": "mix", "text": "pumice and love", "litres": ""}, "parts"),
        ("media", {"name": "mix", "text": "1 pumice", "litres": "2 in"}, "gal"),
    ],
)  # fmt: skip
def test_what_can_not_be_kept_is_said_and_stays_typed(
    session: Session, sign_in: SignIn, page: str, form: dict, says: str
) -> None:
    answer = sign_in().post(f"/{page}", data=form)
    assert answer.status_code == 422 and says in answer.text
    assert form.get("taxon", form.get("text")) in answer.text
    assert not session.scalars(select(StockPlant)).all() and not session.scalars(select(MethodCard)).all()


def test_what_waits_for_a_plant_is_held_against_what_it_gives(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    client.post("/plants", data=PLANT | {"code": "T1", "most_to_take": "7"})
    trial = create_drawn(session, create_person(session), pieces="T1, A, 16")
    assert "0 cuttings wait" in client.get("/plants").text
    locking.lock_plan(session, trial, create_person(session), LOCKED)
    session.commit()
    page = client.get("/plants").text
    assert "16 cuttings wait to be stuck from it; 7 at most at once" in flat(
        page
    ) and "More than it should give" in flat(page)


def test_a_medium_is_reserved_until_something_is_stuck(session: Session, sign_in: SignIn) -> None:
    """Two media, each in half the cells; the other trial's share is taken off what stands ready."""
    client, lead = sign_in(), create_person(session)
    assert client.post("/media", data={"name": "Pumice", "text": "1 pumice", "litres": "1 gal"}).status_code == 303
    assert session.scalars(select(StockRecipe)).one().litres == pytest.approx(3.785411784)
    first = create_drawn(session, lead)
    assert "0.0 L reserved of 3.8 L ready" in flat(client.get("/media").text)
    locking.lock_plan(session, first, lead, LOCKED)
    session.commit()
    held = flat(client.get("/media").text)
    assert "0.0 L reserved" not in held and "of 3.8 L ready" in held
    other = create_trial(session, lead)
    save_design(session, other, lead, LOCKED)
    session.commit()
    page = client.get(f"/trials/{other.id}/design").text
    assert "Medium: pumice" in page and "3.79 L ready, " in page and "for other trials" in page
    assert "the rest; with settling and waste" in page, "bark is counted nowhere"
    add_lot(session, first, lead)
    session.commit()
    assert "0.0 L reserved of 3.8 L ready" in flat(client.get("/media").text)
    assert "for other trials" not in client.get(f"/trials/{other.id}/design").text
    client.post("/media", data={"name": "pumice", "text": "1 pumice", "litres": "0,1"})
    assert session.scalars(select(StockRecipe)).one().litres == 0.1
    assert "Short." in client.get(f"/trials/{other.id}/design").text


def test_a_trial_begins_from_a_card(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    assert client.post("/cards", data=CARD).status_code == 303
    assert "31 of 50 rooted here, in 3 to 5 weeks" in client.get("/cards").text
    trial = create_trial(session, create_person(session))
    page = f"/trials/{trial.id}/question"
    known = flat(client.get(page).text)
    assert (
        "Known here" in known
        and "Soft tip</b>: 31 of 50 rooted here, in 3 to 5 weeks" in known
        and "Vent from week 2." in known
    )
    card = session.scalars(select(MethodCard)).one()
    begun = client.post(f"/trials/{trial.id}/question/bring", data={"from_card": card.id})
    assert begun.status_code == 200
    assert 'name="endpoint_day" value="35"' in begun.text and "31/50 method card" in begun.text
    assert begun.text.count('value="soft tip"') == 1, "one bar across all arms"
    session.expire_all()
    assert trial.plan.question.endpoint_day == 42, "nothing is saved yet"
    other = replace(trial.plan, question=replace(trial.plan.question, botanical_name="Buxus sempervirens"))
    trial.keep_plan(other)
    session.commit()
    assert "Known here" not in client.get(page).text
    assert client.post(f"/trials/{trial.id}/question/bring", data={"from_card": "999"}).status_code == 404


@pytest.mark.parametrize(
    ("page", "kept", "link", "again"),
    [
        ("plants", PLANT, "/plants?code=H7#keep", {"health": "scale"}),
        ("cards", CARD, "/cards?taxon=Lavandula+angustifolia&cutting_type=soft+tip#keep", {"rooted": "40"}),
        ("cards", CARD | {"rooted": "", "stuck": "", "rate": "62.5"}, "/cards?taxon=Lavandula+angustifolia&cutting_type=soft+tip#keep", {"rate": "70"}),
        ("media", {"name": "mix", "text": "2 pumice, 1 coir", "litres": "12.5"}, "/media?name=mix#keep", {"litres": "9"}),
    ],
)  # fmt: skip
def test_an_entry_is_put_right_where_it_stands(
    session: Session, sign_in: SignIn, page: str, kept: dict[str, str], link: str, again: dict[str, str]
) -> None:
    client = sign_in()
    assert client.post(f"/{page}", data=kept).status_code == 303
    put_right = BeautifulSoup(client.get(f"/{page}").text, "html.parser").find("a", string="Put right")
    assert put_right["href"] == link
    form = BeautifulSoup(client.get(put_right["href"]).text, "html.parser").select_one("#keep")
    shown = {
        field["name"]: field.get("value", "") for field in form.select("input[name]") if field["type"] != "checkbox"
    }
    shown |= {field["name"]: field.select_one("[selected]")["value"] for field in form.select("select")}
    shown |= {field["name"]: field.text for field in form.select("textarea")}
    assert {key: shown[key] for key in kept} == kept
    assert client.post(f"/{page}", data=shown | again).status_code == 303
    text = client.get(f"/{page}").text
    assert text.count("Put right") == 1 and next(iter(again.values())) in text
    assert "Put right" not in sign_in("reader").get(f"/{page}").text


@pytest.mark.parametrize(
    ("page", "first", "then", "told"),
    [
        ("media", {"name": "Mix", "text": "2 pumice, 1 bark", "litres": "4"}, {"text": "3 pumice, 1 bark"}, "Text: 2 pumice, 1 bark, now 3 pumice, 1 bark"),
        ("plants", PLANT, {"health": "scale"}, "Health: sound, now scale"),
        ("cards", CARD, {"care": ""}, "Care: Vent from week 2., now not said"),
        ("supplies", {"name": "Perlite", "lot": "P1", "amount": "20", "unit": "L"}, {"amount": "5"}, "Amount: 20, now 5"),
    ],
)  # fmt: skip
def test_what_became_of_a_thing_stands_beside_it(
    session: Session, sign_in: SignIn, page: str, first: dict[str, str], then: dict[str, str], told: str
) -> None:
    client = sign_in()
    assert client.post(f"/{page}", data=first).status_code == 303
    assert told not in flat(client.get(f"/{page}").text)
    for _ in range(2):
        assert client.post(f"/{page}", data=first | then).status_code == 303
    shown = flat(client.get(f"/{page}").text)
    assert "kept 3 times" in shown and shown.count(told) == 1, "the third time changed nothing"


def test_a_reservation_names_its_trial(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    trial = create_drawn(session, actor)
    locking.lock_plan(session, trial, actor, LOCKED)
    session.commit()
    client = sign_in()
    medium = trial.plan.treatments.asked[0].levels[0].name
    client.post("/media", data={"name": medium, "text": "1 pumice", "litres": "40"})
    assert f"reserved ({trial.code}" in flat(client.get("/media").text)
