"""What an administrator reads: requests and security events as JSON, the audit trail with filters and as CSV, a page for a monitor."""

from __future__ import annotations

import csv
import io
import json
import re
from datetime import timedelta
from pathlib import Path

import pytest
from bs4 import BeautifulSoup
from flask import Flask
from sqlalchemy import Connection
from sqlalchemy.orm import Session

from orderly_bench.chapters.people.operations import add_person
from tests.factories import NOW, create_locked, create_person, create_stuck
from tests.web.conftest import SignIn, client_of, make_app

PASSWORD = "long enough to keep"


def lines(folder: Path, name: str) -> list[dict]:
    file = folder / name
    return [json.loads(line) for line in file.read_text().splitlines()] if file.exists() else []


@pytest.fixture
def logged(connection: Connection, session: Session, tmp_path: Path) -> tuple[Flask, Path]:
    add_person(session, None, NOW, "Ada Wick", "ada", "lead", PASSWORD)
    session.commit()
    return make_app(connection, LOG_FOLDER=str(tmp_path / "log")), tmp_path / "log"


def test_every_request_is_a_line_without_names_or_what_was_typed(logged: tuple[Flask, Path], session: Session) -> None:
    app, folder = logged
    trial = create_locked(session, create_person(session))
    session.commit()
    client = app.test_client()
    client.post("/sign-in", data={"sign_in_name": "ada", "password": PASSWORD})
    answer = client.get(f"/trials/{trial.id}/design")
    client.get("/nowhere?secret=fern")
    found = lines(folder, "requests.jsonl")
    assert [(one["method"], one["route"], one["status"]) for one in found] == [
        ("POST", "/sign-in", 303), ("GET", "/trials/<int:trial_id>/design", 200), ("GET", "none", 404),
    ]  # fmt: skip
    assert (
        found[1]["request"] == answer.headers["X-Request-Id"]
        and isinstance(found[1]["person"], int)
        and found[1]["ms"] >= 0
    )
    text = (folder / "requests.jsonl").read_text()
    assert not any(word in text for word in ("Ada", "ada", PASSWORD, "fern"))
    assert folder.stat().st_mode & 0o077 == 0


def test_what_touches_rights_stands_apart(logged: tuple[Flask, Path], session: Session) -> None:
    app, folder = logged
    scorer = create_person(session, "scorer")
    trial = create_stuck(session, create_person(session))
    session.commit()
    client = app.test_client()
    client.post("/sign-in", data={"sign_in_name": "ada", "password": "wrong"})
    client.post("/sign-in", data={"sign_in_name": "ada", "password": PASSWORD})
    other = client_of(app, scorer)
    other.post(f"/trials/{trial.id}/draw", data={})
    other.post(f"/trials/{trial.id}/reveal", data={"reason": "watering arm A"})
    client.post(f"/people/{scorer.id}", data={"role": "reader", "active": "yes", "own_password": PASSWORD})
    client.post("/sign-out")
    assert [one["event"] for one in lines(folder, "security.jsonl")] == [
        "not signed in, or a wrong password", "signed in", "not allowed", "was shown the arms", "changed a person", "signed out",
    ]  # fmt: skip


def test_a_monitor_is_told_whether_the_database_answers(
    app: Flask, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    create_person(session)
    session.commit()
    answer = app.test_client().get("/health")
    assert answer.status_code == 200 and answer.json == {"status": "ok"}

    def gone(*_args: object, **_named: object) -> None:
        from sqlalchemy.exc import OperationalError

        raise OperationalError("SELECT 1", {}, Exception(2003, "no server"))

    monkeypatch.setattr("orderly_bench.chapters.audit.routes.db", lambda: type("Gone", (), {"execute": gone})())
    assert app.test_client().get("/health").status_code == 503


class TestAudit:
    def test_a_lead_reads_a_trials_trail_filtered_and_takes_it_away(self, session: Session, sign_in: SignIn) -> None:
        ines, tomas = (
            create_person(session, "researcher", "Ines Okoro"),
            create_person(session, "researcher", "Tomas Birk"),
        )
        trial, other = create_locked(session, ines), create_locked(session, tomas)
        client = sign_in("lead")
        page = BeautifulSoup(client.get(f"/audit?trial={trial.id}").text, "html.parser")
        rows = [row.get_text(" ") for row in page.select("tbody tr")]
        assert any("locked the plan" in row and "Ines Okoro" in row for row in rows) and not any(
            "Tomas" in row for row in rows
        )
        one = BeautifulSoup(client.get(f"/audit?trial={trial.id}&action=drew the layout").text, "html.parser")
        assert len(one.select("tbody tr")) == 1
        later = (NOW + timedelta(days=400)).date()
        assert "Nothing of that kind" in client.get(f"/audit?trial={trial.id}&first={later}").text
        taken = list(csv.DictReader(io.StringIO(client.get(f"/audit.csv?trial={other.id}&person={tomas.id}").text)))
        assert {row["person"] for row in taken} == {"Tomas Birk"} and [int(r["entry"]) for r in taken] == sorted(
            int(r["entry"]) for r in taken
        )

    def test_what_was_kept_is_read_in_words(self, session: Session, sign_in: SignIn) -> None:
        create_stuck(session, create_person(session, "researcher", "Ines Okoro"))
        client = sign_in("lead")
        plant = {"code": "L1", "taxon": "Lavandula angustifolia", "stage": "semi-hard", "most_to_take": "9"}
        assert client.post("/plants", data=plant).status_code == 303
        assert client.post("/media", data={"name": "pumice", "litres": ""}).status_code == 303
        cells = " ".join(
            cell.get_text(" ") for cell in BeautifulSoup(client.get("/audit").text, "html.parser").select("td")
        )
        assert "most to take 9" in " ".join(cells.split()) and "gone no" in " ".join(cells.split())
        assert not re.search(r"\b(None|False|True)\b|[\[{]'", cells)

    @pytest.mark.parametrize(
        "odd", ["trial=--5", "person=" + "9" * 40, "first=2026-13-45", "page=-1", "action=" + "x" * 900]
    )
    def test_odd_filters_are_no_fault(self, session: Session, sign_in: SignIn, odd: str) -> None:
        assert sign_in("lead").get(f"/audit?{odd}").status_code in (200, 422)

    @pytest.mark.parametrize("role", ["researcher", "scorer", "reader"])
    def test_it_is_the_leads_alone(self, session: Session, sign_in: SignIn, role: str) -> None:
        client = sign_in(role)
        assert [client.get(path).status_code for path in ("/audit", "/audit.csv")] == [403, 403]
