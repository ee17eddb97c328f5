"""The lab's settings: who may change them, what is refused, what a new trial starts from."""

from __future__ import annotations

from datetime import date

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.lab import Hemisphere, season_of
from orderly_bench.core.measures import UnitSystem, volume
from orderly_bench.core.typed import day_order
from orderly_bench.trial.models import AuditEntry, Lab, Note, Trial
from tests.factories import create_person, create_stuck
from tests.web.conftest import SignIn, flat

SETTINGS = {
    "name": "Tarn Head", "time_zone": "Australia/Hobart", "hemisphere": "south", "units": "imperial", "day_order": "month first", "alpha": "0,01",
    "usual_margin": "20", "fit_least_roots": "4", "fit_least_mm": "12.5", "held_most_hours": "6",
}  # fmt: skip


def test_a_lead_sets_them_and_a_new_trial_starts_from_them(session: Session, sign_in: SignIn) -> None:
    client = sign_in("lead")
    old = client.post("/trials", data={"botanical_name": "Olea europaea"})
    assert client.post("/lab", data=SETTINGS).status_code == 303
    client.post("/trials", data={"botanical_name": "Buxus sempervirens"})
    session.expire_all()
    lab = session.scalars(select(Lab)).one()
    assert (lab.time_zone, lab.hemisphere, lab.units, lab.day_order) == (
        "Australia/Hobart",
        "south",
        "imperial",
        "month first",
    )
    before, after = session.scalars(select(Trial).order_by(Trial.id))
    asked = after.plan.question
    assert (asked.alpha, asked.margin_points, asked.fit_least_roots, asked.fit_least_mm, asked.held_most_hours) == (
        0.01,
        20,
        4,
        12.5,
        6,
    )
    assert before.plan.question.alpha == 0.05 and old.status_code == 303
    page = client.get("/lab").text
    assert "in summer" in page or "in autumn" in page or "in winter" in page or "in spring" in page
    entry = session.scalars(select(AuditEntry).where(AuditEntry.action == "changed the lab's settings")).one()
    assert entry.new["hemisphere"] == "south" and entry.old["hemisphere"] == "north"


def test_the_same_again_leaves_no_trace(session: Session, sign_in: SignIn) -> None:
    client = sign_in("lead")
    client.post("/lab", data=SETTINGS)
    client.post("/lab", data=SETTINGS)
    assert len(list(session.scalars(select(AuditEntry).where(AuditEntry.action == "changed the lab's settings")))) == 1


@pytest.mark.parametrize(
    ("field", "typed", "said"),
    [
        ("time_zone", "Middle of nowhere", "Europe/London"), ("alpha", "0.5", "between 0.0001 and 0.2"),
        ("usual_margin", "0", "margin"), ("hemisphere", "east", "choose one of: north, south"),
        ("name", " ", "name of the lab"), ("fit_least_roots", "many", "whole number"),
    ],
)  # fmt: skip
def test_what_can_not_be_is_refused_and_what_was_typed_stays(
    session: Session, sign_in: SignIn, field: str, typed: str, said: str
) -> None:
    response = sign_in("lead").post("/lab", data=SETTINGS | {field: typed, "fit_least_mm": "17.25"})
    assert response.status_code == 422 and said in response.text and 'value="17.25"' in response.text
    assert session.scalars(select(Lab)).one().alpha == 0.05


@pytest.mark.parametrize("role", ["researcher", "scorer", "reader"])
def test_others_read_them(session: Session, sign_in: SignIn, role: str) -> None:
    client = sign_in(role)
    page = client.get("/lab")
    assert (
        page.status_code == 200
        and "A lead may change these" in page.text
        and '<form method="post" class="card' not in page.text
    )
    assert client.post("/lab", data=SETTINGS).status_code == 403
    assert session.scalars(select(Lab)).one().hemisphere == "north"


