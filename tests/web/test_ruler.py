"""Lengths clicked on photos: kept with points and scale, into the score, hidden while another scores."""

from __future__ import annotations

import json

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.trial.models import PhotoKept, PhotoLength, ScoreRecord, Trial
from tests.factories import create_person, create_stuck, open_endpoint
from tests.web.conftest import SignIn, flat
from tests.web.test_photos import jpeg, send

CLICKED = {
    "points": json.dumps([[10, 10], [40, 50]]),
    "scale": json.dumps([[0, 0], [100, 0]]),
    "scale_mm": "20,0",
    "length_key": "once",
}


@pytest.fixture
def trial(session: Session) -> Trial:
    made = create_stuck(session, create_person(session))
    open_endpoint(session, made, create_person(session, name="Una"))
    session.commit()
    return made


def photo_of(session: Session, sign_in: SignIn, trial: Trial) -> PhotoKept:
    assert send(sign_in, trial, jpeg(), photo_code=trial.units[0].code, shows="roots").status_code == 303
    return session.scalars(select(PhotoKept)).one()


def test_a_length_is_kept_once_with_what_it_rests_on_and_goes_into_the_score(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    photo = photo_of(session, sign_in, trial)
    client, page = sign_in("scorer"), f"/photos/{photo.id}/measure"
    for _ in range(2):
        assert client.post(page, data=CLICKED).status_code == 303
    (kept,) = session.scalars(select(PhotoLength))
    assert (kept.mm, kept.scale_mm, kept.number) == (10.0, 20.0, 1)
    assert kept.points == [[10, 10], [40, 50]] and kept.scale == [[0, 0], [100, 0]]
    shown = client.get(page).text
    assert "10 mm" in flat(shown) and f"/photos/{photo.id}/large.jpg" in shown
    cutting = trial.units[0].cuttings[0].id
    asked = f"/trials/{trial.id}/score?check={trial.checks[-1].id}&cutting={cutting}&longest_root_mm=10"
    assert asked.replace("&", "&amp;") in shown
    pad = client.get(asked).text
    assert 'name="longest_root_mm"' in pad and 'value="10"' in pad
    assert not session.scalars(select(ScoreRecord)).all(), "nothing is kept before the scorer keeps it"


@pytest.mark.parametrize(
    "wrong",
    [
        {"points": "[[10, 10]]"}, {"points": "[[10, 10], [9999, 4]]"}, {"points": "nonsense"}, {"points": "{}"}, {"points": "[[1], [2]]"},
        {"scale": "[[0, 0], [3, 0]]"}, {"scale_mm": "0"}, {"scale_mm": "long"}, {"number": "9"}, {"points": "[[NaN, 1], [2, 2]]"},
    ],
)  # fmt: skip
def test_what_can_not_be_is_refused_and_nothing_kept(
    session: Session, sign_in: SignIn, trial: Trial, wrong: dict[str, str]
) -> None:
    photo = photo_of(session, sign_in, trial)
    assert sign_in("scorer").post(f"/photos/{photo.id}/measure", data=CLICKED | wrong).status_code == 422, wrong
    assert not session.scalars(select(PhotoLength)).all()


def test_another_s_lengths_are_hidden_while_a_check_is_open_and_one_is_withdrawn(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    photo = photo_of(session, sign_in, trial)
    page = f"/photos/{photo.id}/measure"
    assert sign_in("scorer").post(page, data=CLICKED).status_code == 303
    other = create_person(session, "scorer", "Tove")
    session.commit()
    assert "10 mm" not in flat(sign_in(person=other).get(page).text)
    assert "10 mm" in flat(sign_in("researcher").get(page).text)
    (kept,) = session.scalars(select(PhotoLength))
    client = sign_in("scorer")
    assert client.post(f"{page}/withdraw", data={"length_id": kept.id, "length_why": " "}).status_code == 422
    assert (
        client.post(f"{page}/withdraw", data={"length_id": kept.id, "length_why": "of another root"}).status_code == 303
    )
    assert "10 mm" not in flat(client.get(page).text)
    assert (
        client.post(
            f"/trials/{trial.id}/photos/withdraw", data={"photo_id": photo.id, "photo_why": "a face"}
        ).status_code
        == 303
    )
    assert client.get(page).status_code == 404 and client.post(page, data=CLICKED).status_code == 404
