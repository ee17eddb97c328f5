"""Sign-in, roles, headers, cross-site protection."""

from __future__ import annotations

import pytest
from flask import Blueprint, Flask
from sqlalchemy import Connection, select
from sqlalchemy.orm import Session

from orderly_bench.chapters.people.operations import add_person
from orderly_bench.core.stock.kept import BenchKept
from orderly_bench.stock.operations import keep_bench
from orderly_bench.trial.access import ROLE_ACTS, Act, Role
from orderly_bench.trial.models import AuditEntry, Person, Trial
from orderly_bench.web.access import route
from orderly_bench.web.store import db
from tests.conftest import SHIPPED_COST
from tests.factories import NOW, create_person, create_stuck
from tests.web.conftest import SignIn, client_of, make_app

PASSWORD = "long enough to keep"


def rules(app: Flask, method: str) -> list:
    return [rule for rule in app.url_map.iter_rules() if method in rule.methods and rule.endpoint != "static"]


def path_of(rule, trial: Trial, session: Session) -> str:
    from orderly_bench.chapters.tend.operations import jobs_of
    from orderly_bench.trial.checks import checks_of

    ids = {
        "trial_id": trial.id,
        "check_id": checks_of(session, trial)[0].id,
        "job_id": jobs_of(session, trial)[0].id,
        "person_id": trial.created_by_id,
        "session_id": 1,
        "photo_id": 1,
        "intake_id": 1,
        "away_id": 1,
        "bench_id": keep_bench(session, BenchKept("Bench of the matrix")).id,
    }
    path = rule.rule
    for name, value in ids.items():
        path = path.replace(f"<int:{name}>", str(value)).replace("<name>", "supplies")
    return path


@pytest.mark.parametrize(("status", "kept"), [(303, True), (422, False), (409, False), (404, False)])
def test_what_a_refused_request_wrote_is_not_kept(
    connection: Connection, session: Session, status: int, kept: bool
) -> None:
    person = create_person(session, name="Ines before")
    session.commit()
    app, chapter = make_app(connection), Blueprint("half", __name__)

    @route(chapter, "/half-way", Act.READ, "POST")
    def half_way() -> tuple[str, int]:
        db().get_one(Person, person.id).name = "Ines after"
        db().flush()
        return "half way", status

    app.register_blueprint(chapter)
    assert client_of(app, create_person(session)).post("/half-way").status_code == status
    session.expire_all()
    assert (person.name == "Ines after") is kept


def test_every_route_names_its_act(app: Flask) -> None:
    for rule in [*rules(app, "GET"), *rules(app, "POST")]:
        assert isinstance(vars(app.view_functions[rule.endpoint]).get("act"), Act), rule.endpoint


@pytest.mark.parametrize("role", ["reader", "scorer", "researcher"])
def test_every_write_is_refused_to_roles_without_its_act(
    app: Flask, session: Session, sign_in: SignIn, role: str
) -> None:
    trial = create_stuck(session, create_person(session))
    client = sign_in(role)
    before = session.scalars(select(AuditEntry.id)).all()
    refused = 0
    for rule in rules(app, "POST"):
        act = vars(app.view_functions[rule.endpoint])["act"]
        if act is Act.ANYONE or act in ROLE_ACTS[Role(role)]:
            continue
        response = client.post(path_of(rule, trial, session))
        assert response.status_code == 403, rule.rule
        assert f"A {role} may not" in response.text
        refused += 1
    assert refused >= {"reader": 20, "scorer": 12, "researcher": 2}[role]
    assert session.scalars(select(AuditEntry.id)).all() == before


def test_nobody_reads_without_signing_in(app: Flask, session: Session) -> None:
    trial = create_stuck(session, create_person(session))
    session.commit()
    client = app.test_client()
    for rule in rules(app, "GET"):
        if vars(app.view_functions[rule.endpoint])["act"] is Act.ANYONE:
            continue
        response = client.get(path_of(rule, trial, session))
        assert response.status_code == 302 and "/sign-in" in response.headers["Location"], rule.rule


def test_an_expired_session_keeps_the_entry(app: Flask, session: Session) -> None:
    trial = create_stuck(session, create_person(session))
    session.commit()
    response = app.test_client().post(f"/trials/{trial.id}/amend", data={"what": "moved tray 2", "reason": "<leak>"})
    assert response.status_code == 401
    assert 'name="what" value="moved tray 2"' in response.text
    assert "&lt;leak&gt;" in response.text and "Save it again" in response.text


def test_sign_in_with_the_right_password_only(app: Flask, session: Session) -> None:
    add_person(session, None, NOW, "Ada Wick", "ada", "lead", PASSWORD)
    session.commit()
    client = app.test_client()
    wrong = client.post("/sign-in", data={"sign_in_name": "ada", "password": "wrong password"})
    assert wrong.status_code == 401 and "do not fit" in wrong.text
    right = client.post("/sign-in", data={"sign_in_name": " ADA ", "password": PASSWORD, "next": "/trials"})
    assert right.status_code == 303 and right.headers["Location"] == "/trials"
    assert client.get("/today").status_code == 200


