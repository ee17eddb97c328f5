"""A large logger's file is read beside the page: how far it is, stopped, refused, read again; all of it or nothing."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime, timedelta
from functools import partial

import pytest
from sqlalchemy import Connection, select
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from orderly_bench.demo.logger import readings_csv
from orderly_bench.trial import intake
from orderly_bench.trial.models import ConditionLog, IntakeState, LogIntake, Trial
from tests.factories import DAY_ZERO, NOW, create_person, create_stuck
from tests.web.conftest import SignIn, flat
from tests.web.test_lived import send

DATA = readings_csv(DAY_ZERO, 20, 1)


@pytest.fixture
def trial(session: Session) -> Trial:
    made = create_stuck(session, create_person(session), cuttings_per_arm="4")
    session.commit()
    return made


@pytest.fixture(autouse=True)
def everything_is_large(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(intake, "BESIDE_FROM_BYTES", 100)
    monkeypatch.setattr("orderly_bench.formats.log_csv.TICK_ROWS", 50)


def sent_in(session: Session) -> LogIntake:
    session.expire_all()
    return session.scalars(select(LogIntake)).one()


def kept(session: Session) -> list[ConditionLog]:
    return list(session.scalars(select(ConditionLog)))


def test_it_is_read_when_its_page_is_looked_at_and_the_file_is_let_go(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    client = sign_in("scorer")
    assert send(client, trial, DATA) == 303 and not kept(session)
    one = sent_in(session)
    page = flat(client.get(f"/trials/{trial.id}/logs/{one.id}").text)
    assert "All 480 rows are read and summed up by day." in page and "hx-trigger" not in page
    (log,) = kept(session)
    one = sent_in(session)
    assert (one.state, one.rows_done, one.rows_all, one.data) == (IntakeState.KEPT, 480, 480, b"")
    assert (log.report["rows"], len(log.units), log.person_id) == (480, len(trial.units), one.person_id)
    assert "480 readings" in flat(client.get(f"/trials/{trial.id}/tend").text)
    stopped = client.post(f"/trials/{trial.id}/logs/{one.id}/stop")
    assert stopped.status_code == 422 and "read already" in stopped.text and kept(session)


def test_what_cannot_be_read_says_where_and_keeps_nothing(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, lines = sign_in("scorer"), DATA.splitlines()
    lines[400] = lines[400].rsplit(b",", 3)[0] + b",warm,60,100"
    send(client, trial, b"\n".join(lines))
    page = flat(client.get(f"/trials/{trial.id}/logs/{sent_in(session).id}").text)
    assert "401" in page and "warm" in page and "Nothing of it was kept." in page
    assert not kept(session) and sent_in(session).state == IntakeState.REFUSED


def test_stopped_before_it_began_nothing_is_read(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client = sign_in("scorer")
    send(client, trial, DATA)
    at = f"/trials/{trial.id}/logs/{sent_in(session).id}"
    assert sign_in("reader").post(f"{at}/stop").status_code == 403
    assert client.post(f"{at}/stop").status_code == 303
    assert "Stopped; nothing of it was kept." in flat(client.get(at).text) and not kept(session)


def begun(session: Session, sign_in: SignIn, trial: Trial) -> int:
    send(sign_in("scorer"), trial, DATA)
    return sent_in(session).id


@pytest.mark.parametrize("after", [2, 5, 12])
def test_stopped_in_the_midst_nothing_is_kept(
    session: Session, connection: Connection, sign_in: SignIn, trial: Trial, after: int
) -> None:
    """The clock is asked once for each report; the twelfth comes after the last row, before it is written."""
    number, asked = begun(session, sign_in, trial), iter(range(100))

    def clock() -> datetime:
        if next(asked) == after:
            with Session(connection, join_transaction_mode="create_savepoint") as own:
                intake.stop(own, own.get_one(LogIntake, number))
                own.commit()
        return NOW

    intake.read_in(partial(Session, connection, join_transaction_mode="create_savepoint"), number, clock)
    # On the one connection of a test what was stopped is rolled back with what was read; the walk in the browser sees it stay.
    assert sent_in(session).state == IntakeState.READING and not kept(session)


def test_one_that_nobody_reads_any_more_is_read_again_and_one_that_is_read_is_left_alone(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    client, number = sign_in("reader"), begun(session, sign_in, trial)
    one = sent_in(session)
    one.state, one.rows_done, one.rows_all, one.beat_at = (
        IntakeState.READING.value,
        150,
        480,
        NOW - timedelta(seconds=5),
    )
    session.commit()
    page = flat(client.get(f"/trials/{trial.id}/logs/{number}").text)
    assert "150 of 480 rows read" in page and 'value="150" max="480"' in page and not kept(session)
    sent_in(session).beat_at = NOW - timedelta(minutes=2)
    session.commit()
    assert "All 480 rows" in flat(client.get(f"/trials/{trial.id}/logs/{number}").text) and len(kept(session)) == 1


@pytest.fixture
def collides_once(monkeypatch: pytest.MonkeyPatch) -> Iterator[list[int]]:
    really, times = intake.keep_log, []

    def once(*given: object) -> object:
        times.append(1)
        if len(times) == 1:
            raise OperationalError("update", {}, Exception(1213, "Deadlock found"))
        return really(*given)

    monkeypatch.setattr(intake, "keep_log", once)
    yield times


def test_what_collides_with_another_change_is_tried_again(
    session: Session, connection: Connection, sign_in: SignIn, trial: Trial, collides_once: list[int]
) -> None:
    number = begun(session, sign_in, trial)
    intake.read_in(partial(Session, connection, join_transaction_mode="create_savepoint"), number, lambda: NOW)
    assert len(collides_once) == 2 and len(kept(session)) == 1


def test_a_fault_is_told_without_its_words(
    session: Session, connection: Connection, sign_in: SignIn, trial: Trial, monkeypatch: pytest.MonkeyPatch
) -> None:
    number = begun(session, sign_in, trial)
    monkeypatch.setattr(intake, "keep_log", lambda *_: 1 / 0)
    intake.read_in(partial(Session, connection, join_transaction_mode="create_savepoint"), number, lambda: NOW)
    assert sent_in(session).told == "Something went wrong while it was read; nothing was kept. Send it again."


def test_it_is_its_trials_alone(session: Session, sign_in: SignIn, trial: Trial) -> None:
    number = begun(session, sign_in, trial)
    other = create_stuck(session, create_person(session), cuttings_per_arm="4")
    session.commit()
    assert sign_in().get(f"/trials/{other.id}/logs/{number}").status_code == 404
    assert sign_in().post(f"/trials/{other.id}/logs/{number}/stop").status_code == 404
    assert sent_in(session).state == IntakeState.WAITING


def test_what_can_be_told_at_once_is_told_at_once(session: Session, sign_in: SignIn, trial: Trial) -> None:
    assert send(sign_in("scorer"), trial, DATA, zone="x" * 61) == 422
    assert session.scalars(select(LogIntake)).first() is None
