"""What is read by hand on Tend: kept once, by arm or tray, beside the result, hidden from the blind, withdrawn with a reason."""

from __future__ import annotations

from datetime import timedelta

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.record.doubts import doubts_so_far
from orderly_bench.record.gather import gather
from orderly_bench.trial.models import HandReading, Trial
from tests.factories import BARE, DAY_ZERO, ROOTED, TODAY, create_person, create_stuck
from tests.web.conftest import SignIn, flat
from tests.web.test_without_verdict import ended


@pytest.fixture
def trial(session: Session) -> Trial:
    made = create_stuck(
        session, create_person(session), factors=[("medium", "medium", ["bark", "pumice"])], cuttings_per_arm="8"
    )
    session.commit()
    return made


def form(day: int = 5, **more: object) -> dict[str, object]:
    on = (DAY_ZERO + timedelta(days=day)).isoformat()
    return {"read": "shade, percent", "value": "60", "read_on": on, "read_at": ["arm A"]} | more


def test_one_line_is_kept_once_and_of_the_arm_it_names(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, page = sign_in("researcher"), f"/trials/{trial.id}"
    for _ in range(2):
        assert (
            client.post(f"{page}/readings", data=form(reading_key="once", read_where="noon, by the door")).status_code
            == 303
        )
    (kept,) = session.scalars(select(HandReading))
    assert (
        set(kept.units) == {unit.id for unit in trial.units if unit.arm.letter == "A"}
        and kept.as_read().words == "60 %"
    )
    shown = flat(client.get(f"{page}/tend").text)
    assert "60 %, noon, by the door" in shown
    assert client.post(f"{page}/readings", data=form(value="20", read_at=["arm B"])).status_code == 303
    told = [doubt.text for doubt in doubts_so_far(gather(session, trial))]
    assert any(text.startswith("Shade, percent: A 60 %, B 20 % on 1 day") for text in told), told


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"value": "a lot"}, "number"), ({"read": "luck"}, "choose one of"), ({"value": "300"}, "between 0 and 100"), ({"day": -3}, "between sticking"),
        ({"day": 400}, "between sticking"), ({"read_at": ["tray 9"]}, "choose the trays"), ({"read_where": "x" * 61}, "60 characters"),
    ],
)  # fmt: skip
def test_what_can_not_be_is_refused_with_all_that_was_typed(
    session: Session, sign_in: SignIn, trial: Trial, more: dict[str, object], says: str
) -> None:
    sent = form(**more)
    sent.pop("day", None)
    answered = sign_in("researcher").post(f"/trials/{trial.id}/readings", data=sent)
    assert answered.status_code == 422 and says in flat(answered.text)
    field = BeautifulSoup(answered.text, "html.parser").select_one("#by-hand [name='value']")
    assert field is not None and field["value"] == sent["value"]
    assert session.scalar(select(func.count(HandReading.id))) == 0


def test_the_cover_is_a_line_by_arm_on_the_strip_and_arms_stay_hidden_from_the_blind(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    client, page = sign_in("researcher"), f"/trials/{trial.id}"
    for day, value, at in ((0, "closed", []), (12, "vented", ["arm B"]), (30, "off", [])):
        sent = form(day, read="cover, from this day on", value=value, read_at=at)
        assert client.post(f"{page}/readings", data=sent).status_code == 303
    shown = client.get(f"{page}/tend").text
    assert "B vented" in shown and "A closed" in shown
    blind = sign_in("scorer").get(f"{page}/tend").text
    assert "vented" in blind, "the reading itself is no secret"
    assert "B vented" not in blind and "arm B" not in flat(blind)


def test_a_blind_scorer_names_trays_and_an_arm_sent_by_hand_reaches_nothing(
    session: Session, sign_in: SignIn, trial: Trial
) -> None:
    scorer = sign_in("scorer")
    assert scorer.post(f"/trials/{trial.id}/readings", data=form()).status_code == 422
    assert scorer.post(f"/trials/{trial.id}/readings", data=form(read_at=["tray 1"])).status_code == 303
    assert session.scalar(select(func.count(HandReading.id))) == 1


def test_it_is_withdrawn_with_a_reason_and_counts_no_more(session: Session, sign_in: SignIn, trial: Trial) -> None:
    client, page = sign_in("researcher"), f"/trials/{trial.id}"
    client.post(f"{page}/readings", data=form())
    client.post(f"{page}/readings", data=form(value="20", read_at=["arm B"]))
    one = session.scalars(select(HandReading.id)).first()
    sent = {"reading_id": str(one), "unread_why": ""}
    assert client.post(f"{page}/readings/withdraw", data=sent).status_code == 422
    assert client.post(f"{page}/readings/withdraw", data=sent | {"unread_why": "of another bench"}).status_code == 303
    session.expire_all()
    assert "of another bench" in client.get(f"{page}/tend").text
    assert not [d for d in doubts_so_far(gather(session, trial)) if d.code == "lived_apart"]
    other = create_stuck(session, create_person(session))
    session.commit()
    assert client.post(f"/trials/{other.id}/readings/withdraw", data=sent | {"unread_why": "x"}).status_code == 404


def test_it_stands_beside_the_result_on_every_page(session: Session, sign_in: SignIn) -> None:
    trial = ended(session, {"A": ROOTED, "B": BARE})
    client, page = sign_in("researcher"), f"/trials/{trial.id}"
    for value, arm in (("wet", "arm A"), ("dry", "arm B")):
        assert (
            client.post(
                f"{page}/readings",
                data=form(read="sun, hours a day", value="6" if value == "wet" else "2", read_at=[arm]),
            ).status_code
            == 303
        )
    for where in ("compare", "conclude", "report"):
        assert "Sun, hours a day: A 6 h, B 2 h" in flat(client.get(f"{page}/{where}").text), where
    assert TODAY
