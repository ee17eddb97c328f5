"""Nights to come: typed, in one's own unit, warned of on Today."""

from __future__ import annotations

from datetime import timedelta

import pytest
from sqlalchemy.orm import Session

from orderly_bench.trial.models import Lab
from tests.factories import TODAY, create_person, create_stuck
from tests.web.conftest import SignIn, flat


def nights(session: Session) -> dict[str, dict[str, object]]:
    session.expire_all()
    return session.query(Lab).one().forecast


def sent(**more: str) -> dict[str, str]:
    return {
        "day": str(TODAY + timedelta(days=1)),
        "low": "-4",
        "gains": "2.8",
        "unit": "C",
        "source": "the harbour's radio",
        **more,
    }


def test_today_warns_while_something_grows(session: Session, sign_in: SignIn) -> None:
    client = sign_in("scorer")
    assert client.post("/weather", data=sent()).status_code == 303
    assert "frost inside" not in client.get("/today").text, "nothing is out there"
    create_stuck(session, create_person(session))
    session.commit()
    assert "−1.2 °C (30 °F) inside: frost inside" in flat(client.get("/today").text)
    assert client.post("/weather", data=sent(low="50", gains="0", unit="F")).status_code == 303
    assert len(nights(session)) == 1 and "frost inside" not in client.get("/today").text
    assert "10 °C forecast" in flat(client.get("/weather").text)


@pytest.mark.parametrize(
    "wrong",
    [
        {"low": ""},
        {"low": "99"},
        {"day": str(TODAY - timedelta(days=1))},
        {"day": str(TODAY + timedelta(days=16))},
        {"high": "-9"},
    ],
)
def test_what_cannot_be_is_refused_and_kept_in_the_form(
    session: Session, sign_in: SignIn, wrong: dict[str, str]
) -> None:
    refused = sign_in("scorer").post("/weather", data=sent(**wrong))
    assert refused.status_code == 422 and "harbour" in refused.text and nights(session) == {}
    assert sign_in("reader").post("/weather", data=sent()).status_code == 403
