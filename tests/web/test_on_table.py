"""Piles counted on the table are held against the scores when a check is closed; what differs asks why, and that stays."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.score.on_table import held_against
from orderly_bench.trial.models import CheckVisit
from tests.factories import create_person, create_stuck, evidence, open_endpoint, score_all
from tests.web.conftest import SignIn, flat


@pytest.fixture
def check(session: Session) -> CheckVisit:
    """Eight with roots, eight without, all scored and open."""
    trial = create_stuck(session, create_person(session), factors=[("medium", "medium", ["grit", "pumice"])], cuttings_per_arm="8")  # fmt: skip
    made = open_endpoint(session, trial, create_person(session))
    score_all(session, trial, made, create_person(session, "scorer"), "A")
    session.commit()
    return made


@pytest.mark.parametrize(("counted", "why", "stays"), [(None, "", ""), (8, "", ""), (9, "one was torn off", "9 with roots were counted on the table and 8 in the scores: one was torn off")])  # fmt: skip
def test_what_stays_of_a_count(counted: int | None, why: str, stays: str) -> None:
    assert held_against(counted, 8, why) == stays


@pytest.mark.parametrize("why", ["", "  ", "x" * 201])
def test_a_count_that_differs_asks_why(why: str) -> None:
    with pytest.raises(InvalidInput, match="9 with roots lie on the table and 8 in the scores"):
        held_against(9, 8, why)


def test_closing_asks_and_the_reason_is_a_departure(session: Session, sign_in: SignIn, check: CheckVisit) -> None:
    client, where = sign_in(), f"/checks/{check.id}/close"
    assert "With roots on the table" in client.get(f"/trials/{check.trial_id}/score").text
    refused = client.post(where, data={"table_rooted": "9"})
    assert refused.status_code == 422 and "look for the ones that differ" in flat(refused.text)
    assert 'value="9"' in refused.text and "Why it differs from the scores" in refused.text
    assert client.post(where, data={"table_rooted": "nine"}).status_code == 422
    assert client.post(where, data={"table_rooted": "9", "table_why": "one was torn off"}).status_code == 303
    session.expire_all()
    told = "at the endpoint 9 with roots were counted on the table and 8 in the scores: one was torn off"
    assert told in evidence(session, check.trial).departures
    assert told[1:] in flat(client.get(f"/trials/{check.trial_id}/report").text)


def test_one_that_agrees_leaves_nothing_behind(session: Session, sign_in: SignIn, check: CheckVisit) -> None:
    assert sign_in().post(f"/checks/{check.id}/close", data={"table_rooted": "8"}).status_code == 303
    session.expire_all()
    assert check.closed_at is not None and not check.on_table
    assert not any("on the table" in told for told in evidence(session, check.trial).departures)
