"""Sticking, days, incidents as operations."""

from __future__ import annotations

from datetime import timedelta

import pytest
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from orderly_bench.chapters.stick import operations as stick
from orderly_bench.chapters.tend import operations as tend
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.tend.schedule import DueState
from orderly_bench.web.due import due_lines
from tests.factories import DAY_ZERO, NOW, TODAY, add_lot, create_locked, create_person, create_stuck, open_endpoint


def test_a_tray_confirmed_twice_is_as_once_and_exceptions_stay(session: Session) -> None:
    actor = create_person(session, "scorer")
    trial = create_locked(session, create_person(session))
    add_lot(session, trial, actor, DAY_ZERO, held="bag")
    broke = trial.units[3].cuttings[0]
    stick.set_cutting(session, trial, actor, NOW, broke, "broke")
    assert stick.confirm_tray(session, trial, actor, NOW, 1) == 7
    assert stick.confirm_tray(session, trial, actor, NOW, 1) == 0
    assert broke.status == "not stuck" and broke.lot_id is None


def test_a_count_is_held_against_the_places_of_the_tray(session: Session) -> None:
    actor = create_person(session, "scorer")
    trial = create_locked(session, create_person(session))
    add_lot(session, trial, actor, DAY_ZERO, held="bag")
    with pytest.raises(InvalidInput, match=r"hold 8.*begun as a group beside"):
        stick.confirm_tray(session, trial, actor, NOW, 1, counted=9)
    stick.set_cutting(session, trial, actor, NOW, trial.units[3].cuttings[0], "broke")
    with pytest.raises(InvalidInput, match=r"less 1 not stuck: 7.*note by code what was not stuck"):
        stick.confirm_tray(session, trial, actor, NOW, 1, counted=6)
    assert all(cutting.status != "stuck" for unit in trial.units for cutting in unit.cuttings), "nothing half done"
    assert stick.confirm_tray(session, trial, actor, NOW, 1, counted=7) == 7


def test_sticking_without_day_zero_or_lock_is_refused(session: Session) -> None:
    from tests.factories import create_drawn

    actor = create_person(session)
    with pytest.raises(Refused, match="Set the sticking day first"):
        stick.confirm_tray(session, create_locked(session, actor), actor, NOW, 1)
    with pytest.raises(Refused, match="Lock the plan"):
        add_lot(session, create_drawn(session, actor), actor, DAY_ZERO)


def test_sticking_in_the_future_is_refused(session: Session) -> None:
    actor = create_person(session)
    with pytest.raises(InvalidInput, match="future"):
        add_lot(session, create_locked(session, actor), actor, TODAY + timedelta(days=1))


def test_an_approximate_day_is_kept_as_a_range(session: Session) -> None:
    actor = create_person(session)
    lot = add_lot(session, create_locked(session, actor), actor, DAY_ZERO, approximate=True)
    assert (lot.day_zero_last - lot.day_zero_first).days == 4
    assert lot.day_zero.middle == DAY_ZERO


def test_finishing_names_the_trays_left(session: Session) -> None:
    actor = create_person(session)
    trial = create_locked(session, actor)
    add_lot(session, trial, actor, DAY_ZERO)
    stick.confirm_tray(session, trial, actor, NOW, 1)
    with pytest.raises(Refused, match=r"8 planned cuttings .*tray 2"):
        stick.finish_sticking(session, trial, actor, NOW)


def test_after_the_first_check_what_was_stuck_stands(session: Session) -> None:
    actor = create_person(session)
    trial = create_stuck(session, actor)
    open_endpoint(session, trial, actor)
    with pytest.raises(Refused, match="what was stuck stands"):
        stick.set_cutting(session, trial, actor, NOW, trial.units[0].cuttings[0], "broke")


def test_the_database_guards_stuck_without_a_lot(session: Session) -> None:
    trial = create_locked(session, create_person(session))
    with pytest.raises(DBAPIError, match="stuck_has_lot"):
        session.execute(text("UPDATE cutting SET status = 'stuck' WHERE unit_id = :u"), {"u": trial.units[0].id})


def test_due_lines_by_day(session: Session) -> None:
    trial = create_stuck(session, create_person(session))
    lines = due_lines(session, trial, TODAY)
    states = {line.what: line.state for line in lines}
    assert states["Endpoint check, day 42"] is DueState.DUE
    assert states["Check, day 14"] is DueState.OVERDUE
    assert states["Mist, day 35"] is DueState.OVERDUE
    earlier = {line.what: line.state for line in due_lines(session, trial, DAY_ZERO + timedelta(days=13))}
    assert earlier["Check, day 14"] is DueState.DUE and earlier["Endpoint check, day 42"] is DueState.LATER


def test_a_job_done_twice_keeps_the_first(session: Session) -> None:
    actor, other = create_person(session), create_person(session, "scorer")
    job = tend.jobs_of(session, create_stuck(session, actor))[0]
    tend.set_done(session, job, actor, NOW, True)
    tend.set_done(session, job, other, NOW + timedelta(hours=1), True)
    assert job.done_by_id == actor.id and job.done_at == NOW
    tend.set_done(session, job, other, NOW, False)
    assert job.done_at is None


def _incident(session: Session, trial, actor, **changes: object):
    values: dict = dict(
        kind="heat", first_day=DAY_ZERO, last_day=TODAY, codes=[trial.units[0].code], note="", today=TODAY
    )
    values.update(changes)
    today, key = values.pop("today"), values.pop("request_key", None)
    return tend.record_incident(session, trial, actor, NOW, tend.Happened(**values), today, key)


def test_an_incident_keeps_its_units_and_a_double_click_keeps_one(session: Session) -> None:
    actor = create_person(session)
    trial = create_stuck(session, actor)
    first = _incident(session, trial, actor, request_key="k1")
    assert _incident(session, trial, actor, request_key="k1") is first
    assert [unit.code for unit in first.units] == [trial.units[0].code]
    assert len(tend.incidents_of(session, trial)) == 1


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        ({"kind": "ghosts"}, "kind of incident"),
        ({"first_day": TODAY, "last_day": DAY_ZERO}, "before the first day"),
        ({"first_day": DAY_ZERO - timedelta(days=1)}, "before sticking"),
        ({"last_day": TODAY + timedelta(days=1)}, "future"),
        ({"codes": []}, "choose the trays"),
        ({"note": "x" * 501}, "within 500"),
    ],
)
def test_bad_incidents_are_refused(session: Session, changes: dict, message: str) -> None:
    actor = create_person(session)
    with pytest.raises(InvalidInput, match=message):
        _incident(session, create_stuck(session, actor), actor, **changes)
