"""A code leads to its cutting: on the bench while it is stuck, then where it is scored."""

from __future__ import annotations

from sqlalchemy.orm import Session

from tests.factories import create_locked, create_person, create_stuck
from tests.web.conftest import SignIn


def test_a_code_opens_its_cutting_where_it_is_handled_now(session: Session, sign_in: SignIn) -> None:
    actor = create_person(session)
    waiting, stuck = create_locked(session, actor), create_stuck(session, actor)
    session.commit()
    client = sign_in("scorer")
    for trial, page in ((waiting, "stick"), (stuck, "score")):
        unit = trial.units[0]
        answer = client.get(f"/find?code={unit.code}")
        where = answer.headers["Location"]
        assert answer.status_code == 302 and f"/trials/{trial.id}/{page}" in where
        assert f"cutting={unit.cuttings[0].id}" in where and client.get(where).status_code == 200
