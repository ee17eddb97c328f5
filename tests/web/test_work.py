"""Slow results are kept by what they rest on, survive a restart, and are never read unsigned or stale."""

from __future__ import annotations

import re
import time
from dataclasses import replace
from pathlib import Path

import pytest
from flask import Flask
from sqlalchemy import Connection, Engine, select, text, update
from sqlalchemy.orm import Session

from orderly_bench.chapters.score import operations as score
from orderly_bench.database.engine import make_engine
from orderly_bench.database.migrate import migrate
from orderly_bench.evidence import memory
from orderly_bench.evidence.results import Results
from orderly_bench.record.code import digest_of_code
from orderly_bench.record.keep import keep, kept, stamp_of
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import Lab, Person, Trial, WorkedOut
from orderly_bench.web import work
from tests.conftest import database_url, emptied
from tests.factories import (
    BARE,
    NOW,
    ROOTED,
    create_finished,
    create_person,
    create_stuck,
    create_trial,
    open_endpoint,
    score_all,
)
from tests.web.conftest import SignIn, make_app


@pytest.fixture
def finished(session: Session) -> Trial:
    memory._kept.clear()
    return create_finished(session, create_person(session), create_person(session, "scorer"))


def shown(page: str) -> str:
    """A page without its form tokens, which carry the second they were made in."""
    return re.sub(r'name="csrf_token" value="[^"]+"|"X-CSRFToken": "[^"]+"', "", page)


def test_what_is_kept_is_read_after_a_restart(session: Session, finished: Trial, sign_in: SignIn) -> None:
    client = sign_in()
    first = shown(client.get(f"/trials/{finished.id}/compare").text)
    row = session.scalars(select(WorkedOut)).one()
    assert (row.trial_id, row.day) == (finished.id, 0)
    memory._kept.clear()
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(work, "work_out", lambda *_: pytest.fail("worked out again"))
        assert shown(client.get(f"/trials/{finished.id}/compare").text) == first


def test_earlier_trials_say_how_alike_cuttings_of_one_pot_are(
    session: Session, finished: Trial, sign_in: SignIn
) -> None:
    """The guess is the mean of the same plant's trials by their degrees of freedom; of other plants only where there is none."""
    client = sign_in()
    work_of = []
    for name, icc, df in (
        ("Lavandula angustifolia", 0.1, 30),
        ("Lavandula angustifolia", 0.3, 10),
        ("Olea europaea", 0.8, 90),
    ):
        other = create_trial(session, session.scalars(select(Person)).first())
        question = replace(other.plan.question, botanical_name=name)
        other.keep_plan(replace(other.plan, question=question))
        work_of.append(WorkedOut(trial_id=other.id, day=0, stamp="x", at=NOW, signed=b"", icc=icc, icc_df=df))
    session.add_all(work_of)
    trial = create_trial(session, session.scalars(select(Person)).first())
    trial.keep_plan(replace(trial.plan, design=replace(trial.plan.design, cuttings_per_unit=2)))
    session.commit()
    page = client.get(f"/trials/{trial.id}/design").text
    assert (
        "0.15 from 2 own trials of Lavandula angustifolia (0.10, 0.30)" in page
        and 'name="assumed_icc" value="0.15"' in page
    )
    trial.keep_plan(replace(trial.plan, question=replace(trial.plan.question, botanical_name="Buxus sempervirens")))
    session.commit()
    assert "0.60 from 3 own trials of other plants" in client.get(f"/trials/{trial.id}/design").text
    trial.keep_plan(replace(trial.plan, design=replace(trial.plan.design, cuttings_per_unit=1)))
    session.commit()
    assert "own trials" not in client.get(f"/trials/{trial.id}/design").text


