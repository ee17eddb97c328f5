"""Figures for a monitor: what was asked and how long it took, told to this machine alone."""

from __future__ import annotations

import re

import pytest
from flask import Flask
from sqlalchemy import Connection
from sqlalchemy.orm import Session

from orderly_bench.database.engine import make_engine, nodes_of
from orderly_bench.web.gate import Places
from orderly_bench.web.sent_again import sent_again
from tests.conftest import database_url
from tests.factories import create_person, create_trial
from tests.web.conftest import SignIn, make_app
from tests.wires import Wire, through


def figures(app: Flask, **environ: str) -> dict[str, float]:
    answer = app.test_client().get("/metrics", environ_base={"REMOTE_ADDR": "127.0.0.1"} | environ)
    assert answer.status_code == 200 and answer.mimetype == "text/plain"
    lines = [line.rpartition(" ") for line in answer.text.splitlines() if not line.startswith("#")]
    return {name: float(value) for name, _, value in lines}


def test_requests_are_counted_by_route_and_not_by_what_was_asked_for(
    app: Flask, session: Session, sign_in: SignIn
) -> None:
    trial, client = create_trial(session, create_person(session)), sign_in()
    for path in (
        f"/trials/{trial.id}/design",
        f"/trials/{trial.id}/design",
        "/trials/999999/design",
        "/nowhere",
        "/static/app.css",
    ):
        client.get(path)
    found = figures(app)
    route = 'method="GET",route="/trials/<int:trial_id>/design"'
    assert found[f'orderly_bench_requests_total{{{route},status="200"}}'] == 2
    assert found[f'orderly_bench_requests_total{{{route},status="404"}}'] == 1
    assert found['orderly_bench_requests_total{method="GET",route="none",status="404"}'] == 1
    assert found[f'orderly_bench_request_seconds_bucket{{le="+Inf",{route}}}'] == 3
    assert 0 < found[f"orderly_bench_request_seconds_sum{{{route}}}"] < 60
    assert not any("static" in name or trial.code in name for name in found)


def test_only_this_machine_and_who_is_named_is_told(connection: Connection, session: Session) -> None:
    app = make_app(connection, METRICS_FOR=["10.0.0.5"])
    client = app.test_client()
    for address, status in (("127.0.0.1", 200), ("::1", 200), ("10.0.0.5", 200), ("10.0.0.6", 404), ("", 404)):
        assert client.get("/metrics", environ_base={"REMOTE_ADDR": address}).status_code == status, address
    behind = make_app(connection, PROXIES=1)
    asked = behind.test_client().get(
        "/metrics", headers={"X-Forwarded-For": "10.0.0.6"}, environ_base={"REMOTE_ADDR": "127.0.0.1"}
    )
    assert asked.status_code == 404, "who is passed on by a proxy is not this machine"


def test_what_waits_is_told(app: Flask) -> None:
    places = app.extensions["places"] = Places(1)
    app.extensions["worker"] = type("Busy", (), {"waiting": {(1, 0), (2, 0)}})()
    assert places.take(0) and not places.take(0)
    found = figures(app)
    assert (found["orderly_bench_requests_waiting"], found["orderly_bench_work_waiting"]) == (0, 2)


@pytest.fixture
def wires() -> tuple[Wire, Wire]:
    return Wire(database_url("orderly_test")), Wire(database_url("orderly_test"))


def test_the_nodes_are_told_and_requests_that_another_node_answered(engine: object, wires: tuple[Wire, Wire]) -> None:
    over_two = make_engine(through(database_url("orderly_test"), *wires))
    app = make_app(over_two)
    nodes = nodes_of(over_two)
    assert nodes is not None and nodes.wait(15)
    first, second = (f'{{node="127.0.0.1:{wire.port}"}}' for wire in wires)
    with nodes.change:
        assert nodes.change.wait_for(lambda: len(nodes.standing) == 2, 15)
    before = figures(app)
    app.wsgi_app = sent_again(app.wsgi_app, nodes)  # type: ignore[method-assign]
    wires[0].cut()
    app.test_client().get("/sign-in")
    with nodes.change:
        assert nodes.change.wait_for(lambda: not nodes.sizes()[nodes.nodes[0]].good, 15)
    after = figures(app)
    in_step, asked = "orderly_bench_database_node_in_step", "orderly_bench_database_node_asked"
    assert [before[name + node] for name in (in_step, asked) for node in (first, second)] == [1, 1, 1, 0]
    assert [after[name + node] for name in (in_step, asked) for node in (first, second)] == [0, 1, 0, 1]
    assert after["orderly_bench_database_cluster_size"] >= 1, "what its servers say"
    assert re.fullmatch(r"\d+\.0", str(after["orderly_bench_requests_sent_again_total"]))
    nodes.close()
    over_two.dispose()
    wires[1].cut()
