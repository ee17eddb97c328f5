"""Role x route x session, from the url map: a route that is not in the table below fails, whoever added it."""

from __future__ import annotations

from datetime import timedelta

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import Connection
from sqlalchemy.orm import Session

from orderly_bench.trial import sessions
from orderly_bench.trial.access import ROLE_ACTS, Act, Role
from orderly_bench.trial.models import Person, Trial
from tests.factories import NOW, create_person, create_stuck
from tests.web.conftest import client_of, make_app
from tests.web.test_access import path_of

READ, PLAN, STICK, TEND, SCORE, RUN = (
    "read trials",
    "plan a trial",
    "stick cuttings",
    "tend a trial",
    "score cuttings",
    "open or close a check",
)
EARLY, CONCLUDE, PEOPLE, LAB, ANYONE = (
    "compare arms before the endpoint", "conclude a trial", "manage people", "change the lab's settings", "open this page",
)  # fmt: skip
#: By what it does: the endpoints that a person who may do it may use.
TABLE = {
    ANYONE: """along.worker account.certificate account.authority today.calendar_feed account.sign_in_page account.sign_in account.second_page account.second account.sign_in_demo account.sign_out
        account.new_password_page account.new_password people.first_account_page people.first_account people.set_theme audit.health audit.metrics""",
    READ: """wrong.page away.page away.handover weather.page weather.simulated together.page today.home today.own_calendar today.today_page today.find today.words_page sums.sums_page sums.sum_page question.trials question.question_page design.design_page design.design_curve design.curve_pass rehearse.rehearse_page rehearse.side rehearse.rehearse_trial
    rehearse.plan_panel shelf.genera_page design.design_csv design.plan_text
        prepare.prepare_page prepare.labels prepare.hormone_sheet prepare.water_sheet score.sheet second.page along.start prepare.shopping_csv prepare.shopping_pdf stick.sticking_sheet stick.stick_page tend.tend_page tend.intake_page score.score_page compare.compare_page compare.compare_more compare.doubts
        compare.figure conclude.conclude_page conclude.report conclude.report_pdf conclude.scores_csv conclude.scores_xlsx conclude.endpoint_csv conclude.package_zip plants.page plants.plants_csv plants.cost_page photos.page photos.measure photos.picture things.containers_page things.supplies_page things.as_file things.file_page things.covers_page things.zones_page
        people.people_page people.lab_page shelf.benches_page shelf.bench_page stock.plants_page stock.cards_page stock.media_page account.account_page account.change_password
        account.change_second account.change_language account.change_calendar account.end_session""",
    PLAN: """plants.keep_costs at_once.page at_once.beside_page at_once.begin_beside at_once.stick_first at_once.old_page at_once.bring_in at_once.take_in question.begin_again question.put_away question.start_trial question.save_question question.question_working question.predict question.bring_arms design.typed_curve design.import_design design.move shelf.keep_genus things.keep_cover things.keep_zone things.bring things.begin things.keep_container things.keep_supply stock.keep_plant stock.keep_card stock.keep_medium
        design.save_design design.design_working design.draw design.lock design.amend prepare.save_media tend.record_treatment tend.change_care tend.extra_check
        shelf.keep_bench shelf.stand_trays""",
    STICK: "prepare.mark_prepared prepare.see_to stick.set_lot stick.confirm_tray stick.confirm_all stick.set_cutting stick.set_several stick.put_off stick.tick_step stick.note_measures stick.note_in_order stick.replace_cutting stick.finish",
    TEND: "weather.keep weather.bring away.say away.withdraw photos.keep_photo photos.withdraw tend.set_job tend.enough tend.decide_missed tend.take_on tend.write_note tend.keep_log tend.stop_intake tend.withdraw_log tend.keep_reading tend.withdraw_reading minutes.keep minutes.withdraw minutes.put_right minutes.of_job tend.record_incident tend.move plants.trays_together score.reveal shelf.move_tray",
    SCORE: "photos.keep_length photos.withdraw_length plants.record_ends plants.keep_night plants.look_again along.page along.take along.bring_back score.bring second.keep score.keep_score score.keep_rest score.keep_again score.take_back score.suggest score.count_beside score.count_container",
    RUN: "along.release second.draw score.open_check score.close_check score.correct_way",
    EARLY: "compare.look_early",
    CONCLUDE: "conclude.conclude conclude.close_without_verdict conclude.conclude_working",
    PEOPLE: "people.add_person people.change_person people.give_link people.hand_over people.forget_name audit.audit_page audit.audit_csv",
    LAB: "people.change_lab",
}
MAY = {
    "lead": {READ, PLAN, STICK, TEND, SCORE, RUN, EARLY, CONCLUDE, PEOPLE, LAB},
    "researcher": {READ, PLAN, STICK, TEND, SCORE, RUN, EARLY, CONCLUDE},
    "scorer": {READ, STICK, TEND, SCORE},
    "reader": {READ},
}
OF = {endpoint: act for act, endpoints in TABLE.items() for endpoint in endpoints.split()}