@pytest.mark.parametrize(
    "target", ["https://elsewhere.example/", "//elsewhere.example", "/\\elsewhere.example", "javascript:alert(1)"]
)
def test_signing_in_never_leads_elsewhere(app: Flask, session: Session, target: str) -> None:
    add_person(session, None, NOW, "Ada Wick", "ada", "lead", PASSWORD)
    session.commit()
    response = app.test_client().post("/sign-in", data={"sign_in_name": "ada", "password": PASSWORD, "next": target})
    assert response.headers["Location"] == "/today"


def test_guessing_passwords_is_throttled(app: Flask, session: Session) -> None:
    create_person(session)
    session.commit()
    client = app.test_client()
    answers = [client.post("/sign-in", data={"sign_in_name": "x", "password": "y"}).status_code for _ in range(7)]
    assert answers == [401] * 5 + [429] * 2


def test_a_closed_account_can_not_sign_in_or_go_on(app: Flask, session: Session, sign_in: SignIn) -> None:
    person = add_person(session, None, NOW, "Ada Wick", "ada", "reader", PASSWORD)
    client = sign_in(person=person)
    assert client.get("/today").status_code == 200
    person.active = False
    session.commit()
    assert client.get("/today").status_code == 302
    assert app.test_client().post("/sign-in", data={"sign_in_name": "ada", "password": PASSWORD}).status_code == 401


def test_demo_people_are_offered_in_demo_mode_only(app: Flask, connection: Connection, session: Session) -> None:
    person = create_person(session, "lead", "Maren Tveit")
    session.commit()
    outside = app.test_client()
    assert "Maren Tveit" not in outside.get("/sign-in").text
    assert outside.post("/sign-in/demo", data={"person": person.id}).status_code == 422
    demo = make_app(connection, DEMO=True).test_client()
    assert "Maren Tveit" in demo.get("/sign-in").text
    assert demo.post("/sign-in/demo", data={"person": person.id}).status_code == 303
    assert "Maren Tveit" in demo.get("/today").text


def test_the_first_account_is_a_lead_and_there_is_only_one_first(app: Flask, session: Session) -> None:
    session.commit()
    client = app.test_client()
    assert client.get("/sign-in").headers["Location"] == "/first-account"
    short = client.post("/first-account", data={"name": "Ada", "sign_in_name": "ada", "password": "short"})
    assert short.status_code == 422 and "12 to 200" in short.text and 'value="ada"' in short.text
    client.post("/first-account", data={"name": "Ada", "sign_in_name": "ada", "password": PASSWORD})
    assert [(p.sign_in_name, p.role) for p in session.scalars(select(Person))] == [("ada", "lead")]
    assert (
        client.post("/first-account", data={"name": "Eve", "sign_in_name": "eve", "password": PASSWORD}).status_code
        == 422
    )


def test_passwords_are_kept_as_argon2_hashes(session: Session) -> None:
    person = add_person(session, None, NOW, "Ada", "ada", "lead", PASSWORD)
    assert person.password_hash.startswith("$argon2id$") and PASSWORD not in person.password_hash
    assert SHIPPED_COST.memory_cost * SHIPPED_COST.time_cost >= 19 * 1024 * 2, "what OWASP asks at least of argon2id"


def test_headers_allow_nothing_inline_and_nothing_from_outside(app: Flask, session: Session) -> None:
    create_person(session)
    session.commit()
    headers = app.test_client().get("/sign-in").headers
    policy = headers["Content-Security-Policy"]
    assert "default-src 'none'" in policy and "unsafe-inline" not in policy and "http" not in policy
    assert headers["X-Content-Type-Options"] == "nosniff" and headers["X-Frame-Options"] == "DENY"


def test_a_write_without_its_token_is_refused_and_kept(connection: Connection, session: Session) -> None:
    person = create_person(session)
    session.commit()
    client = client_of(make_app(connection, WTF_CSRF_ENABLED=True), person)
    response = client.post("/trials", data={"botanical_name": "Buxus sempervirens"})
    assert response.status_code == 400 and 'value="Buxus sempervirens"' in response.text
    assert session.scalar(select(Trial.id)) is None


def test_the_last_lead_stays_lead(session: Session, sign_in: SignIn) -> None:
    lead = add_person(session, None, NOW, "Ada Wick", "ada", "lead", PASSWORD)
    client = sign_in(person=lead)
    own = {"own_password": PASSWORD}
    response = client.post(f"/people/{lead.id}", data={"role": "reader", "active": "yes", **own})
    assert response.status_code == 422 and "only lead" in response.text
    bo = {"name": "Bo", "sign_in_name": "bo", "role": "scorer", "password": PASSWORD}
    unconfirmed = client.post("/people", data=bo)
    assert unconfirmed.status_code == 422 and "asked again" in unconfirmed.text
    assert client.post("/people", data={**bo, **own}).status_code == 303
    assert client.post("/people", data={**bo, **own}).status_code == 422


def test_parts_are_shown_in_development_only(connection: Connection, session: Session, sign_in: SignIn) -> None:
    person = create_person(session)
    assert sign_in(person=person).get("/parts").status_code == 404
    assert "Stakes" in client_of(make_app(connection, DEVELOPMENT=True), person).get("/parts").text
