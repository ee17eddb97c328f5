"""What loggers read and what care was given: kept whole or not at all, by arm, and beside the result."""

from __future__ import annotations

import io
from datetime import timedelta

import pytest
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session
from werkzeug.datastructures import FileStorage
from werkzeug.test import encode_multipart

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.tend import operations as tend
from orderly_bench.core.plan.amendments import EndpointDay
from orderly_bench.demo.logger import readings_csv
from orderly_bench.record.gather import gather
from orderly_bench.record.lived import life_of
from orderly_bench.trial.amending import amend
from orderly_bench.trial.models import AuditEntry, ConditionLog, Job, Trial
from tests.factories import (
    BARE,
    DAY_ZERO,
    LOCKED,
    NOW,
    ROOTED,
    TODAY,
    create_person,
    create_stuck,
    create_trial,
    open_endpoint,
    save_design,
    stick_all,
)
from tests.web.conftest import SignIn, flat
from tests.web.test_without_verdict import ended


def send(client: FlaskClient, trial: Trial, data: bytes, **more: object) -> int:
    fields = {"low": "18", "high": "24", "zone": "bench", "log": FileStorage(io.BytesIO(data), "log.csv")} | more
    boundary, body = encode_multipart(fields)
    kind = f"multipart/form-data; boundary={boundary}"
    return client.post(f"/trials/{trial.id}/logs", data=body, content_type=kind).status_code


@pytest.fixture
def trial(session: Session) -> Trial:
    made = create_stuck(
        session, create_person(session), factors=[("medium", "medium", ["bark", "pumice"])], cuttings_per_arm="8"
    )
    session.commit()
    return made