@pytest.mark.parametrize(
    ("month", "north"), [(12, "winter"), (2, "winter"), (3, "spring"), (6, "summer"), (8, "summer"), (11, "autumn")]
)
def test_seasons_are_whole_months_and_turn_with_the_hemisphere(month: int, north: str) -> None:
    opposite = {"winter": "summer", "summer": "winter", "spring": "autumn", "autumn": "spring"}
    day = date(2026, month, 15)
    assert season_of(day, Hemisphere.NORTH) == north and season_of(day, Hemisphere.SOUTH) == opposite[north]


def test_volumes_are_said_as_the_lab_thinks() -> None:
    assert volume(2.44, UnitSystem.METRIC) == "2.4 L"
    assert volume(3.785411784, UnitSystem.IMPERIAL) == "1.0 gal (3.8 L)"


def test_a_bench_may_be_measured_in_inches(session: Session, sign_in: SignIn) -> None:
    client = sign_in("lead")
    client.post("/lab", data=SETTINGS)
    made = client.post("/benches", data={"name": "Long bench", "length_cm": "8 ft", "width_cm": "48 in"})
    assert made.status_code == 303
    assert "96 in (243.84 cm) by 48 in (121.92 cm)" in flat(client.get("/benches").text)
    refused = client.post("/benches", data={"name": "Odd bench", "length_cm": "8 elbows", "width_cm": "48 in"})
    assert refused.status_code == 422 and "mm, cm, m, in or ft" in refused.text and "8 elbows" in refused.text


def test_its_year_is_kept_as_days_and_refused_where_it_is_none(session: Session, sign_in: SignIn) -> None:
    client = sign_in("lead")
    year = {"last_frost": "15 May", "first_frost": "10 Oct", "hot_from": "20 June", "hot_to": "2026-08-31"}
    assert client.post("/lab", data=SETTINGS | year).status_code == 303
    lab = session.scalars(select(Lab)).one()
    session.refresh(lab)
    assert (lab.last_frost, lab.first_frost, lab.hot_from, lab.hot_to) == ("05-15", "10-10", "06-20", "08-31")
    assert "20 Jun to 31 Aug" in flat(sign_in("reader").get("/lab").text)
    for wrong, says in (({"last_frost": "31 February"}, "last frost"), ({"hot_to": ""}, "first day and their last")):
        refused = client.post("/lab", data=SETTINGS | year | wrong)
        assert refused.status_code == 422 and says in flat(refused.text)


def test_days_are_reckoned_beside_the_question_once_plants_are_wanted(session: Session, sign_in: SignIn) -> None:
    client = sign_in("lead")
    client.post("/lab", data=SETTINGS | {"first_frost": "25 April"})
    where = client.post("/trials", data={"botanical_name": "Olea europaea"}).headers["Location"]
    typed = {
        "botanical_name": "Olea europaea",
        "kind": "rate",
        "response": "rooted",
        "endpoint_day": "42",
        "arms": "1",
        "lines": "0",
    }
    page = f"{where.removesuffix('/question')}/question/working"
    book = {"book": "40-60 a handbook, 6 to 8 weeks"}
    asked = client.post(page, data=typed | book | {"weeks_in_pot": "5", "wanted_plants": "20"})
    assert "5 weeks in the pot" in flat(asked.text) and "before the first frost" in flat(asked.text)
    assert "reckoned" not in client.post(page, data=typed | book).text


def test_days_are_read_as_the_lab_writes_them_and_only_while_it_is_asked(session: Session, sign_in: SignIn) -> None:
    client = sign_in("lead")
    trial = create_stuck(session, create_person(session))
    session.commit()
    note = {"note_text": "dry", "note_day": "5/7/2026", "note_code": "", "note_key": ""}
    asked = client.post(f"/trials/{trial.id}/notes", data=note)
    assert asked.status_code == 422 and "can be read as two days" in flat(asked.text)
    client.post("/lab", data=SETTINGS)
    assert client.post(f"/trials/{trial.id}/notes", data=note).status_code == 303, "month first: 7 May"
    assert session.scalars(select(Note)).one().day == date(2026, 5, 7)
    assert day_order.get() is None, "nobody else is asked in its name"
