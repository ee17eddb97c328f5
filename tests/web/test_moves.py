"""Units are moved on the bench from the Tend page: one, several, a tray turned round, two trays changed."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from orderly_bench.core.plan.treatments import Container
from orderly_bench.core.tend.rearranged import Place, Way
from orderly_bench.trial.models import Trial
from orderly_bench.trial.moves import moves_of, standing_of
from tests.factories import create_locked, create_person
from tests.web.conftest import SignIn, flat


@pytest.fixture
def trial(session: Session) -> Trial:
    made = create_locked(session, create_person(session), container=Container(rows=2, columns=2))
    session.commit()
    return made


def places(session: Session, trial: Trial) -> dict[str, Place]:
    session.expire_all()
    return {unit.code: place for unit, place in standing_of(trial).items()}


def test_several_units_follow_one_another_from_a_place_on(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, before = sign_in(), places(session, trial)
    one, two = [code for code, place in before.items() if place in ((1, 2, 1), (1, 2, 2))]
    there = {place: code for code, place in before.items()}
    form = {
        "way": Way.FROM_HERE,
        "moved_code": f"{one} {two}",
        "to_tray": "1",
        "to_row": "1",
        "to_column": "1",
        "moved_why": "a drip",
    }
    assert client.post(f"/trials/{trial.id}/moves", data=form).status_code == 303
    after = places(session, trial)
    assert (after[one], after[two]) == ((1, 1, 1), (1, 1, 2))
    assert {after[there[1, 1, 1]], after[there[1, 1, 2]]} == {before[one], before[two]}, (
        "those who stood there take the places left"
    )
    assert [move.reason for move in moves_of(trial)] == ["a drip"] * 4
    assert "row 1, place 2" in flat(client.get(f"/trials/{trial.id}/tend").text)


def test_a_tray_is_turned_round_and_two_change(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, before = sign_in(), places(session, trial)
    moved = f"/trials/{trial.id}/moves"
    assert client.post(moved, data={"way": Way.TURNED, "to_tray": "1", "moved_why": "the sun"}).status_code == 303
    turned = {
        code: (1, 3 - row, 3 - column) if tray == 1 else (tray, row, column)
        for code, (tray, row, column) in before.items()
    }
    assert places(session, trial) == turned
    form = {"way": Way.CHANGED, "to_tray": "1", "other_tray": "2", "moved_why": "the door"}
    assert client.post(moved, data=form).status_code == 303
    swapped = {1: 2, 2: 1}
    assert places(session, trial) == {code: (swapped.get(t, t), r, c) for code, (t, r, c) in turned.items()}


@pytest.mark.parametrize(
    ("form", "says"),
    [
        ({"moved_code": "", "to_row": "1", "to_column": "1"}, "type codes of this trial"),
        ({"moved_code": "ONE", "to_row": "9", "to_column": "1"}, "has 2 rows of 2"),
        ({"way": Way.CHANGED, "other_tray": "1"}, "choose two trays"),
        ({"way": Way.TURNED, "to_tray": "77"}, "must be one of the trays"),
        ({"way": Way.TURNED, "moved_why": " "}, "say why"),
    ],
)
def test_what_can_not_be_is_refused_and_nothing_moves(
    session: Session, sign_in: SignIn, trial: Trial, form: dict[str, str], says: str
) -> None:
    before = places(session, trial)
    typed = {"way": Way.FROM_HERE, "to_tray": "1", "moved_why": "a reason kept"} | form
    typed["moved_code"] = next(iter(before)) if typed.get("moved_code") == "ONE" else typed.get("moved_code", "")
    answered = sign_in().post(f"/trials/{trial.id}/moves", data=typed)
    assert answered.status_code == 422
    assert says in flat(answered.text)
    assert typed["moved_why"].strip() in answered.text, "what was typed is kept"
    assert places(session, trial) == before
