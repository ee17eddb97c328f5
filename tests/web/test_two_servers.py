"""Two web servers of one lab: what one knows the other knows, and work is done once."""

from __future__ import annotations

import io
import re
import threading
import time
from collections.abc import Iterator
from datetime import UTC, datetime

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import Engine, select, text
from sqlalchemy.orm import Session

from orderly_bench.chapters.people.operations import add_person
from orderly_bench.database.engine import make_engine
from orderly_bench.database.leases import Leases
from orderly_bench.database.migrate import migrate
from orderly_bench.evidence import memory
from orderly_bench.trial.models import Lab, Person, Trial
from orderly_bench.trial.throttle import FREE_TRIES
from orderly_bench.web import store, work
from tests.conftest import database_url, emptied
from tests.factories import NOW, TODAY, create_finished, create_person, create_stuck, create_trial
from tests.web.conftest import client_of, folder_of_photos, make_app
from tests.web.test_photos import jpeg
from tests.web.test_pieces import form_of

PASSWORD = "a long enough one for them"


@pytest.fixture(scope="module")
def lab() -> Iterator[Engine]:
    made = emptied(make_engine(database_url("orderly_servers")))
    migrate(made)
    with Session(made) as session:
        session.add(Lab(name="Two servers", time_zone="UTC"))
        session.commit()
    yield made
    made.dispose()


@pytest.fixture
def servers(lab: Engine) -> Iterator[tuple[Flask, Flask]]:
    engines = [make_engine(database_url("orderly_servers")) for _ in range(2)]
    photos = folder_of_photos()
    first, second = (make_app(engine, PHOTOS=photos) for engine in engines)  # type: ignore[arg-type]
    yield first, second
    for engine in engines:
        engine.dispose()


def person(lab: Engine, role: str = "researcher") -> Person:
    with Session(lab, expire_on_commit=False) as session:
        made = create_person(session, role)
        session.commit()
    return made


def client(app: Flask, who: Person, lab: Engine) -> FlaskClient:
    with Session(lab, expire_on_commit=False) as session:
        return client_of(app, session.get_one(Person, who.id))


def at_the_other(app: Flask, signed: FlaskClient) -> FlaskClient:
    """The same browser, sent to another server."""
    made = app.test_client()
    cookie = next(iter(signed._cookies.values()))  # type: ignore[union-attr]
    made.set_cookie(cookie.key, cookie.value, domain=cookie.domain or "localhost")
    return made


def test_who_signs_in_at_one_is_signed_in_and_out_at_both(lab: Engine, servers: tuple[Flask, Flask]) -> None:
    first = client(servers[0], person(lab), lab)
    second = at_the_other(servers[1], first)
    assert second.get("/trials").status_code == 200
    assert first.post("/sign-out").status_code == 303
    assert second.get("/trials").status_code == 302, "the session ended for both"


def test_tries_to_sign_in_are_counted_by_both_together(lab: Engine, servers: tuple[Flask, Flask]) -> None:
    with Session(lab) as session:
        add_person(session, None, NOW, "Ewa", "ewa", "lead", PASSWORD)
        session.commit()
    wrong = {"name": "ewa", "password": "not this one"}
    answers = [servers[n % 2].test_client().post("/sign-in", data=wrong).status_code for n in range(FREE_TRIES + 1)]
    assert answers == [401] * FREE_TRIES + [429]


def test_what_one_keeps_the_other_shows_photos_too(lab: Engine, servers: tuple[Flask, Flask]) -> None:
    first = client(servers[0], person(lab), lab)
    second = at_the_other(servers[1], first)
    assert first.post("/trials", data={"botanical_name": "Daphne mezereum"}).status_code == 303
    assert "Daphne mezereum" in second.get("/trials").text
    with Session(lab) as session:
        trial = create_stuck(session, create_person(session)).id
        session.commit()
    sent = {
        "shows": "tops",
        "photo_day": str(TODAY),
        "photo_key": "two servers",
        "photo": (io.BytesIO(jpeg()), "x.jpg"),
    }
    assert first.post(f"/trials/{trial}/photos", data=sent, content_type="multipart/form-data").status_code == 303
    picture = re.search(r'src="(/photos/[^"]+)"', second.get(f"/trials/{trial}/photos").text)
    assert picture and second.get(picture[1]).data[:2] == b"\xff\xd8"


