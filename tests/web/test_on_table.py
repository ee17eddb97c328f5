"""Piles counted on the table are held against the scores when a check is closed; what differs asks why, and that stays."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.score.on_table import Counted, Pile, Piles, held_against, piles
from orderly_bench.trial.models import CheckVisit
from orderly_bench.trial.progress import progress_of
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


@pytest.mark.parametrize(("counted", "why", "stays"), [
    ((None, None), "", ""), ((8, None), "", ""), ((8, 4), "", ""), ((None, 4), "", ""),
    ((9, 4), "one was torn off", "9 with roots were counted on the table and 8 in the scores: one was torn off"),
    ((9, 3), "one was torn off", "9 with roots were counted on the table and 8 in the scores; 3 without roots were counted in the bin and 4 in the scores: one was torn off"),
])  # fmt: skip
def test_what_stays_of_a_count(counted: tuple[int | None, int | None], why: str, stays: str) -> None:
    assert held_against(Counted(*counted, why), Piles(8, 4)) == stays


def test_each_plant_lies_once() -> None:
    found = piles([(Pile.ROOTED,), (Pile.BIN, Pile.ROOTED), (Pile.BIN,), (Pile.NOT_FOUND,), (None,), (Pile.BIN, None), (Pile.BIN, Pile.NOT_FOUND)])  # fmt: skip
    assert found == Piles(2, 2, 2), "two with roots, two bare, two wait; the one not found lies nowhere"
    assert found.words == "2 with roots, 2 in the bin, 2 not yet unpotted"


@pytest.mark.parametrize("why", ["", "  ", "x" * 201])
def test_a_count_that_differs_asks_why(why: str) -> None:
    with pytest.raises(InvalidInput, match="9 with roots lie on the table and 8 in the scores"):
        held_against(Counted(9, None, why), Piles(8, 4))


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


def test_the_piles_stand_beside_the_pad_and_follow_each_score(session: Session, sign_in: SignIn) -> None:
    trial = create_stuck(session, create_person(session), factors=[("medium", "medium", ["grit", "pumice"])], cuttings_per_arm="8")  # fmt: skip
    made = open_endpoint(session, trial, create_person(session))
    session.commit()
    client, first = sign_in("scorer"), trial.units[0].cuttings[0].id
    page = flat(client.get(f"/trials/{trial.id}/score").text)
    assert "0 with roots, 0 in the bin, 16 not yet unpotted" in page
    sent = {"cutting": str(first), "state": "alive", "roots": "counted", "root_number": "3", "revision": "0", "fit": "not judged"}  # fmt: skip
    kept = flat(client.post(f"/checks/{made.id}/scores", data=sent, headers={"HX-Request": "true"}).text)
    assert "1 with roots, 0 in the bin, 15 not yet unpotted" in kept
    for nth, (state, told) in enumerate((("missing", "1 with roots, 0 in the bin, 14 not"), ("dead", "1 with roots, 1 in the bin, 13 not")), 1):  # fmt: skip
        own = {"cutting": str(trial.units[nth].cuttings[0].id), "state": state, "roots": "not looked", "revision": "0", "fit": "not judged"}  # fmt: skip
        assert told in flat(client.post(f"/checks/{made.id}/scores", data=own, headers={"HX-Request": "true"}).text)
        session.expire_all()
        assert told in progress_of(session, made).piles.words, "counted by the database and from what was read alike"


def test_the_bin_is_held_against_the_scores_too(session: Session, sign_in: SignIn, check: CheckVisit) -> None:
    refused = sign_in().post(f"/checks/{check.id}/close", data={"table_bare": "5"})
    assert refused.status_code == 422 and "5 without roots lie in the bin and 8 in the scores" in flat(refused.text)
    assert sign_in().post(f"/checks/{check.id}/close", data={"table_bare": "8"}).status_code == 303
