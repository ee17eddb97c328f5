"""How often a page asks the database, on a trial of 600 units."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

import pytest
from flask.testing import FlaskClient
from sqlalchemy import Connection, event, insert
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.question import operations as question
from orderly_bench.chapters.score import operations as score
from orderly_bench.core.plan.treatments import Container
from orderly_bench.core.vocabulary import KnownBy, LayoutKind
from orderly_bench.evidence import memory
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import CheckVisit, Person, ScoreRecord, Trial
from tests.factories import (
    LOCKED,
    NOW,
    TODAY,
    create_finished,
    create_person,
    create_stuck,
    create_trial,
    design_form,
    stick_all,
)

MOST_ON_A_PAGE, MOST_FOR_A_SCORE, MOST_BYTES_BACK = 15, 8, 3_072
MOST_ON_A_LIST = 8


@contextmanager
def counted(connection: Connection) -> Iterator[list[str]]:
    """Statements sent, without the savepoints that the tests put round them."""
    seen: list[str] = []

    def note(_connection, _cursor, statement: str, *_rest: object) -> None:
        if not statement.startswith(("SAVEPOINT", "RELEASE", "ROLLBACK TO")):
            seen.append(statement)

    event.listen(connection, "before_cursor_execute", note)
    try:
        yield seen
    finally:
        event.remove(connection, "before_cursor_execute", note)


def brief(statements: list[str]) -> str:
    """What was asked, a line each."""
    return "\n".join(" ".join(s.split("FROM", 1)[-1].split())[:110] for s in statements)


@pytest.fixture
def large(session: Session) -> tuple[Trial, Person]:
    """600 units of four arms, stuck, the endpoint check open and half scored."""
    actor = create_person(session)
    trial = create_trial(session, actor)
    values = design_form(
        trial, cuttings_per_arm=150, layout=LayoutKind.COMPLETE_BLOCKS.value, blocks=10, container=Container(rows=6, columns=10)
    )  # fmt: skip
    design.save_design(session, trial, actor, LOCKED, trial.version, values)
    design.draw(session, trial, actor, LOCKED, 7)
    locking.lock_plan(session, trial, actor, LOCKED)
    stick_all(session, trial, actor)
    check = checks_of(session, trial)[-1]
    score.open_check(session, check, actor, NOW, score.Looking(TODAY, KnownBy.LIFTED.value), TODAY)
    for unit in trial.units[:300]:
        keep_plainly(session, check, unit.cuttings[0].id, actor, unit.arm.letter in "AB")
    session.commit()
    return trial, actor


def keep_plainly(session: Session, check: CheckVisit, cutting: int, actor: Person, rooted: bool) -> None:
    """A score as a row, without the operation: 600 are many."""
    session.execute(
        insert(ScoreRecord).values(
            trial_id=check.trial_id, check_id=check.id, cutting_id=cutting, state="alive", roots="counted" if rooted else "none",
            root_number=4 if rooted else None, fit="not judged", known_by="lifted and counted", scored_on=check.day, blind=True, at=NOW,
            person_id=actor.id,
        )
    )  # fmt: skip


def fresh(session: Session) -> None:
    session.commit()
    session.expunge_all()


def test_pages_of_600_units_ask_few_times(connection: Connection, session: Session, large, sign_in) -> None:
    trial, _ = large
    client: FlaskClient = sign_in()
    trial_id, check = trial.id, checks_of(session, trial)[-1]
    allowed = dict.fromkeys(("score", f"score?check={check.id}", "design", "compare"), MOST_ON_A_PAGE)
    allowed |= dict.fromkeys(("stick", "prepare", "question"), MOST_ON_A_PAGE + 1)
    allowed |= {
        "tend": MOST_ON_A_PAGE + 6
    }  # has tables of its own: notes, what loggers read, what was read by hand, minutes
    for page, most in allowed.items():
        fresh(session)
        with counted(connection) as seen:
            assert client.get(f"/trials/{trial_id}/{page}").status_code == 200
        assert len(seen) <= most, (page, len(seen), brief(seen))


def test_compare_of_600_units_asks_few_times(connection: Connection, session: Session, large, sign_in) -> None:
    trial, actor = large
    check = checks_of(session, trial)[-1]
    for unit in trial.units[300:]:
        keep_plainly(session, check, unit.cuttings[0].id, actor, unit.arm.letter in "AB")
    score.close_check(session, check, actor, NOW)
    client, trial_id = sign_in(), trial.id
    assert client.get(f"/trials/{trial_id}/compare").status_code == 200
    for page in ("compare", "conclude", "compare/more"):
        fresh(session)
        memory._kept.clear()
        with counted(connection) as seen:
            assert client.get(f"/trials/{trial_id}/{page}").status_code == 200
        assert len(seen) <= MOST_ON_A_PAGE, (page, len(seen), brief(seen))


def test_a_score_asks_eight_times_and_brings_three_kilobytes(
    connection: Connection, session: Session, large, sign_in
) -> None:
    trial, _ = large
    check_id = checks_of(session, trial)[-1].id
    cutting = trial.units[310].cuttings[0].id
    tray = trial.units[310].place.tray.number
    client = sign_in("scorer")
    form = {
        "cutting": cutting, "revision": 0, "state": "alive", "roots": "counted", "root_number": "5", "longest_root_mm": "22", "top": "growing",
        "tray_shown": tray, "request_key": "k1",
    }  # fmt: skip
    assert client.get(f"/trials/{trial.id}/score").status_code == 200, "the pad comes before what is kept on it"
    fresh(session)
    with counted(connection) as seen:
        answer = client.post(f"/checks/{check_id}/scores", data=form, headers={"HX-Request": "true"})
    assert answer.status_code == 200 and "5 roots, 22 mm" in answer.text and answer.headers["HX-Trigger"] == "kept"
    assert "HX-Retarget" not in answer.headers, "the bench was drawn anew"
    assert len(answer.data) <= MOST_BYTES_BACK, answer.text
    assert len(seen) <= MOST_FOR_A_SCORE, (len(seen), brief(seen))


def test_a_score_that_brings_the_whole_bench_says_that_it_is_kept_too(session: Session, large, sign_in) -> None:
    """On a device that gives a push for each score the first of a tray counts like any other."""
    trial, _ = large
    check_id, cutting = checks_of(session, trial)[-1].id, trial.units[311].cuttings[0].id
    form = {
        "cutting": cutting,
        "revision": 0,
        "state": "alive",
        "roots": "none",
        "top": "fresh",
        "tray_shown": "99",
        "request_key": "k2",
    }
    answer = sign_in("scorer").post(f"/checks/{check_id}/scores", data=form, headers={"HX-Request": "true"})
    assert answer.headers["HX-Retarget"] == "#bench" and answer.headers["HX-Trigger"] == "kept"


def test_lists_of_sixty_trials_ask_no_more_than_those_of_three(
    connection: Connection, session: Session, sign_in
) -> None:
    actor, scorer = create_person(session), create_person(session, "scorer")
    for _ in range(2):
        create_finished(session, actor, scorer)
    create_stuck(session, actor)
    client: FlaskClient = sign_in()
    asked: dict[str, list[int]] = {"trials": [], "today": []}
    for more in (0, 57):
        for _ in range(more):
            question.create_trial(session, actor, NOW, "Olea europaea")
        for page, counts in asked.items():
            fresh(session)
            with counted(connection) as seen:
                assert client.get(f"/{page}").status_code == 200
            assert len(seen) <= MOST_ON_A_LIST, (page, len(seen), brief(seen))
            counts.append(len(seen))
    assert all(few == many for few, many in asked.values()), asked
    first, last = client.get("/trials").text, client.get("/trials?page=2").text
    assert first.count('/question"') == 50 and last.count('/question"') == 10 and "page 1 of 2, 60 trials" in first
    assert client.get("/trials?page=99").text.count('/question"') == 50, "behind the last page stands the first"
