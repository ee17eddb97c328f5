"""Question and Design as operations: drawing, locking, refusing."""

from __future__ import annotations

from dataclasses import replace

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.question import operations as question
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.vocabulary import LayoutKind
from orderly_bench.record.gather import gather
from orderly_bench.trial.errors import Conflict
from orderly_bench.trial.models import AuditEntry
from orderly_bench.trial.versions import plan_holds
from tests.factories import (
    LOCKED,
    NOW,
    add_lot,
    create_drawn,
    create_locked,
    create_person,
    create_stuck,
    create_trial,
    crossed_table,
    question_form,
    save_design,
    save_question,
    stick_all,
)


def test_arms_are_all_combinations_with_letters(session: Session) -> None:
    trial = create_trial(session, create_person(session))
    assert [(arm.letter, arm.name) for arm in trial.arms] == [
        ("A", "pumice + IBA"), ("B", "pumice + none"), ("C", "bark + IBA"), ("D", "bark + none"),
    ]  # fmt: skip


def test_blocks_hold_every_arm_equally_and_codes_are_distinct(session: Session) -> None:
    trial = create_drawn(session, create_person(session))
    for block in ("block 1", "block 2"):
        letters = sorted(unit.arm.letter for unit in trial.units if unit.group("block") == block)
        assert letters == ["A", "A", "B", "B", "C", "C", "D", "D"]
    assert len({unit.code for unit in trial.units}) == 16
    assert {(u.place.tray.number, u.place.row, u.place.column) for u in trial.units} == {
        (t, r, c) for t in (1, 2) for r in (1, 2) for c in (1, 2, 3, 4)
    }


def test_completely_randomised_units_have_no_group(session: Session) -> None:
    trial = create_drawn(session, create_person(session), layout=LayoutKind.COMPLETELY_RANDOMISED.value, blocks=1)
    assert all(unit.groupings == [] for unit in trial.units)


def test_the_same_seed_draws_the_same_layout(session: Session) -> None:
    actor = create_person(session)
    first, second = create_drawn(session, actor, seed=9), create_drawn(session, actor, seed=9)
    assert first.draws[0].result == second.draws[0].result
    assert first.draws[0].result != create_drawn(session, actor, seed=10).draws[0].result


def test_a_redraw_needs_a_reason_and_both_stay_on_record(session: Session) -> None:
    actor = create_person(session)
    trial = create_drawn(session, actor)
    with pytest.raises(InvalidInput, match="reason for the redraw"):
        design.draw(session, trial, actor, NOW, 6)
    design.draw(session, trial, actor, NOW, 6, "tray 2 is broken")
    assert [(d.number, d.seed, d.reason) for d in trial.draws] == [(1, 5, ""), (2, 6, "tray 2 is broken")]
    assert len(trial.units) == 16


def test_locking_freezes_the_plan_and_makes_checks_and_jobs(session: Session) -> None:
    actor = create_person(session)
    trial = create_locked(session, actor)
    assert trial.digest and plan_holds(trial)
    with pytest.raises(Refused, match="locked"):
        save_question(session, trial, actor, sentence="Another?")
    with pytest.raises(Refused, match="locked"):
        design.draw(session, trial, actor, NOW, 7, "nicer")
    with pytest.raises(Refused, match="locked"):
        locking.lock_plan(session, trial, actor, NOW)
    from orderly_bench.chapters.tend.operations import jobs_of
    from orderly_bench.trial.checks import checks_of, planned_checks_of

    assert [(c.planned_das, c.window_days, c.endpoint) for c in planned_checks_of(session, trial)] == [
        (14, 2, None),
        (42, 4, 1),
    ]
    assert checks_of(session, trial) == []
    add_lot(session, trial, actor)
    assert [(c.planned_das, c.is_endpoint) for c in checks_of(session, trial)] == [(14, False), (42, True)]
    assert [job.due_das for job in jobs_of(session, trial)] == [7, 14, 21, 28, 35]


@pytest.mark.parametrize("what", ["units", "groups", "stop rule", "held the same", "plan in force", "version"])
def test_the_digest_notices_a_change_behind_the_back(session: Session, what: str) -> None:
    trial = create_locked(session, create_person(session))
    assert plan_holds(trial)
    if what == "units":
        trial.units[0].arm_id = next(arm.id for arm in trial.arms if arm.id != trial.units[0].arm_id)
    elif what == "groups":
        trial.units[0].groupings[0].name = "block 9"
    elif what == "stop rule":
        plan = trial.plan
        trial.keep_plan(replace(plan, question=replace(plan.question, stop_rule="when it looks good")))
    elif what == "held the same":
        assert "container: 60 mL cells" in trial.plan.treatments.held_same()
        trial.plan_text = trial.plan_text.replace("60 mL cells", "90 mL cells")
    elif what == "plan in force":
        trial.plan_text = trial.plan_text.replace("margin_points: 15.0", "margin_points: 5.0")
    else:
        trial.versions[0].digest = "0" * 64
    assert not plan_holds(trial)


