"""Nights to come: typed, in one's own unit, warned of on Today."""

from __future__ import annotations

import io
from datetime import timedelta

import pytest
from flask.testing import FlaskClient
from sqlalchemy.orm import Session
from werkzeug.test import TestResponse

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


def bring(client: FlaskClient, data: bytes, gains: str = "") -> TestResponse:
    sent = {"file": (io.BytesIO(data), "nights.csv"), "file_gains": gains}
    return client.post("/weather/file", data=sent, content_type="multipart/form-data")


def test_a_simulated_forecast_goes_out_and_comes_in_as_a_file(session: Session, sign_in: SignIn) -> None:
    client = sign_in("scorer")
    file = client.get("/weather/simulated.csv")
    assert file.mimetype == "text/csv" and file.data == client.get("/weather/simulated.csv").data, (
        "the same for the same day"
    )
    assert bring(client, file.data, "2").status_code == 303
    kept = nights(session)
    assert (
        len(kept) == 7
        and {one["gains"] for one in kept.values()} == {2.0}
        and {one["source"] for one in kept.values()} == {"nights.csv"}
    )


def test_a_file_in_fahrenheit_is_told_by_its_column(session: Session, sign_in: SignIn) -> None:
    rows = f"day;low_f;high_f\n{TODAY};23;50\n"
    assert bring(sign_in("scorer"), rows.encode(), "9").status_code == 303
    assert nights(session)[str(TODAY)] == {"low": -5.0, "high": 10.0, "gains": 5.0, "source": "nights.csv"}


@pytest.mark.parametrize(
    ("rows", "says"),
    [
        ("", "choose a CSV file"), ("day,high_c\n{0},4\n", "no column"), ("day,low_c\n{0},4\n{0},5\n", "comes twice"),
        ("day,low_c\n{0},99\n", "beyond any weather"), ("day,low_c\n31 Feb,4\n", "row 2"), ("day,low_c\n1999-01-01,4\n", "between today"),
        ("day,low_c\n{0},4\n" + "2027-01-01,3\n", "between today"),
    ],
)  # fmt: skip
def test_one_wrong_night_and_none_is_kept(session: Session, sign_in: SignIn, rows: str, says: str) -> None:
    refused = bring(sign_in("scorer"), rows.replace("{0}", str(TODAY)).encode(), "2.5")
    assert refused.status_code == 422 and says in flat(refused.text) and 'value="2.5"' in refused.text
    assert nights(session) == {}
