"""Checks and scores as operations: blind, corrected, never overwritten."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.score import operations as score
from orderly_bench.chapters.score.correcting import correct_way
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.tend.schedule import DayZero
from orderly_bench.core.vocabulary import KnownBy, Roots, Score, State
from orderly_bench.record.departures import departures_of
from orderly_bench.record.doubts import log_cautions, prediction_doubts
from orderly_bench.record.facts import endpoint_checks, findings_of, known_by_arm, results_at
from orderly_bench.record.gather import gather
from orderly_bench.record.value import PredictionRecord
from orderly_bench.trial.access import NotAllowed
from orderly_bench.trial.blindness import arms_hidden, blind_phase, results_by_arm
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.errors import Conflict
from orderly_bench.trial.models import CheckVisit, ScoreRecord
from tests.factories import (
    BARE,
    DAY_ZERO,
    FACTORS,
    LOCKED,
    NOW,
    ROOTED,
    TODAY,
    create_drawn,
    create_finished,
    create_person,
    create_stuck,
    create_trial,
    evidence,
    open_endpoint,
    save_design,
    score_all,
    stick_all,
)


@pytest.fixture
def bench(session: Session):
    researcher, scorer = create_person(session), create_person(session, "scorer")
    trial = create_stuck(session, researcher)
    return trial, open_endpoint(session, trial, researcher), researcher, scorer


def test_scorers_are_blind_and_researchers_are_not(session: Session, bench) -> None:
    trial, check, researcher, scorer = bench
    by_scorer = score.keep_score(session, check, trial.units[0].cuttings[0], scorer, NOW, ROOTED)
    by_researcher = score.keep_score(session, check, trial.units[1].cuttings[0], researcher, NOW, ROOTED)
    assert by_scorer.blind and not by_researcher.blind


def test_arms_are_hidden_from_the_first_draw_until_the_endpoint_closes(session: Session) -> None:
    researcher, scorer = create_person(session), create_person(session, "scorer")
    assert not arms_hidden(session, create_trial(session, researcher), scorer)
    trial = create_drawn(session, researcher)
    assert arms_hidden(session, trial, scorer) and not arms_hidden(session, trial, researcher)
    locking.lock_plan(session, trial, researcher, NOW)
    assert arms_hidden(session, trial, scorer)
    stick_all(session, trial, researcher)
    first = checks_of(session, trial)[0]
    score.open_check(
        session, first, researcher, NOW, score.Looking(DAY_ZERO + timedelta(days=14), KnownBy.HOLE.value), TODAY
    )
    assert arms_hidden(session, trial, scorer) and not arms_hidden(session, trial, researcher)
    score_all(session, trial, first, scorer)
    score.close_check(session, first, researcher, NOW)
    assert blind_phase(session, trial) and not results_by_arm(session, trial, researcher)
    check = open_endpoint(session, trial, researcher)
    score_all(session, trial, check, scorer)
    score.close_check(session, check, researcher, NOW)
    assert not arms_hidden(session, trial, scorer) and results_by_arm(session, trial, scorer)


@pytest.mark.parametrize(("allowed", "asked"), [(21, True), (14, False), (None, False)])
def test_who_was_called_dead_before_the_allowed_day_is_asked_about(
    session: Session, allowed: int | None, asked: bool
) -> None:
    researcher = create_person(session)
    trial = create_trial(session, researcher, dead_from_day=allowed)
    save_design(session, trial, researcher)
    design.draw(session, trial, researcher, NOW, 5)
    locking.lock_plan(session, trial, researcher, LOCKED)
    stick_all(session, trial, researcher)
    first = checks_of(session, trial)[0]
    score.open_check(
        session, first, researcher, NOW, score.Looking(DAY_ZERO + timedelta(days=14), KnownBy.HOLE.value), TODAY
    )
    gone, *others = [unit.cuttings[0] for unit in trial.units]
    called = score.keep_score(session, first, gone, researcher, NOW, Score(State.DEAD, Roots.NOT_LOOKED))
    assert called.state == (State.LOOKS_DEAD if asked else State.DEAD), "left in for a second look"
    taken = score.Sent(seen_revision=1, reason="black through and through")
    out = Score(State.TAKEN_OUT_DEAD, Roots.NOT_LOOKED)
    score.keep_score(session, first, gone, researcher, NOW, out, taken)
    for cutting in others:
        score.keep_score(session, first, cutting, researcher, NOW, ROOTED)
    score.close_check(session, first, researcher, NOW)
    record = gather(session, trial)
    found = {f.code: f for f in findings_of(record, [])}
    assert ("written_off_early" in found) is asked
    if asked:
        assert found["written_off_early"].cuttings == (gone.code,)
        assert found["written_off_early"].text == "1 was called dead on day 14; the plan says not before day 21."


def test_what_is_left_alone_until_a_day_is_not_lifted_pulled_or_dug_for_before_it(session: Session) -> None:
    researcher = create_person(session)
    trial = create_trial(session, researcher, left_alone_until=28)
    save_design(session, trial, researcher)
    design.draw(session, trial, researcher, NOW, 5)
    locking.lock_plan(session, trial, researcher, LOCKED)
    stick_all(session, trial, researcher)
    early, later = checks_of(session, trial)[0], checks_of(session, trial)[1]
    on = DAY_ZERO + timedelta(days=14)
    for way in (KnownBy.LIFTED, KnownBy.TUG, KnownBy.SCRAPED):
        with pytest.raises(InvalidInput, match="leaves them alone until day 28"):
            score.open_check(session, early, researcher, NOW, score.Looking(on, way.value), TODAY)
    score.open_check(session, early, researcher, NOW, score.Looking(on, KnownBy.HOLE.value), TODAY)
    first, *others = [unit.cuttings[0] for unit in trial.units]
    with pytest.raises(InvalidInput, match="without touching"):
        score.keep_score(session, early, first, researcher, NOW, replace(ROOTED, known_by=KnownBy.SCRAPED))
    score.keep_score(session, early, first, researcher, NOW, Score(State.DEAD, Roots.NOT_LOOKED))
    for cutting in others:
        score.keep_score(session, early, cutting, researcher, NOW, replace(ROOTED, known_by=KnownBy.WALL))
    score.close_check(session, early, researcher, NOW)
    assert not [words for words in departures_of(gather(session, trial)) if "left alone" in words]
    assert correct_way(session, early, researcher, NOW, KnownBy.WALL.value, "seen at the wall") == 0
    assert not [words for words in departures_of(gather(session, trial)) if "left alone" in words]
    assert correct_way(session, early, researcher, NOW, KnownBy.LIFTED.value, "they were lifted after all") == len(
        others
    )
    (told,) = [words for words in departures_of(gather(session, trial)) if "left alone" in words]
    assert told.startswith("they were looked at 'lifted and counted' on day 14") and told.endswith(
        "they were lifted after all"
    )
    at_28 = DAY_ZERO + timedelta(days=27)
    score.open_check(
        session, later, researcher, NOW, score.Looking(at_28, KnownBy.LIFTED.value, "the tray was dropped"), TODAY
    )
    score.keep_score(session, later, others[0], researcher, NOW, ROOTED)
    told = [words for words in departures_of(gather(session, trial)) if "left alone" in words][-1]
    assert (
        told
        == "they were looked at 'lifted and counted' on day 27, to be left alone until day 28: the tray was dropped"
    )


def test_a_reveal_marks_the_person_not_blind_from_then_on(session: Session, bench) -> None:
    from orderly_bench.trial.reveal import reveal

    trial, check, _, scorer = bench
    before = score.keep_score(session, check, trial.units[0].cuttings[0], scorer, NOW, ROOTED)
    reveal(session, trial, scorer, NOW, "watering arm A")
    after = score.keep_score(session, check, trial.units[1].cuttings[0], scorer, NOW, ROOTED)
    assert before.blind and not after.blind and not arms_hidden(session, trial, scorer)


def test_the_second_of_two_scorers_is_refused_and_shown_both(session: Session, bench) -> None:
    trial, check, _, scorer = bench
    cutting = trial.units[0].cuttings[0]
    score.keep_score(session, check, cutting, scorer, NOW, ROOTED)
    with pytest.raises(Conflict) as refused:
        score.keep_score(session, check, cutting, create_person(session, "scorer"), NOW, BARE)
    assert "5 roots" in refused.value.theirs and "roots none" in refused.value.yours
    assert len(score.current_scores(session, [check])[check.id]) == 1


def test_the_same_request_twice_is_one_score(session: Session, bench) -> None:
    trial, check, _, scorer = bench
    cutting = trial.units[0].cuttings[0]
    first = score.keep_score(session, check, cutting, scorer, NOW, ROOTED, score.Sent(request_key="r1"))
    assert score.keep_score(session, check, cutting, scorer, NOW, ROOTED, score.Sent(request_key="r1")) is first


def test_a_correction_needs_a_reason_and_keeps_the_old_value(session: Session, bench) -> None:
    trial, check, _, scorer = bench
    cutting = trial.units[0].cuttings[0]
    old = score.keep_score(session, check, cutting, scorer, NOW, ROOTED)
    with pytest.raises(InvalidInput, match="reason for the correction"):
        score.keep_score(session, check, cutting, scorer, NOW, BARE, score.Sent(seen_revision=1))
    new = score.keep_score(session, check, cutting, scorer, NOW, BARE, score.Sent(seen_revision=1, reason="wrong cell"))
    rows = session.scalars(
        select(ScoreRecord).where(ScoreRecord.cutting_id == cutting.id).order_by(ScoreRecord.revision)
    ).all()
    assert [(r.revision, r.current, r.root_number, r.ended_by) for r in rows] == [
        (1, None, 5, "correction"),
        (2, 1, None, None),
    ]
    assert (old.person_id, new.reason) == (scorer.id, "wrong cell")


def test_take_back_makes_it_unaccounted_but_keeps_the_record(session: Session, bench) -> None:
    trial, check, _, scorer = bench
    score.keep_score(session, check, trial.units[0].cuttings[0], scorer, NOW, ROOTED)
    assert score.take_back(session, check, scorer, NOW) is trial.units[0].cuttings[0]
    assert score.progress_of(session, check).tally.unaccounted == 16
    assert session.scalar(select(ScoreRecord.ended_by)) == "taken back"
    again = score.keep_score(session, check, trial.units[0].cuttings[0], scorer, NOW, BARE)
    assert again.revision == 2
    score.take_back(session, check, scorer, NOW)
    assert score.take_back(session, check, scorer, NOW) is None


def test_a_check_cannot_close_with_one_unaccounted_nor_twice(session: Session, bench) -> None:
    trial, check, researcher, scorer = bench
    for unit in trial.units[:-1]:
        score.keep_score(session, check, unit.cuttings[0], scorer, NOW, ROOTED)
    with pytest.raises(Refused, match=f"1 of 16 are unaccounted for .{trial.units[-1].code}"):
        score.close_check(session, check, researcher, NOW)
    score.keep_score(session, check, trial.units[-1].cuttings[0], scorer, NOW, Score(State.MISSING, Roots.NOT_LOOKED))
    score.close_check(session, check, researcher, NOW)
    with pytest.raises(Refused, match="closed already"):
        score.close_check(session, check, researcher, NOW)
    with pytest.raises(NotAllowed):
        score.keep_score(
            session, check, trial.units[0].cuttings[0], scorer, NOW, BARE, score.Sent(seen_revision=1, reason="late")
        )


def test_dead_carries_forward_and_missing_is_asked_again(session: Session) -> None:
    researcher, scorer = create_person(session), create_person(session, "scorer")
    trial = create_stuck(session, researcher)
    first = checks_of(session, trial)[0]
    score.open_check(
        session, first, researcher, NOW, score.Looking(DAY_ZERO + timedelta(days=14), KnownBy.HOLE.value), TODAY
    )
    for i, unit in enumerate(trial.units):
        found = {0: Score(State.DEAD, Roots.NONE), 1: Score(State.MISSING, Roots.NOT_LOOKED)}.get(i, BARE)
        score.keep_score(session, first, unit.cuttings[0], scorer, NOW, found)
    score.close_check(session, first, researcher, NOW)
    tally = score.progress_of(session, open_endpoint(session, trial, researcher)).tally
    assert (tally.in_scope, tally.carried, tally.unaccounted) == (16, 1, 15)


@pytest.mark.parametrize(
    ("day", "message"),
    [(DAY_ZERO - timedelta(days=1), "before the cuttings were stuck"), (TODAY + timedelta(days=1), "future")],
)
def test_impossible_check_dates_are_refused(session: Session, day, message: str) -> None:
    researcher = create_person(session)
    check = checks_of(session, create_stuck(session, researcher))[-1]
    with pytest.raises(InvalidInput, match=message):
        score.open_check(session, check, researcher, NOW, score.Looking(day, KnownBy.LIFTED.value), TODAY)


def test_one_check_at_a_time_and_never_an_earlier_one(session: Session, bench) -> None:
    trial, check, researcher, scorer = bench
    first = checks_of(session, trial)[0]
    with pytest.raises(Refused, match="still open"):
        score.open_check(session, first, researcher, NOW, score.Looking(TODAY, KnownBy.HOLE.value), TODAY)
    score_all(session, trial, check, scorer)
    score.close_check(session, check, researcher, NOW)
    with pytest.raises(Refused, match="passed by"):
        score.open_check(session, first, researcher, NOW, score.Looking(TODAY, KnownBy.HOLE.value), TODAY)


def test_evidence_is_the_counts_of_the_endpoint(session: Session) -> None:

    trial = create_finished(session, create_person(session), create_person(session, "scorer"))
    found = evidence(session, trial)
    assert found.reconciliation["A"]["rooted"] == 4
    assert found.reading is not None
    assert (
        found.reading.headline
        == "Pumice rooted more than bark: 8 of 8 (100 %) against 0 of 8 (0 %). Not as planned: the check of day 14 was not done."
    )
    assert found.departures == ["the check of day 14 was not done"]
    assert found.reading.strength == "suggested"
    assert found.record.holds


def test_checks_of_several_lots_that_were_passed_by_are_one_departure(session: Session) -> None:
    person = create_person(session)
    two = {"waves": [(None, ""), (None, "")], "factors": [FACTORS[0]], "check_days": "14, 28", "endpoint_day": "42"}

    def scored(check: CheckVisit, day: date) -> None:
        score.open_check(session, check, person, NOW, score.Looking(day, KnownBy.LIFTED.value), TODAY)
        for cutting in (c for unit in check.trial.units for c in unit.cuttings if c.lot_id == check.lot_id):
            score.keep_score(session, check, cutting, person, NOW, ROOTED)
        score.close_check(session, check, person, NOW)

    late, early = (checks_of(session, create_stuck(session, person, **two)) for _ in range(2))
    for check in late:
        if check.is_endpoint:
            scored(check, TODAY)
    assert evidence(session, late[0].trial).departures == ["4 checks of day 14 and 28 were not done"]
    scored(next(check for check in early if check.planned_das == 28), DAY_ZERO + timedelta(days=28))
    assert [told for told in evidence(session, early[0].trial).departures if "not done" in told] == [
        "the check of day 14 of wave 1, lot 1 was not done",
        "2 checks of day 14 and 28 of wave 2, lot 1 were not done",
    ]


def test_in_a_plan_that_is_not_blind_no_score_counts_as_blind(session: Session) -> None:
    researcher, scorer = create_person(session), create_person(session, "scorer")
    trial = create_stuck(session, researcher, blind=False)
    check = open_endpoint(session, trial, researcher)
    kept = score.keep_score(session, check, trial.units[0].cuttings[0], scorer, NOW, ROOTED)
    assert not kept.blind and not arms_hidden(session, trial, scorer)


def test_nobody_takes_back_another_s_score(session: Session, bench) -> None:
    trial, check, _, scorer = bench
    other = create_person(session, "scorer")
    first, second = trial.units[0].cuttings[0], trial.units[1].cuttings[0]
    score.keep_score(session, check, first, scorer, NOW, ROOTED)
    score.keep_score(session, check, second, other, NOW, ROOTED)
    assert score.take_back(session, check, scorer, NOW) is first
    assert score.take_back(session, check, scorer, NOW) is None
    assert score.progress_of(session, check).tally.unaccounted == 15


def test_a_check_is_not_dated_before_the_last_one(session: Session) -> None:
    researcher, scorer = create_person(session), create_person(session, "scorer")
    trial = create_stuck(session, researcher)
    first, *_, last = checks_of(session, trial)
    day = DAY_ZERO + timedelta(days=20)
    score.open_check(session, first, researcher, NOW, score.Looking(day, KnownBy.HOLE.value), TODAY)
    score_all(session, trial, first, scorer)
    score.close_check(session, first, researcher, NOW)
    with pytest.raises(InvalidInput, match="before the last check"):
        score.open_check(
            session, last, researcher, NOW, score.Looking(day - timedelta(days=1), KnownBy.LIFTED.value), TODAY
        )
    with pytest.raises(InvalidInput, match=r"lies 18 days outside .* look from 16 May 2026 to 24 May 2026, or say why"):
        score.open_check(session, last, researcher, NOW, score.Looking(day, KnownBy.LIFTED.value), TODAY)
    assert last.opened_at is None
    score.open_check(
        session, last, researcher, NOW, score.Looking(day, KnownBy.LIFTED.value, "the boiler failed"), TODAY
    )
    assert last.opened_at is not None
    score_all(session, trial, last, scorer)
    score.close_check(session, last, researcher, NOW)
    told = "the endpoint was scored on day 20, 18 days outside its window: the boiler failed"
    assert told in evidence(session, trial).departures


@pytest.mark.parametrize(
    ("role", "blind", "said"), [("researcher", True, True), ("scorer", True, False), ("researcher", False, False)]
)
def test_scoring_that_could_know_the_arms_is_a_caution_where_blindness_was_planned(
    session: Session, role: str, blind: bool, said: bool
) -> None:
    researcher, scorer = create_person(session), create_person(session, role, "Bo Lindqvist")
    trial = create_stuck(session, researcher, blind=blind)
    check = open_endpoint(session, trial, researcher)
    score_all(session, trial, check, scorer)
    score.close_check(session, check, researcher, NOW)
    cautions = [c.text for c in evidence(session, trial).cautions if c.code == "not_blind"]
    assert [text.startswith("Bo Lindqvist scored knowing") for text in cautions] == [True] * said


def test_arms_stuck_on_different_days_are_not_concurrent(session: Session) -> None:
    record = gather(session, create_finished(session, create_person(session), create_person(session, "scorer")))
    results = results_at(record, endpoint_checks(record))
    assert "not_concurrent" not in {c.code for c in log_cautions(record, results)}
    lot = record.lots[0]
    later = replace(
        lot, day_zero=DayZero(lot.day_zero.first + timedelta(days=5), lot.day_zero.last + timedelta(days=5))
    )
    apart = replace(record, cuttings=tuple(replace(c, lot=later) if c.unit.arm == "A" else c for c in record.cuttings))
    doubt = next(c for c in log_cautions(apart, results) if c.code == "not_concurrent")
    assert doubt.serious and doubt.text.startswith("Arms were stuck on different days (A 13 Apr, B 8 Apr")


def test_a_prediction_that_its_author_made_come_true_is_doubted(session: Session) -> None:
    record = gather(
        session, create_finished(session, create_person(session), create_person(session, "scorer", "Tomas"))
    )
    results = results_at(record, endpoint_checks(record))
    told = PredictionRecord(("A", "B", "C", "D"), "Tomas", NOW, "", "")
    knowing = [replace(r, kept=replace(r.kept, blind=False)) for r in results]
    doubts = prediction_doubts(replace(record, prediction=told), knowing, True)
    assert [c.code for c in doubts] == ["prediction_by_scorer"] and "Tomas scored 16 of 16" in doubts[0].text
    assert prediction_doubts(replace(record, prediction=told), knowing, False) == []
    assert (
        prediction_doubts(
            replace(record, prediction=told), [replace(r, kept=replace(r.kept, blind=True)) for r in results], True
        )
        == []
    )
    other = replace(told, person="Ines")
    assert prediction_doubts(replace(record, prediction=other), knowing, True) == []


def test_how_roots_are_known_is_counted_by_arm(session: Session) -> None:
    record = gather(session, create_finished(session, create_person(session), create_person(session, "scorer")))
    results = results_at(record, endpoint_checks(record))
    assert known_by_arm(record, results) == {
        "A": {"lifted and counted": 4}, "B": {"lifted and counted": 4}, "C": {"lifted and counted": 0}, "D": {"lifted and counted": 0},
    }  # fmt: skip
    seen = [
        replace(r, kept=replace(r.kept, score=replace(r.score, known_by=KnownBy.SCRAPED)))
        if r.cutting.unit.arm == "A"
        else r
        for r in results
    ]
    assert known_by_arm(record, seen)["A"] == {"lifted and counted": 0, "scraped aside and seen": 4}
