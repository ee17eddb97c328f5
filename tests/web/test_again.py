"""The next trial from this one: open again, with what was counted as its guesses and more units where they are wanted."""

from __future__ import annotations

from dataclasses import replace

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.chapters.design import locking
from orderly_bench.chapters.design import operations as design
from orderly_bench.chapters.question import operations as question
from orderly_bench.chapters.score import operations as score
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.table import Line, Table
from orderly_bench.core.question.again import Otherwise, again
from orderly_bench.trial.models import AuditEntry, Trial
from tests.factories import (
    LOCKED,
    NOW,
    create_finished,
    create_person,
    create_stuck,
    create_trial,
    open_endpoint,
    question_form,
    save_design,
    score_all,
    stick_all,
)
from tests.web.conftest import SignIn, flat


def newest(session: Session) -> Trial:
    return session.scalars(select(Trial).order_by(Trial.id.desc()).limit(1)).one()


def test_it_is_open_again_with_the_counts_as_guesses_and_can_be_drawn_and_locked(
    session: Session, sign_in: SignIn
) -> None:
    actor = create_person(session)
    trial = create_finished(session, actor, create_person(session, "scorer"), "AB", cuttings_per_arm=8)
    session.commit()
    client = sign_in("researcher")
    assert "Next trial" in flat(client.get(f"/trials/{trial.id}/conclude").text)
    answered = client.post(f"/trials/{trial.id}/again", data={"more_units": "4"})
    made = newest(session)
    assert answered.status_code == 303 and answered.location == f"/trials/{made.id}/question" and made.id != trial.id
    old, plan = trial.plan, made.plan
    assert made.locked_at is None and plan.draws == () and plan.units == () and plan.code == made.code != old.code
    assert plan.question.sentence == old.question.sentence and plan.design.cuttings_per_arm == 12
    assert [arm.guess for arm in plan.treatments.arms] == [1.0, 1.0, 0.0, 0.0]
    assert [arm.letter for arm in made.arms] == [arm.id for arm in plan.treatments.arms] and len(made.waves) == len(
        trial.waves
    )
    assert client.get(answered.location).status_code == client.get(f"/trials/{made.id}/design").status_code == 200
    design.draw(session, made, actor, NOW, 3)
    locking.lock_plan(session, made, actor, LOCKED)
    assert len(made.units) == 48
    assert "began it from another" in set(session.scalars(select(AuditEntry.action)))


def test_what_belongs_to_the_one_before_is_left_behind(session: Session) -> None:
    trial = create_finished(session, create_person(session), create_person(session, "scorer"))
    before = replace(trial.plan, question=replace(trial.plan.question, anyway="too few, but the frost came"))
    plan = again(before, "27-01")
    assert (
        plan.question.anyway == ""
        and plan.design.pieces == ()
        and all(w.planned_for is None for w in plan.schedule.waves)
    )
    assert [arm.guess for arm in plan.treatments.arms] == [arm.guess for arm in trial.plan.treatments.arms]
    with pytest.raises(InvalidInput, match="2000 cuttings at most"):
        again(trial.plan, "27-01", Otherwise(5_000))


@pytest.mark.parametrize("typed", ["-1", "99999", "many"])
def test_what_can_not_be_makes_no_trial(session: Session, sign_in: SignIn, typed: str) -> None:
    trial = create_finished(session, create_person(session), create_person(session, "scorer"))
    session.commit()
    assert sign_in("researcher").post(f"/trials/{trial.id}/again", data={"more_units": typed}).status_code == 422
    assert session.scalar(select(func.count(Trial.id))) == 1


def test_before_the_end_nothing_counted_is_taken_along(session: Session, sign_in: SignIn) -> None:
    trial = create_stuck(session, create_person(session))
    session.commit()
    sign_in("researcher").post(f"/trials/{trial.id}/again", data={})
    assert [arm.guess for arm in newest(session).plan.treatments.arms] == [
        arm.guess for arm in trial.plan.treatments.arms
    ]


def test_of_another_plant_nothing_counted_is_taken_along(session: Session, sign_in: SignIn) -> None:
    trial = create_finished(session, create_person(session), create_person(session, "scorer"))
    session.commit()
    sign_in("researcher").post(f"/trials/{trial.id}/again", data={"more_units": "0", "plant": " Buxus  sempervirens "})
    plan = newest(session).plan
    assert plan.question.botanical_name == "Buxus sempervirens" and plan.question.cultivar == plan.question.source == ""
    assert [arm.guess for arm in plan.treatments.arms] == [None] * 4
    assert plan.treatments.asked == trial.plan.treatments.asked
    with pytest.raises(InvalidInput, match="another plant"):
        again(trial.plan, "27-01", Otherwise(plant="x" * 121))
    same = again(trial.plan, "27-01", Otherwise(plant=trial.plan.question.botanical_name.lower()), {"A": 0.5})
    assert same.question.botanical_name == trial.plan.question.botanical_name and same.treatments.arms[0].guess == 0.5


def test_every_wave_comes_a_second_time_and_can_be_drawn_and_locked(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    trial = create_finished(session, actor, create_person(session, "scorer"), cuttings_per_arm=8)
    session.commit()
    sign_in("researcher").post(f"/trials/{trial.id}/again", data={"more_units": "0", "second_waves": "yes"})
    made = newest(session)
    assert [wave.number for wave in made.plan.schedule.waves] == [wave.number for wave in made.waves] == [1, 2]
    design.draw(session, made, actor, NOW, 3)
    locking.lock_plan(session, made, actor, LOCKED)
    assert {unit.wave.number for unit in made.units} == {1, 2}


def test_the_arm_that_was_missing_comes_along(session: Session, sign_in: SignIn) -> None:
    """Pumice under a lid against bark in the open: what the lid does was the medium's too."""
    actor = create_person(session)
    trial = create_trial(session, actor)
    mixed = (
        Line(AspectKind.MEDIUM, "medium", True, ("pumice", "bark")),
        Line(AspectKind.COVER, "cover", False, ("clear lid", "open")),
    )
    question.save_question(session, trial, actor, NOW, trial.version, question_form(trial), Table(2, mixed))
    save_design(session, trial, actor, cuttings_per_arm=12)
    design.draw(session, trial, actor, NOW, 3)
    locking.lock_plan(session, trial, actor, LOCKED, "the lid comes with the pumice here")
    stick_all(session, trial, actor)
    check = open_endpoint(session, trial, actor)
    score_all(session, trial, check, create_person(session, "scorer"), "A")
    score.close_check(session, check, actor, NOW)
    session.commit()
    client = sign_in("researcher")
    shown = flat(client.get(f"/trials/{trial.id}/conclude").text)
    assert "to tell apart what could not be: " in shown and 'name="missing_arm" value="yes" checked' in shown
    client.post(f"/trials/{trial.id}/again", data={"more_units": "0", "missing_arm": "yes"})
    made = newest(session)
    assert len(made.plan.treatments.arms) > 2 and made.plan.treatments.mixed_up() == {}
    assert [arm.guess for arm in made.plan.treatments.arms[:2]] == [1.0, 0.0] and made.plan.treatments.arms[
        2
    ].guess is None
    assert len(made.arms) == len(made.plan.treatments.arms)
    design.draw(session, made, actor, NOW, 3)
    whole = create_finished(session, actor, create_person(session, "scorer", "Tove"))
    session.commit()
    assert "missing_arm" not in client.get(f"/trials/{whole.id}/conclude").text
    with pytest.raises(InvalidInput, match="none is missing"):
        again(whole.plan, "27-01", Otherwise(missing_arm=True))