def test_a_stale_form_is_shown_both(session: Session) -> None:
    actor = create_person(session)
    trial = create_trial(session, actor)
    with pytest.raises(Conflict) as refused:
        form = question_form(trial, sentence="Mine?")
        question.save_question(session, trial, actor, NOW, trial.version - 1, form, crossed_table())
    assert "Does pumice root more?" in refused.value.theirs[0]
    assert refused.value.yours == ["Lavandula angustifolia: Mine?"]


def test_changing_levels_puts_the_draw_away(session: Session) -> None:
    actor = create_person(session)
    trial = create_drawn(session, actor)
    save_question(session, trial, actor, factors=[("medium", "medium", ["pumice", "sand"])])
    assert trial.units == [] and trial.trays == [] and len(trial.draws) == 1
    assert [arm.name for arm in trial.arms] == ["pumice", "sand"]


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        ({"factors": [("medium", "medium", ["pumice", "Pumice "])]}, "stands twice"),
        ({"factors": [("medium", "medium", ["pumice"])]}, "2 to 8 levels"),
        ({"factors": [("medium", "x", ["a", "b"]), ("other", "X", ["c", "d"])]}, "same name"),
        ({"endpoint_day": 0}, "between 1 and 1000"),
        ({"check_days": "14, 42"}, "before the endpoint"),
        ({"check_days": "soon"}, "days after sticking"),
        ({"margin_points": 0}, "between 1 and 99"),
        ({"sentence": "x" * 301}, "within 300"),
        ({"botanical_name": " "}, "name of the plant"),
        ({"kind": "guess"}, "test, look, rate"),
    ],
)
def test_bad_questions_are_refused_by_name(session: Session, changes: dict, message: str) -> None:
    actor = create_person(session)
    trial = create_trial(session, actor)
    with pytest.raises(InvalidInput, match=message):
        save_question(session, trial, actor, **changes)


@pytest.mark.parametrize(
    ("changes", "message"),
    [
        ({"cuttings_per_arm": 0}, "between 1 and 2000"),
        ({"cuttings_per_arm": 100_000}, "between 1 and 2000"),
        ({"cuttings_per_arm": 5}, "multiple of the 2 blocks"),
        ({"blocks": 1}, "2 or more"),
        ({"rows": 0}, "rows: must be between 1 and 60"),
        ({"headline": "each arm against the control"}, "name the control"),
        ({"layout": "by eye"}, "layout"),
    ],
)
def test_bad_designs_are_refused_by_name(session: Session, changes: dict, message: str) -> None:
    actor = create_person(session)
    trial = create_trial(session, actor)
    with pytest.raises(InvalidInput, match=message):
        save_design(session, trial, actor, **changes)


def test_a_prediction_made_after_sticking_is_kept_and_called_retrospective(session: Session) -> None:
    actor = create_person(session)
    trial = create_locked(session, actor)
    letters = [arm.letter for arm in trial.arms]
    with pytest.raises(InvalidInput, match="every arm once"):
        question.record_prediction(session, trial, actor, NOW, [letters[0]] * 4, "")
    question.record_prediction(session, trial, actor, LOCKED, letters, "")
    stick_all(session, trial, actor)
    question.record_prediction(session, trial, actor, NOW, letters[::-1], "")
    standing = gather(session, trial).prediction
    assert standing is not None and list(standing.ranking) == letters and standing.late == ""
    late = create_stuck(session, actor)
    question.record_prediction(session, late, actor, NOW, letters, "")
    standing = gather(session, late).prediction
    assert standing is not None and standing.late.startswith(
        "retrospective: the prediction was made on 20 May 2026, 42 days"
    )


def test_a_prediction_of_arms_that_are_no_more_does_not_stand(session: Session) -> None:
    actor = create_person(session)
    trial = create_trial(session, actor)
    question.record_prediction(session, trial, actor, NOW, ["A", "B", "C", "D"], "")
    other = [("medium", "medium", ["pumice", "sand"]), ("hormone", "hormone", ["IBA", "none"])]
    save_question(session, trial, actor, factors=other)
    assert [arm.letter for arm in trial.arms] == ["A", "B", "C", "D"]
    assert gather(session, trial).prediction is None


def test_every_step_is_in_the_audit_trail(session: Session) -> None:
    actor = create_person(session)
    trial = create_stuck(session, actor)
    actions = session.scalars(
        select(AuditEntry.action).where(AuditEntry.trial_id == trial.id).order_by(AuditEntry.id)
    ).all()
    assert actions == [
        "created the trial", "saved the question", "saved the design", "drew the layout", "locked the plan", "set day 0",
        "stuck a tray", "stuck a tray", "finished sticking",
    ]  # fmt: skip
