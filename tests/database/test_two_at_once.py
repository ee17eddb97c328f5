"""Two people at the same moment, on two connections: the database itself refuses the second."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from datetime import timedelta

import pyotp
import pytest
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from orderly_bench.chapters.account.operations import new_secret, second_fits, turn_on
from orderly_bench.chapters.score import holding
from orderly_bench.chapters.score import operations as score
from orderly_bench.core.errors import OrderlyError, Refused
from orderly_bench.database.engine import make_engine
from orderly_bench.database.migrate import migrate
from orderly_bench.trial.access import NotAllowed
from orderly_bench.trial.errors import Conflict
from orderly_bench.trial.models import CheckVisit, Cutting, Lab, Person, ScoreRecord
from tests.conftest import database_url, emptied
from tests.factories import BARE, NOW, ROOTED, create_person, create_stuck, open_endpoint
from tests.meeting import until, waiting


@pytest.fixture
def committed() -> Iterator[tuple[Engine, int, int, list[int]]]:
    """A trial with an open check that both connections can see."""
    engine = emptied(make_engine(database_url("orderly_migrate")))
    migrate(engine)
    with Session(engine) as session:
        session.add(Lab(name="Two at once", time_zone="UTC"))
        researcher = create_person(session)
        people = [create_person(session, "scorer").id for _ in range(2)]
        trial = create_stuck(session, researcher)
        check = open_endpoint(session, trial, researcher)
        cutting = trial.units[0].cuttings[0].id
        session.commit()
        found = (engine, check.id, cutting, people)
    yield found
    engine.dispose()


def test_one_of_two_simultaneous_scores_stands_and_the_other_is_shown_both(
    committed: tuple[Engine, int, int, list[int]],
) -> None:
    engine, check_id, cutting_id, people = committed
    gate = threading.Barrier(2)
    outcomes: list[object] = []

    def keep(person_id: int, found: object) -> None:
        with Session(engine) as session:
            check, cutting, person = (
                session.get_one(CheckVisit, check_id),
                session.get_one(Cutting, cutting_id),
                session.get_one(Person, person_id),
            )
            gate.wait()
            try:
                score.keep_score(session, check, cutting, person, NOW, found)
                session.commit()
                outcomes.append("kept")
            except Conflict as conflict:
                session.rollback()
                outcomes.append(conflict)

    threads = [threading.Thread(target=keep, args=pair) for pair in zip(people, (ROOTED, BARE), strict=True)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    refused = [outcome for outcome in outcomes if isinstance(outcome, Conflict)]
    assert outcomes.count("kept") == 1 and len(refused) == 1
    assert refused[0].theirs and refused[0].yours
    with Session(engine) as session:
        standing = session.scalars(select(ScoreRecord).where(ScoreRecord.current == 1)).all()
        assert len(standing) == 1


def _without_a_lock(session: Session, check_id: int, read: bool = False) -> CheckVisit:
    return session.get_one(CheckVisit, check_id)


def _beside(act: Callable[[Session], None], engine: Engine) -> tuple[threading.Thread, list[Exception | None]]:
    """An act of someone else on a connection of their own, and what came of it: None when it went through."""
    outcome: list[Exception | None] = []

    def run() -> None:
        with Session(engine) as session:
            try:
                act(session)
                session.commit()
                outcome.append(None)
            except (OrderlyError, NotAllowed) as error:
                session.rollback()
                outcome.append(error)

    thread = threading.Thread(target=run)
    thread.start()
    return thread, outcome


def _all_scored(session: Session, check: CheckVisit, person: Person) -> None:
    for unit in check.trial.units:
        for cutting in unit.cuttings:
            score.keep_score(session, check, cutting, person, NOW, ROOTED)


@pytest.mark.parametrize("locked", [True, False])
def test_no_score_slips_into_a_check_that_is_being_closed(
    committed: tuple[Engine, int, int, list[int]], monkeypatch: pytest.MonkeyPatch, locked: bool
) -> None:
    """With the lock the late scorer is refused; without it, the score lands in the closed check."""
    engine, check_id, cutting_id, people = committed
    ready, closing = threading.Event(), threading.Event()
    with Session(engine) as session:
        check = session.get_one(CheckVisit, check_id)
        _all_scored(session, check, session.get_one(Person, people[0]))
        session.commit()
    if not locked:
        monkeypatch.setattr(score, "earlier_held", holding.earlier)

    def correct(session: Session) -> None:
        check, cutting = session.get_one(CheckVisit, check_id), session.get_one(Cutting, cutting_id)
        person = session.get_one(Person, people[1])
        assert check.closed_at is None and check.trial and cutting.code and person.role
        ready.set()
        closing.wait(10)
        score.keep_score(session, check, cutting, person, NOW, BARE, score.Sent(seen_revision=1, reason="looked again"))

    thread, outcome = _beside(correct, engine)
    assert ready.wait(10)
    with Session(engine) as session:
        check = session.get_one(CheckVisit, check_id)
        score.close_check(session, check, session.get_one(Person, people[0]), NOW)
        closing.set()
        until(lambda: waiting(engine))  # the scorer waits to read the check, or has read it as open and waits to write
        session.commit()
    thread.join(20)
    assert [type(found) for found in outcome] == [NotAllowed if locked else type(None)]


@pytest.mark.parametrize("locked", [True, False])
def test_a_check_does_not_close_over_a_score_that_is_being_taken_back(
    committed: tuple[Engine, int, int, list[int]], monkeypatch: pytest.MonkeyPatch, locked: bool
) -> None:
    """With the lock the closing waits and is refused; without it, the check closes with a cutting unaccounted for."""
    engine, check_id, _, people = committed
    with Session(engine) as session:
        check = session.get_one(CheckVisit, check_id)
        _all_scored(session, check, session.get_one(Person, people[0]))
        session.commit()
    if not locked:
        monkeypatch.setattr(score, "lock", _without_a_lock)
    with Session(engine) as session:
        check = session.get_one(CheckVisit, check_id)
        assert score.take_back(session, check, session.get_one(Person, people[0]), NOW) is not None

        def close(other: Session) -> None:
            score.close_check(other, other.get_one(CheckVisit, check_id), other.get_one(Person, people[1]), NOW)

        thread, outcome = _beside(close, engine)
        until(lambda: waiting(engine) if locked else outcome)  # the closing waits, or has closed
        session.commit()
    thread.join(20)
    assert [type(found) for found in outcome] == [Refused if locked else type(None)]


def test_a_code_of_the_second_factor_counts_once_under_six_at_the_same_moment(
    committed: tuple[Engine, int, int, list[int]],
) -> None:
    engine, _, _, people = committed
    secret, at = new_secret(), NOW + timedelta(minutes=5)
    with Session(engine) as session:
        turn_on(session, session.get_one(Person, people[0]), NOW, secret, pyotp.TOTP(secret).at(NOW), "own")
        session.commit()
    gate, fitted = threading.Barrier(6), []

    def show(code: str) -> None:
        with Session(engine) as session:
            person = session.get_one(Person, people[0])
            gate.wait()
            fitted.append(second_fits(session, person, at, code, "own"))
            session.commit()

    threads = [threading.Thread(target=show, args=(pyotp.TOTP(secret).at(at),)) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(fitted) == [False] * 5 + [True]
