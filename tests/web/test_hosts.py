"""The lab answers to its own names alone, and links are built from them."""

from __future__ import annotations

import pytest
from sqlalchemy import Connection
from sqlalchemy.orm import Session

from orderly_bench.machine import serve
from tests.factories import create_person
from tests.web.conftest import client_of, make_app


def test_a_foreign_name_in_a_request_is_refused_and_no_link_is_built_from_it(
    connection: Connection, session: Session
) -> None:
    app = make_app(connection, HOSTS=["localhost", "bench.example.org"])
    lead = create_person(session, "lead")
    session.commit()
    client = client_of(app, lead)
    for host in ("elsewhere.example", "bench.example.org.elsewhere.example", "elsewhere.example:80"):
        assert client.get("/sign-in", headers={"Host": host}).status_code == 400
        refused = client.post("/account/calendar", headers={"Host": host})
        assert refused.status_code == 400 and "elsewhere" not in refused.text
    given = client.post("/account/calendar", base_url="http://localhost:8443")
    assert given.status_code == 200 and "http://localhost:8443/calendar/" in given.text


def test_the_names_are_those_of_address_network_and_configuration(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(serve.socket, "gethostname", lambda: "potting-shed")
    monkeypatch.delenv("ORDERLY_BENCH_HOSTS", raising=False)
    assert serve.hosts(None) == ["localhost", "127.0.0.1"]
    monkeypatch.setenv("ORDERLY_BENCH_HOSTS", "bench.example.org, localhost,")
    assert serve.hosts(serve.Lan("192.0.2.7")) == [
        "localhost",
        "127.0.0.1",
        "192.0.2.7",
        "potting-shed",
        "potting-shed.local",
        "bench.example.org",
    ]
