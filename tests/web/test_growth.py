"""What a page does grows with the trial, not with its square: work is counted in calls, so that no clock decides."""

from __future__ import annotations

import cProfile
import pstats
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import timedelta

import pytest
from flask.testing import FlaskClient
from sqlalchemy import Connection
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.tend import operations as tend
from orderly_bench.core.plan.treatments import Container
from orderly_bench.core.tend.incidents import IncidentKind
from orderly_bench.core.vocabulary import LayoutKind
from orderly_bench.trial import notes
from orderly_bench.trial.models import CheckVisit, Person, Trial
from tests.factories import (
    DAY_ZERO,
    LOCKED,
    NOW,
    TODAY,
    create_person,
    create_trial,
    design_form,
    open_endpoint,
    score_all,
    stick_all,
)
from tests.web.conftest import SignIn
from tests.web.test_queries import counted

#: Units of an arm in three trials, each twice the one before.
SIZES = (10, 20, 40)
#: What the second doubling adds, as a multiple of what the first one added: 2 where work grows with the trial, 4 where with its square.
MOST_GROWTH = 2.3
#: So many calls more are no growth, but a cache that was filled.
NOTHING = 2_000
#: Made by a package whose work is none of ours, in the background, or no page of a trial with units.
LEFT_OUT = (".pdf", ".zip", "/figures/", "/photos")


@contextmanager
def called() -> Iterator[Callable[[], int]]:
    """How many functions are called meanwhile."""
    watch = cProfile.Profile()
    watch.enable()
    try:
        yield lambda: int(pstats.Stats(watch).total_calls)  # type: ignore[attr-defined]
    finally:
        watch.disable()


def locked(session: Session, actor: Person, per_arm: int) -> Trial:
    """Four arms in blocks of four, a tray for each twelve."""
    trial = create_trial(session, actor)
    values = design_form(
        trial, cuttings_per_arm=per_arm, layout=LayoutKind.COMPLETE_BLOCKS.value, blocks=per_arm, container=Container(rows=3, columns=4)
    )  # fmt: skip
    design.save_design(session, trial, actor, LOCKED, trial.version, values)
    design.draw(session, trial, actor, LOCKED, 7)
    locking.lock_plan(session, trial, actor, LOCKED)
    return trial


def pages_of(client: FlaskClient, trial: Trial, check: CheckVisit) -> dict[str, str]:
    """Every address of a trial and of its check that needs nothing else, by its rule."""
    rules = [r.rule for r in client.application.url_map.iter_rules() if "GET" in (r.methods or ())]
    at = {"/trials/<int:trial_id>": f"/trials/{trial.id}", "/checks/<int:check_id>": f"/checks/{check.id}"}
    found = {rule: rule.replace(one, path) for rule in rules for one, path in at.items() if rule.startswith(one)}
    return {
        rule: path for rule, path in sorted(found.items()) if "<" not in path and not any(p in rule for p in LEFT_OUT)
    }


@dataclass(frozen=True)
class Work:
    """What a page took: functions called, and questions to the database."""

    calls: int
    queries: int


def work(session: Session, connection: Connection, client: FlaskClient, path: str) -> Work | None:
    """Of one page that is there, once it was made before."""
    if client.get(path).status_code != 200:
        return None
    session.expire_all()
    with counted(connection) as asked, called() as calls:
        assert client.get(path).status_code == 200
        return Work(calls(), len(asked))


def grown(
    session: Session, connection: Connection, client: FlaskClient, pages: list[dict[str, str]]
) -> tuple[int, list[str]]:
    """How many pages were seen, and which of them take more than the trial grew by."""
    seen, wrong = 0, list[str]()
    for rule in pages[0]:
        took = [work(session, connection, client, of[rule]) for of in pages]
        if None in took:
            continue
        seen += 1
        few, more, many = (one for one in took if one is not None)
        if many.calls - more.calls > MOST_GROWTH * (more.calls - few.calls) + NOTHING:
            wrong.append(f"{rule}: {few.calls}, {more.calls}, {many.calls} calls")
        if many.queries > more.queries:
            wrong.append(f"{rule}: {few.queries}, {more.queries}, {many.queries} questions")
    return seen, wrong


@pytest.fixture
def checks(session: Session) -> list[CheckVisit]:
    """The open endpoint checks of three trials, all scored."""
    actor = create_person(session)
    found = []
    for size in SIZES:
        trial = locked(session, actor, size)
        stick_all(session, trial, actor)
        check = open_endpoint(session, trial, actor)
        score_all(session, trial, check, actor)
        found.append(check)
    session.commit()
    return found


def test_work_grows_with_the_trial_and_questions_do_not(
    session: Session, connection: Connection, sign_in: SignIn, checks: list[CheckVisit]
) -> None:
    client = sign_in("lead")
    pages = [pages_of(client, session.get_one(Trial, check.trial_id), check) for check in checks]
    at_the_bench = grown(session, connection, client, pages)
    for check in checks:
        score.close_check(session, check, create_person(session), NOW)
    for seen, wrong in (at_the_bench, grown(session, connection, client, pages)):
        assert seen > 20
        assert not wrong, "\n".join(wrong)


@pytest.fixture
def lived(session: Session) -> list[CheckVisit]:
    """Three trials of one size; in each twice as many notes, incidents and changes of treatment as in the one before, and a check once more."""
    actor = create_person(session)
    found = []
    for size in SIZES:
        trial = locked(session, actor, 10)
        stick_all(session, trial, actor)
        for n in range(size // 2):
            day, who = DAY_ZERO + timedelta(days=n % 30), create_person(session)
            unit, others = trial.units[n], [u.code for u in trial.units[n : n + 30]]
            written = notes.Written(day, f"seen {n}", unit, False)
            notes.write_note(session, trial, who, NOW, written, TODAY, f"n{trial.id}-{n}")
            happened = tend.Happened(IncidentKind.MISSED_WATER.value, day, day, others, f"dry {n}")
            tend.record_incident(session, trial, who, NOW, happened, TODAY, f"i{trial.id}-{n}")
            given = next(arm.letter for arm in trial.arms if arm is not unit.arm)
            tend.record_treatment_change(session, trial, who, NOW, tend.Given(unit, given, day, f"why {n}"), TODAY)
        check = open_endpoint(session, trial, actor)
        score_all(session, trial, check, actor)
        score.close_check(session, check, actor, NOW)
        found.append(check)
    session.commit()
    return found


def test_work_grows_with_what_happened_to_a_trial(
    session: Session, connection: Connection, sign_in: SignIn, lived: list[CheckVisit]
) -> None:
    client = sign_in("lead")
    pages = [pages_of(client, session.get_one(Trial, check.trial_id), check) for check in lived]
    seen, wrong = grown(session, connection, client, pages)
    assert seen > 20
    assert not wrong, "\n".join(wrong)
