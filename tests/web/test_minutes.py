"""Minutes that sticking, checks and care jobs keep by themselves, and putting them right."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score.operations import close_check, keep_score
from orderly_bench.chapters.stick.operations import set_cutting
from orderly_bench.chapters.tend.operations import jobs_of, set_done
from orderly_bench.core.conclude.time_spent import off_the_marks
from orderly_bench.trial.models import TimeSpent
from tests.factories import (
    FACTORS,
    NOW,
    ROOTED,
    TODAY,
    add_lot,
    create_locked,
    create_person,
    create_stuck,
    open_endpoint,
)
from tests.web.conftest import SignIn, flat

NINE = datetime(2026, 5, 12, 9, 0, tzinfo=UTC)


def _at(*minutes: float) -> list[datetime]:
    return [NINE + timedelta(minutes=m) for m in minutes]


def test_read_off_the_marks() -> None:
    assert off_the_marks(_at(0, 2, 4)) == 6, "two steps, and the first piece the usual one"
    assert off_the_marks(_at(4, 0, 2)) == 6, "whatever their order"
    assert off_the_marks(_at(0, 2, 60, 62)) == 6, "a stop of an hour is no work"
    assert off_the_marks(_at(0, 10)) == 20 and off_the_marks(_at(0, 10.1)) is None
    assert off_the_marks(_at(0, 0.01, 0.012, 0.014)) is None, "sent together from a device"
    assert off_the_marks(_at(3, 3, 3)) is None and off_the_marks([]) is None, "a whole tray with one touch says nothing"


def test_sticking_piece_by_piece_keeps_its_minutes(session: Session, sign_in: SignIn) -> None:
    person = create_person(session)
    trial = create_locked(session, person)
    lot = add_lot(session, trial, person)
    pieces = [unit.cuttings[0] for unit in trial.units]
    for cutting, at in zip(pieces, _at(0, 3, 6), strict=False):
        set_cutting(session, trial, person, at, cutting, "", lot)
    (kept,) = session.scalars(select(TimeSpent))
    assert (kept.work, kept.minutes, kept.day, kept.arms) == ("sticking", 9, lot.day_zero_first, "")
    session.commit()
    client, page = sign_in("researcher"), f"/trials/{trial.id}"
    shown = flat(client.get(f"{page}/tend").text)
    assert "9 min" in shown and "read off the moments" in shown
    right = {"minutes_id": str(kept.id), "right_minutes": "15,5", "right_why": "the lot was fetched first"}
    for wrong in ({"right_minutes": "0"}, {"right_why": ""}, {"minutes_id": "99999"}):
        assert client.post(f"{page}/minutes/right", data=right | wrong).status_code in (404, 422), wrong
    assert client.post(f"{page}/minutes/right", data=right).status_code == 303
    session.expire_all()
    assert (kept.minutes, kept.put_right) == (15.5, "the lot was fetched first")
    assert client.post(f"{page}/minutes/right", data=right | {"right_for": ["Q"]}).status_code == 422
    assert client.post(f"{page}/minutes/right", data=right | {"right_for": ["B", "A"]}).status_code == 303
    session.expire_all()
    assert kept.arms == "A,B", "of two of the arms alone"
    shown = flat(client.get(f"{page}/tend").text)
    assert "15.5 min" in shown and "put right: the lot was fetched first" in shown and "read off" not in shown
    set_cutting(session, trial, person, _at(9)[0], pieces[3], "", lot)
    assert kept.minutes == 15.5, "what a person put right is not read anew"
    session.commit()
    gone = {"minutes_id": str(kept.id), "minutes_why": "of another trial"}
    assert client.post(f"{page}/minutes/withdraw", data=gone).status_code == 303
    assert client.post(f"{page}/minutes/right", data=right).status_code == 422, "withdrawn is withdrawn"


def test_a_check_keeps_the_minutes_of_each_scorer(session: Session) -> None:
    person, scorer = create_person(session), create_person(session, "scorer")
    trial = create_stuck(session, person, factors=[FACTORS[0]], cuttings_per_arm=6)
    check = open_endpoint(session, trial, person)
    for n, unit in enumerate(trial.units):
        by, at = (scorer, NOW + timedelta(seconds=12 * n)) if n else (person, NOW)
        keep_score(session, check, unit.cuttings[0], by, at, ROOTED)
    close_check(session, check, person, NOW + timedelta(hours=1))
    (kept,) = session.scalars(select(TimeSpent))
    assert kept.work == "a check" and kept.minutes == round((len(trial.units) - 1) * 0.2, 1)
    assert kept.person_id == scorer.id and kept.day == TODAY, "one piece alone says nothing"


def test_how_long_a_job_took(session: Session, sign_in: SignIn) -> None:
    person = create_person(session)
    trial = create_stuck(session, person)
    job = jobs_of(session, trial)[0]
    session.commit()
    client = sign_in("scorer")
    assert client.post(f"/jobs/{job.id}/minutes", data={"job_minutes": "20"}).status_code == 422, "not done yet"
    set_done(session, job, person, NINE, True, TODAY)
    session.commit()
    answered = client.post(f"/jobs/{job.id}", data={"done": "yes"}, headers={"HX-Request": "true"}).text
    assert f"/jobs/{job.id}/minutes" in answered
    for minutes in ("20", "25"):
        assert client.post(f"/jobs/{job.id}/minutes", data={"job_minutes": minutes}).status_code == 303
    (kept,) = session.scalars(select(TimeSpent))
    assert (kept.work, kept.minutes, kept.day, kept.arms) == ("care", 25, TODAY, job.arms)
    assert client.post(f"/jobs/{job.id}/minutes", data={"job_minutes": "-3"}).status_code == 422


def test_what_waited_on_a_device_is_done_on_its_own_day(session: Session, sign_in: SignIn) -> None:
    trial = create_stuck(session, create_person(session))
    jobs = jobs_of(session, trial)
    session.commit()
    client = sign_in("scorer")
    days = {
        "yesterday": TODAY - timedelta(days=1),
        "to come": TODAY + timedelta(days=1),
        "long ago": TODAY - timedelta(days=40),
    }
    for job, (_, day) in zip(jobs, days.items(), strict=False):
        assert client.post(f"/jobs/{job.id}", data={"noted_on": day.isoformat()}).status_code == 303
    session.expire_all()
    assert [job.done_on for job in jobs[:3]] == [days["yesterday"], TODAY, TODAY], "a clock that is off is not believed"
    assert client.post(f"/jobs/{jobs[3].id}", data={"noted_on": "soon"}).status_code == 303
    session.expire_all()
    assert jobs[3].done_on == TODAY
