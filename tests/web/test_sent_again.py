"""A node of the database that goes in the middle of a request: another answers it, and nothing is kept twice."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import Engine, create_engine, event, func, select
from sqlalchemy.orm import Session
from werkzeug.test import TestResponse

from orderly_bench.database.engine import make_engine, nodes_of
from orderly_bench.database.migrate import migrate
from orderly_bench.trial.models import Lab, Person, ScoreRecord
from orderly_bench.web.sent_again import WAIT_SECONDS, sent_again
from tests.conftest import database_url, emptied
from tests.factories import create_person, create_stuck, open_endpoint
from tests.web.conftest import client_of, make_app
from tests.wires import Wire, through


@dataclass
class Site:
    """A lab over two wires, and who scores in it."""

    engine: Engine
    app: Flask
    wires: tuple[Wire, Wire]
    scorer: FlaskClient
    trial: int
    check: int
    cuttings: list[int]

    def sent(
        self, method: str, path: str, data: dict[str, Any] | None = None, wait: float = WAIT_SECONDS
    ) -> TestResponse:
        """As a server answers it, nodes and all."""
        self.app.wsgi_app = sent_again(self.app.wsgi_app, nodes_of(self.engine), wait)  # type: ignore[method-assign]
        return self.scorer.open(path, method=method, data=data or {})


@pytest.fixture(scope="module")
def lab() -> Iterator[Engine]:
    made = emptied(make_engine(database_url("orderly_sent")))
    migrate(made)
    with Session(made) as session:
        session.add(Lab(name="Two nodes", time_zone="UTC"))
        session.commit()
    yield made
    made.dispose()


@pytest.fixture
def site(lab: Engine) -> Iterator[Site]:
    with Session(lab, expire_on_commit=False) as session:
        person = create_person(session, "researcher")
        trial = create_stuck(session, person)
        check = open_endpoint(session, trial, person)
        cuttings = [cutting.id for unit in trial.units for cutting in unit.cuttings]
        session.commit()
        numbers = person.id, trial.id, check.id
    wires = Wire(database_url("orderly_sent")), Wire(database_url("orderly_sent"))
    engine = make_engine(through(database_url("orderly_sent"), *wires))
    app = make_app(engine)
    with Session(engine, expire_on_commit=False) as session:
        scorer = client_of(app, session.get_one(Person, numbers[0]))
    yield Site(engine, app, wires, scorer, *numbers[1:], cuttings)
    nodes = nodes_of(engine)
    assert nodes is not None
    nodes.close()
    engine.dispose()
    for wire in wires:
        wire.go_on()
        wire.cut()


def at(engine: Engine, name: str, act: Callable[[], None], which: Callable[[str], bool] = lambda _: True) -> list[str]:
    """Do it once, when the engine comes to such a statement, or to the end of a transaction; where it was done."""
    done: list[str] = []

    def once(statement: str) -> None:
        if not done and which(statement):
            done.append(statement)
            act()

    if name == "commit":
        event.listen(engine, "commit", lambda _connection: once("commit"))
    else:
        event.listen(engine, "before_cursor_execute", lambda _c, _cursor, statement, *_more: once(statement))
    return done


def score(site: Site, n: int, **more: Any) -> dict[str, Any]:
    return {
        "cutting": site.cuttings[n],
        "revision": 0,
        "state": "alive",
        "roots": "counted",
        "root_number": 3,
        "longest_root_mm": 9,
        **more,
    }


def kept(lab: Engine, site: Site) -> int:
    with Session(lab) as session:
        return session.scalar(select(func.count()).where(ScoreRecord.trial_id == site.trial)) or 0


def writes_a_score(statement: str) -> bool:
    return statement.startswith(f"INSERT INTO {ScoreRecord.__tablename__}")


def loses_the_answer(site: Site) -> Callable[[], None]:
    return site.wires[0].lose_answers


@pytest.mark.parametrize("page", ["score", "tend", "design"])
def test_a_page_is_read_from_another_node(site: Site, page: str) -> None:
    done = at(site.engine, "statement", site.wires[0].cut, lambda statement: "FROM trial" in statement)
    answer = site.sent("GET", f"/trials/{site.trial}/{page}")
    assert answer.status_code == 200 and "</main>" in answer.text
    assert len(done) == 1


@pytest.mark.parametrize("keyed", [True, False])
def test_a_score_whose_node_goes_before_it_is_kept_is_kept_once_by_another(
    lab: Engine, site: Site, keyed: bool
) -> None:
    done = at(site.engine, "statement", site.wires[0].cut, writes_a_score)
    key = {"request_key": f"gone-{site.trial}"} if keyed else {}
    assert site.sent("POST", f"/checks/{site.check}/scores", score(site, 0, **key)).status_code == 303
    assert len(done) == 1 and kept(lab, site) == 1


def test_a_score_whose_answer_was_lost_is_known_by_its_key(lab: Engine, site: Site) -> None:
    done = at(site.engine, "commit", loses_the_answer(site))
    key = f"lost-{site.trial}"
    assert site.sent("POST", f"/checks/{site.check}/scores", score(site, 0, request_key=key)).status_code == 303
    assert len(done) == 1 and kept(lab, site) == 1


def test_without_a_key_it_is_said_that_nobody_knows_and_what_was_typed_stays(lab: Engine, site: Site) -> None:
    at(site.engine, "commit", loses_the_answer(site))
    answer = site.sent("POST", f"/checks/{site.check}/scores", score(site, 0))
    assert answer.status_code == 503
    assert "Whether it was kept is not known" in answer.text and "Nothing was written" not in answer.text
    assert 'name="root_number" value="3"' in answer.text
    assert kept(lab, site) == 1, "it was; sending it again would meet it"


def test_where_no_node_is_left_it_is_said_and_nothing_is_tried_for_ever(lab: Engine, site: Site) -> None:
    def all_go() -> None:
        for wire in site.wires:
            wire.cut()

    at(site.engine, "statement", all_go, writes_a_score)
    path, form = f"/checks/{site.check}/scores", score(site, 0, request_key=f"none-{site.trial}")
    answer = site.sent("POST", path, form, wait=0.2)
    assert answer.status_code == 503 and "Nothing was written" in answer.text
    assert kept(lab, site) == 0


def test_a_single_server_is_asked_as_ever() -> None:
    def application(_environ: dict[str, Any], _start: Callable[..., Any]) -> list[bytes]:
        return [b""]

    assert nodes_of(create_engine("mysql+pymysql://me@127.0.0.1:1/lab")) is None
    assert sent_again(application, None) is application