def all_rules(app: Flask) -> list[tuple[object, str]]:
    """Every rule with the method it answers."""
    return [
        (rule, "POST" if "POST" in rule.methods else "GET")
        for rule in app.url_map.iter_rules()
        if rule.endpoint != "static"
    ]


def test_every_route_has_its_row_and_its_act(app: Flask) -> None:
    found = {rule.endpoint: vars(app.view_functions[rule.endpoint])["act"].value for rule, _ in all_rules(app)}
    assert found == OF, set(found.items()) ^ set(OF.items())


def test_roles_may_what_the_table_says() -> None:
    assert {role.value: {act.value for act in acts if act is not Act.ANYONE} for role, acts in ROLE_ACTS.items()} == MAY
    assert set(MAY) == {role.value for role in Role}


def ask(client: FlaskClient, path: str, method: str) -> int:
    path = path.replace("<name>", "rates").replace("<wanted>", "svg").replace("<key>", "no-such-key")
    return (client.post(path, data={}) if method == "POST" else client.get(path)).status_code


@pytest.fixture
def there(session: Session) -> tuple[Trial, Person]:
    trial = create_stuck(session, create_person(session))
    session.commit()
    return trial, create_person(session, "lead")


@pytest.mark.parametrize("role", list(MAY))
def test_a_signed_in_person_gets_403_exactly_where_the_role_may_not(
    app: Flask, session: Session, there: tuple[Trial, Person], role: str
) -> None:
    trial, _ = there
    wrong = []
    for rule, method in all_rules(app):
        if OF[rule.endpoint] == ANYONE:
            continue
        client = client_of(app, create_person(session, role))
        answered = ask(client, path_of(rule, trial, session), method)
        if (answered == 403) is (OF[rule.endpoint] in MAY[role]) or answered >= 500:
            wrong.append((rule.endpoint, answered))
    assert wrong == []


@pytest.mark.parametrize(
    "state", ["never signed in", "signed out", "idle too long", "account closed", "a forged key", "a demo session"]
)
def test_no_session_that_does_not_stand_opens_anything(
    app: Flask, connection: Connection, session: Session, there: tuple[Trial, Person], state: str
) -> None:
    trial, lead = there
    client = client_of(app, lead)
    if state == "never signed in":
        client = app.test_client()
    elif state == "signed out":
        sessions.end_all(session, lead, NOW)
    elif state == "idle too long":
        client.application = make_app(connection, CLOCK=lambda: NOW + timedelta(hours=13))
    elif state == "account closed":
        lead.active = False
    elif state == "a forged key":
        with client.session_transaction() as cookie:
            cookie["key"] = "forged"
    else:
        demo = make_app(connection, SECRET_KEY="of the demo lab", DEMO=True)
        stolen = client_of(demo, lead).get_cookie("session")
        client = app.test_client()
        client.set_cookie("session", stolen.value if stolen else "")
    session.commit()
    opened = []
    for rule, method in all_rules(app):
        if OF[rule.endpoint] == ANYONE:
            continue
        answered = ask(client, path_of(rule, trial, session), method)
        if answered != (401 if method == "POST" else 302):
            opened.append((rule.endpoint, answered))
    assert opened == []
