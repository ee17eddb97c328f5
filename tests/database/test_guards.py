"""The database itself refuses what must never be: rows of two trials mixed, and what was written down changed."""

from __future__ import annotations

import pytest
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError, IntegrityError
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.question import operations as question
from orderly_bench.chapters.score import operations as score
from orderly_bench.core.plan import amendments
from orderly_bench.core.vocabulary import KnownBy
from orderly_bench.trial.amending import amend
from orderly_bench.trial.blindness import note_seen
from orderly_bench.trial.models import InterimLook, Person, Reveal
from orderly_bench.trial.versions import plan_holds
from tests.database.test_true_shape import endpoints, score_lot
from tests.factories import BARE, NOW, ROOTED, TODAY, create_drawn, create_stuck


class TestTheDatabaseGuards:
    @pytest.mark.parametrize(
        "statement",
        [
            "update unit set arm_id = (select id from arm where trial_id <> unit.trial_id limit 1) limit 1",
            "update cutting set unit_id = (select id from unit u where u.trial_id <> cutting.trial_id limit 1) limit 1",
            "update score set check_id = (select id from check_visit c where c.trial_id <> score.trial_id limit 1) limit 1",
            "update placement set tray_id = (select id from tray t where t.trial_id <> placement.trial_id limit 1) limit 1",
            "insert into placement (trial_id, unit_id, tray_id, `row`, `column`, spot, current, from_at, reason) "
            "select trial_id, unit_id, tray_id, 1, 1, 9, 1, from_at, '' from placement limit 1",
            "insert into planned_check (trial_id, wave_id, planned_das, window_days, endpoint) "
            "select trial_id, wave_id, 99, 1, 1 from planned_check where endpoint = 1 limit 1",
            "update score set root_number = 99 limit 1",
            "update score set state = 'ghost' limit 1",
            "update score set state = upper(state) limit 1",
            "update score set note = concat(note, ' ') limit 1",
            "delete from score limit 1",
            "update plan_version set text = 'other' limit 1",
            "delete from plan_version limit 1",
            "update audit_entry set why = 'other' limit 1",
            "delete from audit_entry limit 1",
            "update cutting set status = 'gone' limit 1",
            "update check_visit set way = 'a glance' limit 1",
            "update draw set number = 2, reason = '' limit 1",
            "update seen_arms set how = 'never' limit 1",
            "delete from seen_arms limit 1",
            "update reveal set reason = 'other' limit 1",
            "delete from reveal limit 1",
            "update interim_look set reason = 'other' limit 1",
            "delete from interim_look limit 1",
            "update prediction set why = 'other' limit 1",
            "delete from prediction limit 1",
            "update unit set arm_id = (select id from arm where arm.trial_id = unit.trial_id and arm.id <> unit.arm_id limit 1) limit 1",
            "update draw set seed = seed + 1 limit 1",
            "update draw set result = '[]' limit 1",
            "delete from draw limit 1",
            "update trial set locked_at = now() limit 1",
            "update trial set locked_at = null, locked_by_id = null limit 1",
            "update trial set plan_text = concat(plan_text, ' ') limit 1",
        ],
    )
    def test_what_must_hold_holds_in_the_database_too(self, session: Session, actor: Person, statement: str) -> None:
        create_stuck(session, actor)
        trial = create_stuck(session, actor)
        score_lot(session, trial, endpoints(session, trial)[0], actor)
        note_seen(session, trial, actor, NOW, "by a reveal")
        session.add(Reveal(trial_id=trial.id, person_id=actor.id, reason="watered one arm", at=NOW))
        session.add(InterimLook(trial_id=trial.id, person_id=actor.id, reason="heat wave", at=NOW))
        question.record_prediction(session, trial, actor, NOW, ["A", "B", "C", "D"], "")
        session.flush()
        with pytest.raises((DBAPIError, IntegrityError)), session.begin_nested():
            changed = session.execute(text(statement))
            pytest.fail(f"{changed.rowcount} rows were changed")  # type: ignore[attr-defined]

    def test_before_the_lock_a_redraw_may_still_change_all_of_it(self, session: Session, actor: Person) -> None:
        trial = create_drawn(session, actor)
        design.draw(session, trial, actor, NOW, 6, "the first stood in the drip")
        assert [d.seed for d in trial.draws] == [5, 6]
        locking.lock_plan(session, trial, actor, NOW)
        with pytest.raises(DBAPIError, match="stays after the lock"), session.begin_nested():
            session.execute(text("update draw set seed = 7 where trial_id = :t"), {"t": trial.id})
        amend(session, trial, actor, NOW, amendments.Margin(12), "the buyer's wish")
        assert plan_holds(trial), "an amendment brings its version"

    def test_a_correction_may_still_supersede_a_score_once(self, session: Session, actor: Person) -> None:
        trial = create_stuck(session, actor)
        check = endpoints(session, trial)[0]
        score.open_check(session, check, actor, NOW, score.Looking(TODAY, KnownBy.LIFTED.value), TODAY)
        cutting = trial.units[0].cuttings[0]
        old = score.keep_score(session, check, cutting, actor, NOW, BARE)
        score.keep_score(
            session, check, cutting, actor, NOW, ROOTED, score.Sent(seen_revision=1, reason="looked again")
        )
        assert old.current is None and old.ended_by == "correction"
        with pytest.raises(DBAPIError, match="raw score"), session.begin_nested():
            session.execute(text("update score set current = 1 where id = :i"), {"i": old.id})
