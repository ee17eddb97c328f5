"""A method card says when its pieces are taken and looked at, what they need and how they fail; its days begin a trial."""

from __future__ import annotations

import pytest
from bs4 import BeautifulSoup
from sqlalchemy.orm import Session

from orderly_bench.stock import operations as stock
from tests.factories import create_person, create_trial
from tests.web.conftest import SignIn, flat

CARD = {
    "taxon": "Olea europaea", "cutting_type": "semi-hard tip", "weeks_least": "6", "weeks_most": "8", "first_look": "30", "dead_from": "35",
    "window": "June to August", "needs": "warm below, closed", "signs": "black bases where it stands wet",
}  # fmt: skip


def test_it_is_typed_shown_and_begins_a_trial(session: Session, sign_in: SignIn) -> None:
    client = sign_in()
    assert client.post("/cards", data=CARD).status_code == 303
    page = flat(client.get("/cards").text)
    for told in ("Taken June to August.", "First look on day 30.", "Nothing is called dead before day 35.", "Needs warm below, closed.", "Fails by black bases"):  # fmt: skip
        assert told in page
    trial = create_trial(session, create_person(session))
    session.commit()
    card = stock.all_cards(session)[0]
    asked = client.post(f"/trials/{trial.id}/question/bring", data={"from_card": str(card.id)}).text
    form = BeautifulSoup(asked, "html.parser")
    typed = {
        name: form.select_one(f"[name={name}]")["value"] for name in ("endpoint_day", "check_days", "dead_from_day")
    }
    assert typed == {"endpoint_day": "56", "check_days": "30", "dead_from_day": "35"}


@pytest.mark.parametrize(
    "wrong", [{"first_look": "0"}, {"dead_from": "soon"}, {"window": "x" * 121}, {"signs": "x" * 301}]
)
def test_what_can_not_be_is_refused(sign_in: SignIn, wrong: dict[str, str]) -> None:
    assert sign_in().post("/cards", data=CARD | wrong).status_code == 422