def test_what_closes_or_corrects_is_worked_out_before_anyone_reads_it(
    session: Session, sign_in: SignIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    lead, asked = create_person(session), []
    trial = create_stuck(session, lead)
    check = open_endpoint(session, trial, lead)
    score_all(session, trial, check, create_person(session, "scorer"))
    session.commit()
    monkeypatch.setattr(work, "ask", lambda of: asked.append(of.id))
    client = sign_in()
    form = {
        "cutting": trial.units[0].cuttings[0].id,
        "revision": 1,
        "state": "alive",
        "roots": "none",
        "reason": "looked again",
    }
    assert client.post(f"/checks/{check.id}/scores", data=form).status_code == 303 and not asked, "the check is open"
    assert client.post(f"/checks/{check.id}/close").status_code == 303 and asked == [trial.id]
    again = form | {"cutting": trial.units[1].cuttings[0].id}
    assert client.post(f"/checks/{check.id}/scores", data=again).status_code == 303 and asked == [trial.id] * 2


def test_pots_leave_their_likeness_behind(session: Session, sign_in: SignIn) -> None:
    memory._kept.clear()
    lead, scorer = create_person(session), create_person(session, "scorer")
    trial = create_stuck(session, lead, cuttings_per_arm=12, cuttings_per_unit=3, layout="completely randomised")
    check = open_endpoint(session, trial, lead)
    for u, unit in enumerate(trial.units):
        for n, cutting in enumerate(unit.cuttings):
            score.keep_score(session, check, cutting, scorer, NOW, ROOTED if n <= u % 4 else BARE)
    score.close_check(session, check, lead, NOW)
    sign_in().get(f"/trials/{trial.id}/compare")
    row = session.scalars(select(WorkedOut)).one()
    assert row.icc is not None and row.icc_df == 12


def test_what_it_rests_on_changes_the_stamp(session: Session, finished: Trial, monkeypatch: pytest.MonkeyPatch) -> None:
    stamps = [stamp_of(session, finished)]
    researcher = create_person(session)
    check = checks_of(session, finished)[-1]
    score.keep_score(
        session,
        check,
        finished.units[0].cuttings[0],
        researcher,
        NOW,
        BARE,
        score.Sent(seen_revision=1, reason="looked again"),
    )
    stamps.append(stamp_of(session, finished))
    session.scalars(select(Lab)).one().time_zone = "Pacific/Auckland"
    session.flush()
    stamps.append(stamp_of(session, finished))
    monkeypatch.setattr("orderly_bench.record.keep.code_digest", lambda: "other code")
    stamps.append(stamp_of(session, finished))
    monkeypatch.undo()
    assert len(set(stamps)) == 4
    assert stamp_of(session, finished) == stamps[2]


def test_a_correction_after_the_close_is_seen_at_once(session: Session, finished: Trial, sign_in: SignIn) -> None:
    client = sign_in()
    assert "8 of 8 (100 %) against 0 of 8" in client.get(f"/trials/{finished.id}/compare").text
    check = checks_of(session, finished)[-1]
    unit = next(unit for unit in finished.units if unit.arm.letter == "A")
    form = {
        "cutting": unit.cuttings[0].id,
        "revision": 1,
        "state": "alive",
        "roots": "none",
        "reason": "a straw, no root",
    }
    assert client.post(f"/checks/{check.id}/scores", data=form).status_code == 303
    assert "7 of 8 (88 %) against 0 of 8" in client.get(f"/trials/{finished.id}/compare").text


def test_results_that_someone_put_there_are_not_read(session: Session, finished: Trial) -> None:
    stamp = stamp_of(session, finished)
    keep(session, finished, 0, stamp, {"kept": 1}, "the secret", NOW)
    assert kept(session, finished, 0, stamp, "the secret") == {"kept": 1}
    assert kept(session, finished, 0, stamp, "another secret") is None
    assert kept(session, finished, 0, "another stamp", "the secret") is None
    signed = session.scalars(select(WorkedOut.signed)).one()
    session.execute(update(WorkedOut).values(signed=signed[:-1] + bytes([signed[-1] ^ 1])))
    assert kept(session, finished, 0, stamp, "the secret") is None


def test_a_reader_waits_for_nothing_and_is_told(session: Session, finished: Trial, connection: Connection) -> None:
    app: Flask = make_app(connection, WORK="nobody works here")
    asked: list[tuple[int, int]] = []
    app.extensions["worker"] = type("Listener", (), {"ask": lambda _self, task: asked.append(task)})()
    person = create_person(session)
    session.commit()
    from tests.web.conftest import client_of

    client = client_of(app, person)
    for page in ("compare", "compare/more", "conclude"):
        answer = client.get(f"/trials/{finished.id}/{page}")
        assert answer.status_code == 200 and "Being worked out" in answer.text
    for file in ("report", "report.pdf", "package.zip", "figures/rates.svg"):
        answer = client.get(f"/trials/{finished.id}/{file}")
        assert (answer.status_code, answer.headers["Refresh"]) == (202, "1") and "hx-get" not in answer.text
    assert set(asked) == {(finished.id, 0, "en")}
    with app.test_request_context():
        work.write(session, finished, 0)
    session.commit()
    answer = client.get(f"/trials/{finished.id}/report")
    assert answer.status_code == 200 and "Refresh" not in answer.headers


@pytest.fixture
def lab_of_its_own() -> Engine:
    engine = emptied(make_engine(database_url("orderly_work")))
    migrate(engine)
    with Session(engine) as session:
        session.add(Lab(name="Test lab", time_zone="Europe/London"))
        session.flush()
        create_finished(session, create_person(session), create_person(session, "scorer"))
        session.commit()
    yield engine
    engine.dispose()


def test_the_worker_begins_with_what_a_restart_lost(lab_of_its_own: Engine) -> None:
    app = make_app(lab_of_its_own, WORK="in the background")  # type: ignore[arg-type]
    with Session(lab_of_its_own) as session, app.app_context():
        trial = session.scalars(select(Trial)).one()
        for _ in range(400):
            session.rollback()
            found = work.read(session, trial, 0)
            if found is not None:
                break
            time.sleep(0.05)
        assert isinstance(found, Results) and found.found.analysis is not None
        assert found.answers and found.lenses
        assert session.scalar(text("select count(*) from worked_out")) == 1


def test_what_other_code_kept_is_worked_out_anew(
    session: Session, finished: Trial, sign_in: SignIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    """An upgraded lab shows no stale verdict, whatever form it was kept in."""
    monkeypatch.setattr("orderly_bench.record.keep.code_digest", lambda: "yesterday's code")
    keep(session, finished, 0, stamp_of(session, finished), {"headline": "of yesterday"}, "any secret", NOW)
    monkeypatch.undo()
    session.commit()
    page = sign_in().get(f"/trials/{finished.id}/compare").text
    assert "8 of 8 (100 %) against 0 of 8" in page and "of yesterday" not in page


def test_the_digest_of_the_code_changes_with_any_source_that_decides(tmp_path: Path) -> None:
    for folder in ("core/methods", "record", "web"):
        (tmp_path / folder).mkdir(parents=True)
    rule = tmp_path / "core" / "methods" / "rule.py"
    rule.write_text("ALPHA = 0.05\n")
    first = digest_of_code(tmp_path)
    (tmp_path / "web" / "page.py").write_text("x = 1\n")
    assert digest_of_code(tmp_path) == first
    rule.write_text("ALPHA = 0.10\n")
    second = digest_of_code(tmp_path)
    rule.rename(rule.with_name("other.py"))
    assert len({first, second, digest_of_code(tmp_path)}) == 3
