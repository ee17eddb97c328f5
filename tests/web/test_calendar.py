"""Days elsewhere: as a file, and at a secret address that can be withdrawn; a scorer's names no arm."""

from __future__ import annotations

import re
from datetime import timedelta

from flask import Flask
from icalendar import Calendar
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.tend import operations as tend
from orderly_bench.trial.models import Trial
from tests.factories import DAY_ZERO, LOCKED, NOW, create_person, create_trial, save_design, stick_all
from tests.web.conftest import SignIn, client_of


def growing(session: Session) -> Trial:
    actor = create_person(session)
    trial = create_trial(session, actor, care_rules="Change the water: every 7 days, arm B")
    save_design(session, trial, actor)
    design.draw(session, trial, actor, NOW, 5)
    locking.lock_plan(session, trial, actor, LOCKED)
    stick_all(session, trial, actor)
    session.commit()
    return trial


def days(content: str) -> dict[str, list[str]]:
    found: dict[str, list[str]] = {}
    for entry in Calendar.from_ical(content).walk("VEVENT"):
        assert entry.decoded("dtend") - entry.decoded("dtstart") == timedelta(days=1) and entry["uid"]
        found.setdefault(str(entry.decoded("dtstart")), []).append(str(entry["summary"]))
    return found


def test_checks_and_care_stand_on_their_days_and_what_is_done_goes(session: Session, sign_in: SignIn) -> None:
    trial = growing(session)
    client = sign_in("researcher")
    answered = client.get("/calendar.ics")
    assert answered.mimetype == "text/calendar"
    found = days(answered.text)
    assert any("Endpoint check, day 42" in words for words in found[str(DAY_ZERO + timedelta(days=42))])
    assert any("Change the water, arm B" in words for on in found.values() for words in on)
    for job in tend.jobs_of(session, trial):
        tend.set_done(session, job, create_person(session), NOW, True)
    session.commit()
    assert not any("water" in words for on in days(client.get("/calendar.ics").text).values() for words in on)


def test_the_secret_address_opens_until_it_is_withdrawn_and_names_no_arm_to_a_scorer(
    app: Flask, session: Session
) -> None:
    growing(session)
    scorer = create_person(session, "scorer")
    session.commit()
    client, stranger = client_of(app, scorer), app.test_client()
    page = client.post("/account/calendar", data={"act": "make"}).text
    address = re.search(r"/calendar/[\w-]+\.ics", page)[0]
    assert address not in client.get("/account").text, "shown once"
    words = [words for on in days(stranger.get(address).text).values() for words in on]
    assert words and any("Change the water" in one for one in words) and not any("arm B" in one for one in words)
    again = re.search(r"/calendar/[\w-]+\.ics", client.post("/account/calendar", data={"act": "make"}).text)[0]
    assert stranger.get(address).status_code == 404 and stranger.get(again).status_code == 200
    client.post("/account/calendar", data={"act": "withdraw"})
    assert stranger.get(again).status_code == 404 and stranger.get("/calendar/wrong.ics").status_code == 404


def test_a_closed_account_opens_nothing(app: Flask, session: Session) -> None:
    person = create_person(session)
    session.commit()
    address = re.search(
        r"/calendar/[\w-]+\.ics", client_of(app, person).post("/account/calendar", data={"act": "make"}).text
    )[0]
    person.active = False
    session.commit()
    assert app.test_client().get(address).status_code == 404