def test_a_file_is_kept_once_summed_up_by_day_and_shown_by_arm(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, data = sign_in("researcher"), readings_csv(DAY_ZERO, 20, 1)
    assert send(client, trial, data) == 303 and send(client, trial, data) == 303
    (log,) = session.scalars(select(ConditionLog))
    assert (log.report["rows"], len(log.days), len(log.units)) == (480, 20, len(trial.units))
    page = flat(client.get(f"/trials/{trial.id}/tend").text)
    assert "480 readings for 16 units" in page and "Did the arms live alike?" in page
    lived = life_of(gather(session, trial)).by_arm
    assert {letter: one.air_days for letter, one in lived.items()} == {"A": 160, "B": 160}


def test_a_darker_corner_becomes_a_rival_on_every_page_and_goes_with_the_log(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    actor, client = create_person(session), sign_in("researcher")
    for letter, light in (("A", 240.0), ("B", 120.0)):
        data = readings_csv(DAY_ZERO, 42, 3, light=light)
        assert send(client, trial, data, zone=f"lamp {letter}") == 303
        session.expire_all()
        kept = session.scalars(select(ConditionLog).where(ConditionLog.zone == f"lamp {letter}")).one()
        # over one arm's own places, as a lamp would light them
        kept.units = [unit for unit in trial.units if unit.arm.letter == letter]
        session.commit()
    check = open_endpoint(session, trial, actor)
    for unit in trial.units:
        score.keep_score(session, check, unit.cuttings[0], actor, NOW, ROOTED if unit.arm.letter == "A" else BARE)
    score.close_check(session, check, actor, NOW)
    session.commit()
    for page in ("tend", "compare", "conclude", "report"):
        assert "B got 50 % less light than A" in flat(client.get(f"/trials/{trial.id}/{page}").text), page
    dark = session.scalars(select(ConditionLog).where(ConditionLog.zone == "lamp B")).one()
    where = f"/trials/{trial.id}/logs/withdraw"
    assert client.post(where, data={"log_id": dark.id, "withdrawn_why": ""}).status_code == 422
    assert (
        client.post(where, data={"log_id": dark.id, "withdrawn_why": "the sensor was under a leaf"}).status_code == 303
    )
    page = flat(client.get(f"/trials/{trial.id}/compare").text)
    assert "less light" not in page and "What B lived through is not known" in page
    assert "withdrew what a logger read" in set(session.scalars(select(AuditEntry.action)))


@pytest.mark.parametrize(
    ("data", "more", "told"),
    [
        (b"", {}, "CSV file, or paste its rows"), (b"time,rh\n2026-04-20 10:00,80\n", {}, "air_c"), (b"time,air_c\n2026-04-20 10:00,warm\n", {}, "not a number"),
        (readings_csv(DAY_ZERO.replace(year=2025), 3, 1), {}, "is the year right"), (readings_csv(TODAY + timedelta(days=1), 2, 1), {}, "lies in the future"),
        (readings_csv(DAY_ZERO, 3, 1), {"low": "24", "high": "18"}, "is none"), (readings_csv(DAY_ZERO, 3, 1), {"low": "warm"}, "type a number"),
        (b"\xff\xfe\x00", {}, "UTF-8"), (readings_csv(DAY_ZERO, 3, 1), {"zone": "x" * 61}, "within 60"),
        (b"time,air_c\n2026-04-20 10:00,68\n2026-04-20 11:00,70\n", {}, "air_f"),
    ],
)  # fmt: skip
def test_what_can_not_be_read_is_refused_and_nothing_is_kept(
    session: Session, sign_in: SignIn, trial: Trial, data: bytes, more: dict[str, str], told: str
) -> None:
    fields = {"low": "18", "high": "24", "zone": "bench", "log": (io.BytesIO(data), "log.csv")} | more
    answered = sign_in("researcher").post(f"/trials/{trial.id}/logs", data=fields, content_type="multipart/form-data")
    assert answered.status_code == 422 and told in flat(answered.text), flat(answered.text)[:600]
    assert session.scalar(select(func.count(ConditionLog.id))) == 0


def test_pasted_rows_go_in_like_a_file(session: Session, sign_in: SignIn, trial: Trial) -> None:
    rows = "time,air_c\n2026-04-20 10:00,21,5\n2026-04-20 11:00,22\n".replace("21,5", "21.5")
    answered = sign_in("scorer").post(
        f"/trials/{trial.id}/logs", data={"low": "18", "high": "24", "zone": "", "rows": rows}
    )
    assert answered.status_code == 303 and session.scalars(select(ConditionLog)).one().zone == "the bench"


def test_a_log_of_another_trial_is_not_withdrawn(session: Session, sign_in: SignIn, trial: Trial) -> None:
    other = create_stuck(session, create_person(session))
    session.commit()
    client = sign_in("researcher")
    assert send(client, other, readings_csv(DAY_ZERO, 2, 1)) == 303
    log = session.scalars(select(ConditionLog)).one()
    answered = client.post(f"/trials/{trial.id}/logs/withdraw", data={"log_id": log.id, "withdrawn_why": "not mine"})
    assert answered.status_code == 404


def missed(session: Session, trial: Trial) -> int:
    return len(tend.missed_jobs(session, trial, TODAY))


@pytest.mark.parametrize(("how", "left"), [("on their days", 0), ("today", 0), ("left out", 0), ("somehow", 5)])
def test_what_was_missed_is_one_line_and_decided_at_once(
    session: Session, sign_in: SignIn, trial: Trial, how: str, left: int
) -> None:
    client = sign_in("scorer")
    assert missed(session, trial) == 5
    page = flat(client.get(f"/trials/{trial.id}/tend").text)
    assert "Mist: 0 of 5 done, longest gap 42 days from 8 Apr" in page and "1 gap in the care" in page
    client.post(f"/trials/{trial.id}/missed", data={"title": "Mist", "how": how, "left_out_why": "it rained"})
    session.expire_all()
    assert missed(session, trial) == left
    jobs = list(session.scalars(select(Job).where(Job.trial_id == trial.id).order_by(Job.due_das)))
    if how == "on their days":
        assert [job.done_on for job in jobs] == [DAY_ZERO + timedelta(days=job.due_das) for job in jobs]
    if how == "left out":
        assert all(job.skipped == "it rained" and job.done_at is None for job in jobs)
        assert "left out: it rained" in flat(client.get(f"/trials/{trial.id}/tend").text)


def test_left_out_needs_a_reason_and_can_be_taken_back(session: Session, trial: Trial) -> None:
    actor, job = create_person(session), tend.jobs_of(session, trial)[0]
    with pytest.raises(tend.InvalidInput, match="why it is left out"):
        tend.leave_out(session, job, actor, NOW, "  ")
    tend.leave_out(session, job, actor, NOW, "rain")
    assert job.decided
    tend.set_done(session, job, actor, NOW, False)
    assert not job.decided and job.skipped == ""


def test_a_gap_in_the_care_stands_beside_the_result_until_it_is_written_down(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    actor, client = create_person(session), sign_in("researcher")
    check = open_endpoint(session, trial, actor)
    for unit in trial.units:
        score.keep_score(session, check, unit.cuttings[0], actor, NOW, ROOTED)
    score.close_check(session, check, actor, NOW)
    session.commit()
    told = "Care was not given as planned, as far as it was written down (Mist: 0 of 5 done, longest gap 42 days from 8 Apr)."
    for page in ("compare", "report"):
        assert told in flat(client.get(f"/trials/{trial.id}/{page}").text), page
    client.post(f"/trials/{trial.id}/missed", data={"title": "Mist", "how": "on their days"})
    assert told not in flat(client.get(f"/trials/{trial.id}/compare").text)


def test_the_strip_shows_the_days_and_hides_arms_from_the_blind(session: Session, sign_in: SignIn) -> None:
    trial = create_stuck(session, create_person(session))
    session.commit()
    data = readings_csv(DAY_ZERO, 10, 1)
    assert send(sign_in("researcher"), trial, data) == 303
    shown, blind = (sign_in(role).get(f"/trials/{trial.id}/tend").text for role in ("researcher", "scorer"))
    assert "Did the arms live alike?" in shown and "Did the arms live alike?" not in blind
    for page in (shown, blind):
        assert page.count("<title>Mist, ") == 5 and "Light" in page and "today, day 42" in page


def test_today_has_one_line_for_care_that_was_missed_five_times(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    page = flat(sign_in("scorer").get("/today").text)
    assert page.count("<b>Mist, day") == 1 and "missed 5 times, the last 7 days past its window" in page


def test_a_large_file_has_room_and_a_larger_one_is_refused_before_it_is_held(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    client = sign_in("researcher")
    rows = readings_csv(DAY_ZERO, 40, 1)
    wide = rows.replace(b"\n", b"," + b"0" * 2_500 + b"\n").replace(b"ppfd," + b"0" * 2_500, b"ppfd,more")
    assert 2_200_000 < len(wide) < 9_000_000 and send(client, trial, wide) == 303
    assert send(client, trial, wide * 5) == 413


def cared_for(session: Session, rules: str) -> Trial:
    """A stuck trial with this care."""
    actor = create_person(session)
    trial = create_trial(session, actor, care_rules=rules)
    save_design(session, trial, actor)
    design.draw(session, trial, actor, NOW, 5)
    locking.lock_plan(session, trial, actor, LOCKED)
    stick_all(session, trial, actor)
    session.commit()
    return trial


def test_care_of_one_arm_and_of_weekdays_falls_due_and_its_gap_names_the_arm(session: Session, sign_in: SignIn) -> None:
    rules = "Change the water: every 7 days, arm B\nFeed: Sundays, from day 14 to 28"
    trial = cared_for(session, rules)
    jobs = tend.jobs_of(session, trial)
    assert [job.due_das for job in jobs if job.title == "Change the water"] == [7, 14, 21, 28, 35]
    fed = [DAY_ZERO + timedelta(days=job.due_das) for job in jobs if job.title == "Feed"]
    assert fed and all(day.weekday() == 6 for day in fed)
    knowing, blind = (flat(sign_in(role).get(f"/trials/{trial.id}/tend").text) for role in ("researcher", "scorer"))
    assert (
        "Change the water, arm B: 0 of 5 done" in knowing
        and "arm B" not in blind
        and "Change the water: 0 of 5 done" in blind
    )
    client = sign_in("scorer")
    client.post(f"/trials/{trial.id}/missed", data={"title": "Change the water", "how": "on their days"})
    session.expire_all()
    assert all(job.done_at for job in tend.jobs_of(session, trial) if job.title == "Change the water")


def test_turns_steps_and_windows_fall_due_in_their_order(session: Session, sign_in: SignIn) -> None:
    trial = cared_for(
        session,
        "Feed / water by turns: every 5 days ± 1\nCover off: every 2 days, from day 20, steps 1 h; 4 h; all day",
    )
    jobs = tend.jobs_of(session, trial)
    by_turns = [(j.title, j.due_das, j.window_days) for j in jobs if j.title in ("Feed", "Water")]
    assert by_turns[:3] == [("Feed", 5, 1), ("Water", 10, 1), ("Feed", 15, 1)]
    assert [(j.due_das, j.step) for j in jobs if j.title == "Cover off"] == [(20, "1 h"), (22, "4 h"), (24, "all day")]
    assert "Cover off, day 22: 4 h" in flat(sign_in("scorer").get(f"/trials/{trial.id}/tend").text)


def test_until_buds_are_seen_leaves_the_rest_out_for_that_reason(session: Session, sign_in: SignIn) -> None:
    trial = cared_for(session, "Mist well: every 3 days, until buds")
    client = sign_in("scorer")
    page = f"/trials/{trial.id}/tend"
    assert "Mist well, until buds: seen on" in flat(client.get(page).text)
    seen = DAY_ZERO + timedelta(days=13)
    future = TODAY + timedelta(days=1)
    assert (
        client.post(
            f"/trials/{trial.id}/enough", data={"enough_of": "Mist well", "enough_on": future.isoformat()}
        ).status_code
        == 422
    )
    assert (
        client.post(f"/trials/{trial.id}/enough", data={"enough_of": "Mist", "enough_on": seen.isoformat()}).status_code
        == 422
    )
    assert (
        client.post(
            f"/trials/{trial.id}/enough", data={"enough_of": "Mist well", "enough_on": seen.isoformat()}
        ).status_code
        == 303
    )
    session.expire_all()
    left = {job.due_das: job.skipped for job in tend.jobs_of(session, trial) if job.title == "Mist well"}
    assert left[12] == "" and left[15].startswith("buds seen") and all(left[day] for day in left if day > 13)
    assert {left[day].split(" seen ")[0] for day in left if day > 13} == {"buds"}
    assert "Mist well, until buds: seen on" not in flat(client.get(page).text)


def test_care_is_changed_midway_by_an_amendment_and_what_was_due_stays(session: Session, sign_in: SignIn) -> None:
    trial = cared_for(session, "Feed: every 7 days")
    today = (TODAY - DAY_ZERO).days
    before = [job.due_das for job in tend.jobs_of(session, trial) if job.title == "Feed"]
    form = {"care_rules": "Feed: every 3 days", "care_why": "pale leaves"}
    assert sign_in("scorer").post(f"/trials/{trial.id}/care", data=form).status_code == 403
    client = sign_in("researcher")
    refused = client.post(f"/trials/{trial.id}/care", data=form | {"care_rules": "Feed: now and then"})
    assert refused.status_code == 422 and "now and then" in refused.text
    assert client.post(f"/trials/{trial.id}/care", data=form).status_code == 303
    session.expire_all()
    after = [job.due_das for job in tend.jobs_of(session, trial) if job.title == "Feed"]
    assert [day for day in after if day <= today] == [day for day in before if day <= today]
    assert [day for day in after if day > today] == [day for day in range(3, 42, 3) if day > today]
    assert trial.versions[-1].why == "pale leaves"


def test_another_endpoint_day_takes_the_care_along(session: Session) -> None:
    trial = cared_for(session, "Feed: every 7 days")
    amend(session, trial, create_person(session), NOW, EndpointDay(60), "slow")
    assert max(job.due_das for job in tend.jobs_of(session, trial) if job.title == "Feed") == 56


def test_a_wave_of_its_own_is_decided_by_its_own_name(session: Session, sign_in: SignIn) -> None:
    trial = create_stuck(session, create_person(session), waves=[(None, "one"), (None, "two")])
    session.commit()
    sign_in("researcher").post(f"/trials/{trial.id}/missed", data={"title": "Mist, wave 2", "how": "on their days"})
    session.expire_all()
    done = {job.wave.number for job in tend.jobs_of(session, trial) if job.done_at}
    assert done == {2}


@pytest.mark.parametrize("kind", ["test", "look", "rate"])
def test_a_gap_in_the_care_stands_beside_looks_and_rates_too(session: Session, sign_in: SignIn, kind: str) -> None:
    trial = ended(session, {"A": ROOTED} if kind == "rate" else {"A": ROOTED, "B": BARE}, kind=kind)
    client = sign_in("researcher")
    for page in ("compare", "conclude", "report"):
        assert "Care was not given as planned" in flat(client.get(f"/trials/{trial.id}/{page}").text), page


def test_all_logs_of_a_trial_are_held_against_one_band(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client = sign_in("researcher")
    assert send(client, trial, readings_csv(DAY_ZERO, 5, 1), low="16") == 303
    assert send(client, trial, readings_csv(DAY_ZERO, 5, 2), zone="door") == 422, (
        "hours outside two bands do not compare"
    )
    assert 'value="16"' in client.get(f"/trials/{trial.id}/tend").text, "the band that stands is offered"
    log = session.scalars(select(ConditionLog)).one()
    client.post(f"/trials/{trial.id}/logs/withdraw", data={"log_id": log.id, "withdrawn_why": "wrong band"})
    assert send(client, trial, readings_csv(DAY_ZERO, 5, 2), zone="door") == 303


def test_a_band_left_blank_is_that_of_the_zone_on_the_shelf(session: Session, sign_in: SignIn) -> None:
    trial = create_stuck(session, create_person(session))
    session.commit()
    client, rows = sign_in(), readings_csv(DAY_ZERO, 3, 1).decode()
    client.post("/zones", data={"name": "mist bench", "low_c": "17", "high_c": "23"})
    assert '<option value="mist bench">' in client.get(f"/trials/{trial.id}/tend").text
    sent = {"zone": "Mist bench", "low": "", "high": "", "rows": rows}
    assert client.post(f"/trials/{trial.id}/logs", data=sent).status_code == 303
    (log,) = session.scalars(select(ConditionLog)).all()
    assert (log.low_c, log.high_c) == (17.0, 23.0)
    assert client.post(f"/trials/{trial.id}/logs", data=sent | {"zone": "elsewhere"}).status_code == 422


@pytest.mark.parametrize(("card", "band"), [({"low_c": "15", "high_c": "21,5"}, (15.0, 21.5)), ({}, (18.0, 24.0))])
def test_without_a_zone_the_band_is_the_method_card_s_else_a_usual_one(
    session: Session, sign_in: SignIn, card: dict[str, str], band: tuple[float, float]
) -> None:
    trial = create_stuck(session, create_person(session))
    session.commit()
    client = sign_in()
    kept = {"taxon": trial.plan.question.botanical_name, "cutting_type": "tip"} | card
    assert client.post("/cards", data=kept).status_code == 303
    sent = {"zone": "by the door", "low": "", "high": "", "rows": readings_csv(DAY_ZERO, 3, 1).decode()}
    assert client.post(f"/trials/{trial.id}/logs", data=sent).status_code == 303
    (log,) = session.scalars(select(ConditionLog)).all()
    assert (log.low_c, log.high_c) == band
    for wrong in ({"low_c": "15"}, {"low_c": "22", "high_c": "20"}):
        assert client.post("/cards", data=kept | {"low_c": "", "high_c": ""} | wrong).status_code == 422


MAKERS = "Title: warm end\nDate Time,Temp 1,Temp 2\n{day} 14:00,21.5,12\n{day} 15:00,21,12\n"


def test_what_is_said_of_a_maker_s_columns_is_remembered_for_the_next_file(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    client = sign_in("researcher")
    first, later = (MAKERS.format(day=DAY_ZERO + timedelta(days=n)).encode() for n in (1, 2))
    assert send(client, trial, first) == 422 and logs_in(session, trial) == []
    assert send(client, trial, first, col_air="Temp 1") == 303
    assert send(client, trial, later) == 303
    found = logs_in(session, trial)
    assert [len(log.days) for log in found] == [1, 1]
    assert {log.report["columns"] for log in found} == {"Time from Date Time, air from Temp 1 in °C."}
    assert send(client, trial, later, col_air="Temp 2", zone="cold end") == 303
    assert logs_in(session, trial)[-1].report["columns"].startswith("Time from Date Time, air from Temp 2")
    assert "Time from Date Time, air from Temp 1" in flat(client.get(f"/trials/{trial.id}/tend").text)


def logs_in(session: Session, trial: Trial) -> list[ConditionLog]:
    session.expire_all()
    return list(
        session.scalars(select(ConditionLog).where(ConditionLog.trial_id == trial.id).order_by(ConditionLog.id))
    )