def test_a_curve_one_was_asked_for_is_worked_out_by_the_other_too_when_it_is_asked(
    lab: Engine, servers: tuple[Flask, Flask]
) -> None:
    with Session(lab) as session:
        trial = create_trial(session, create_person(session), control="bark + none")
        session.commit()
        form, where = (
            form_of(trial, pieces="", guess_A="20", guess_B="80", guess_C="20", guess_D="80"),
            f"/trials/{trial.id}/design/curve",
        )
    first = client(servers[0], person(lab), lab)
    second = at_the_other(servers[1], first)
    shown = first.post(where, data=form).text
    digest = re.search(r"/design/curve/([0-9a-f]{64})", shown)
    assert digest, "worked out at the first"
    asks_again = second.get(f"{where}/{digest[1]}?have=0")
    assert (asks_again.status_code, asks_again.headers["HX-Trigger"]) == (204, "curve-again")
    second.post(where, data=form)
    assert second.get(f"{where}/{digest[1]}?have=0").status_code == 200


@pytest.fixture
def finished(lab: Engine) -> int:
    memory._kept.clear()
    with Session(lab) as session:
        made = create_finished(session, create_person(session), create_person(session, "scorer")).id
        session.commit()
    return made


@pytest.fixture
def workers(servers: tuple[Flask, Flask]) -> tuple[work.Worker, work.Worker]:
    """Each server's own, not begun: a test lets them work."""
    made = work.Worker(servers[0]), work.Worker(servers[1])
    for one in made:
        one.leases.silent = 0.4
    return made


def test_a_trial_is_worked_out_by_one_of_them(
    lab: Engine, finished: int, workers: tuple[work.Worker, work.Worker], monkeypatch: pytest.MonkeyPatch
) -> None:
    at_it, let_go, times = threading.Event(), threading.Event(), []
    real = work.write

    def slow(session: Session, trial: Trial, day: int) -> object:
        times.append(day)
        at_it.set()
        assert let_go.wait(20)
        return real(session, trial, day)

    monkeypatch.setattr(work, "write", slow)
    one = threading.Thread(target=workers[0]._work, args=((finished, 0, "en"),))
    one.start()
    assert at_it.wait(20)
    assert workers[1]._work((finished, 0, "en")) is False, "the first is at it"
    let_go.set()
    one.join(30)
    assert workers[1]._work((finished, 0, "en")) is True and times == [0], "it is kept"


def test_where_one_is_gone_the_other_takes_over(
    lab: Engine, servers: tuple[Flask, Flask], finished: int, workers: tuple[work.Worker, work.Worker]
) -> None:
    """The lease of a server that was killed stays, and its heart is heard no more."""
    assert Leases(lab, "killed").take(f"results {finished} 0 en")
    workers[1].start()
    workers[1].ask((finished, 0, "en"))
    with Session(lab) as session, servers[1].app_context():
        trial = session.get_one(Trial, finished)
        end = time.monotonic() + 20
        while work.read(session, trial, 0) is None or session.scalar(text("SELECT COUNT(*) FROM lease")):
            assert time.monotonic() < end, "it is worked out, and its lease is given back"
            time.sleep(0.05)
            session.rollback()


def test_a_time_zone_changed_at_one_is_soon_known_at_the_other(
    lab: Engine, servers: tuple[Flask, Flask], monkeypatch: pytest.MonkeyPatch
) -> None:
    late = datetime(2026, 3, 9, 23, 30, tzinfo=UTC)

    def day(zone: str) -> int:
        with Session(lab) as session:
            session.scalars(select(Lab)).one().time_zone = zone
            session.commit()
        with servers[1].app_context():
            return store.day_of(late).day

    assert day("UTC") == 9 and day("Pacific/Auckland") == 9, "remembered, so that a score asks for nothing"
    monkeypatch.setattr(store, "ZONE_HOLDS", 0.0)
    assert day("Pacific/Auckland") == 10
    day("UTC")
