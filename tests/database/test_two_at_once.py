"""Two people at the same moment, on two connections: the database itself refuses the second."""

from __future__ import annotations

import threading
from collections.abc import Iterator

import pytest
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.database.engine import make_engine
from orderly_bench.database.migrate import migrate
from orderly_bench.trial.errors import Conflict
from orderly_bench.trial.models import CheckVisit, Cutting, Lab, Person, ScoreRecord
from tests.conftest import database_url, emptied
from tests.factories import BARE, NOW, ROOTED, create_person, create_stuck, open_endpoint


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
