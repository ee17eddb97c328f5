"""The state of a trial is derived from facts; the leaves of the walk say what needs a hand."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from orderly_bench.chapters.stick import operations as stick
from orderly_bench.core.errors import InvalidInput
from orderly_bench.trial import load
from orderly_bench.trial.access import ROLE_ACTS, Act, Role, may
from orderly_bench.trial.checks import planned_checks_of
from orderly_bench.trial.errors import NotFound
from orderly_bench.trial.walk import TrialState, facts, leaves
from tests.factories import (
    DAY_ZERO,
    NOW,
    TODAY,
    add_lot,
    create_drawn,
    create_finished,
    create_locked,
    create_person,
    create_stuck,
    create_trial,
    open_endpoint,
)


def state_of(session: Session, trial) -> TrialState:
    return facts(session, trial, TODAY).state


def test_states_follow_the_facts(session: Session) -> None:
    actor = create_person(session)
    assert state_of(session, create_trial(session, actor)) is TrialState.DESIGNING
    assert state_of(session, create_drawn(session, actor)) is TrialState.DESIGNING
    locked = create_locked(session, actor)
    assert state_of(session, locked) is TrialState.LOCKED
    add_lot(session, locked, actor, DAY_ZERO)
    stick.confirm_tray(session, locked, actor, NOW, 1)
    assert state_of(session, locked) is TrialState.STICKING
    stuck = create_stuck(session, actor)
    assert state_of(session, stuck) is TrialState.GROWING
    open_endpoint(session, stuck, actor)
    assert state_of(session, stuck) is TrialState.CHECK_OPEN
    assert (
        state_of(session, create_finished(session, actor, create_person(session, "scorer")))
        is TrialState.ENDPOINT_CLOSED
    )


def test_the_leaf_that_needs_a_hand_moves_along(session: Session) -> None:
    actor = create_person(session)

    def calling(trial) -> list[str]:
        return [leaf.chapter for leaf in leaves(trial, facts(session, trial, TODAY)) if leaf.state == "needs you"]

    assert calling(create_drawn(session, actor)) == ["Design"]
    assert calling(create_locked(session, actor)) == ["Prepare", "Stick"]
    stuck = create_stuck(session, actor)
    assert calling(stuck) == []
    open_endpoint(session, stuck, actor)
    assert calling(stuck) == ["Score"]
    assert calling(create_finished(session, actor, create_person(session, "scorer"))) == ["Compare", "Conclude"]


def test_the_notes_on_the_leaves_are_counts(session: Session) -> None:
    trial = create_stuck(session, create_person(session))
    notes = {leaf.chapter: leaf.note for leaf in leaves(trial, facts(session, trial, TODAY))}
    assert notes["Stick"] == "16 of 16" and notes["Tend"] == "day 42" and notes["Score"] == "0 of 2 checks"


@pytest.mark.parametrize(
    ("role", "can", "can_not"),
    [
        (Role.READER, {Act.READ}, {Act.SCORE, Act.PLAN, Act.TEND}),
        (Role.SCORER, {Act.STICK, Act.TEND, Act.SCORE}, {Act.PLAN, Act.RUN_CHECK, Act.LOOK_EARLY, Act.CONCLUDE}),
        (Role.RESEARCHER, {Act.PLAN, Act.RUN_CHECK, Act.CONCLUDE, Act.LOOK_EARLY}, {Act.PEOPLE}),
        (Role.LEAD, set(Act), set()),
    ],
)
def test_roles_are_as_the_lab_ruled(session: Session, role: Role, can: set[Act], can_not: set[Act]) -> None:
    person = create_person(session, role.value)
    assert all(may(person, act) for act in can) and not any(may(person, act) for act in can_not)
    assert can <= ROLE_ACTS[role]


def test_things_are_found_by_id_and_by_label_and_their_absence_is_said(session: Session) -> None:
    actor = create_person(session)
    trial = create_locked(session, actor)
    code = trial.units[0].code
    assert load.unit_by_code(session, f" {code[:3].lower()} {code[3:]} ") is trial.units[0]
    for number in (0, -1, 2**40, 999_999):
        with pytest.raises(NotFound, match="There is no trial"):
            load.trial(session, number)
    with pytest.raises(NotFound, match="belongs to another trial"):
        load.of_trial(create_drawn(session, actor), planned_checks_of(session, trial)[0], "check")


def test_codes_run_on_within_the_year(session: Session) -> None:
    actor = create_person(session)
    codes = [create_trial(session, actor).code for _ in range(3)]
    assert codes == sorted(codes) and len(set(codes)) == 3 and all(code.startswith("26-") for code in codes)


def test_a_person_needs_a_name_a_role_and_a_long_password(session: Session) -> None:
    from orderly_bench.chapters.people.operations import add_person

    good = ("Ada", "ada", "scorer", "a long password")
    for i, wrong in enumerate(("", "a b", "king", "short")):
        values = [wrong if j == i else value for j, value in enumerate(good)]
        with pytest.raises(InvalidInput):
            add_person(session, None, NOW, *values)
    assert add_person(session, None, NOW, *good).role == "scorer"
