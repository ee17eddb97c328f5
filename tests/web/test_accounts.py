"""Sessions on the server, passwords, one-time links, the second factor, the growing wait, and what pages may be kept."""

from __future__ import annotations

import re
from datetime import timedelta

import pyotp
import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import Connection, func, select
from sqlalchemy.orm import Session

from orderly_bench.chapters.account import operations
from orderly_bench.chapters.people.operations import add_person
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.trial import sessions, throttle
from orderly_bench.trial.models import AuditEntry, Person, SignedIn, Throttle
from orderly_bench.trial.people import check_password, make_link
from orderly_bench.trial.second_factor import opened
from tests.factories import NOW, create_drawn, create_stuck, open_endpoint
from tests.web.conftest import flat, make_app

PASSWORD = "long enough to keep"

#: The installation's own secret, as the tests have it.
OWN = "for tests only"


@pytest.fixture
def ada(session: Session) -> Person:
    made = add_person(session, None, NOW, "Ada Wick", "ada", "lead", PASSWORD)
    session.commit()
    return made


def signed_in(app: Flask, name: str = "ada", password: str = PASSWORD) -> FlaskClient:
    client = app.test_client()
    assert client.post("/sign-in", data={"sign_in_name": name, "password": password}).status_code == 303
    return client


def later(connection: Connection, **more: float) -> Flask:
    return make_app(connection, CLOCK=lambda: NOW + timedelta(**more))


class TestSessions:
    def test_signing_out_ends_it_on_the_server_so_a_copied_cookie_is_worth_nothing(
        self, app: Flask, ada: Person
    ) -> None:
        client, thief = signed_in(app), app.test_client()
        with client.session_transaction() as cookie:
            copied = dict(cookie)
        with thief.session_transaction() as cookie:
            cookie.update(copied)
        assert thief.get("/today").status_code == 200
        client.post("/sign-out")
        assert thief.get("/today").status_code == 302

    def test_the_key_is_kept_as_a_digest_only(self, app: Flask, session: Session, ada: Person) -> None:
        client = signed_in(app)
        with client.session_transaction() as cookie:
            key = cookie["key"]
        (kept,) = session.scalars(select(SignedIn)).all()
        assert kept.key_digest == sessions.digest_of(key) and key not in kept.key_digest

    @pytest.mark.parametrize(("hours", "stands"), [(11.9, True), (12.1, False)])
    def test_twelve_idle_hours_end_it(
        self, app: Flask, connection: Connection, ada: Person, hours: float, stands: bool
    ) -> None:
        client = signed_in(app)
        client.application = later(connection, hours=hours)
        assert (client.get("/today").status_code == 200) is stands

    def test_seven_days_end_it_however_busy(self, session: Session, ada: Person) -> None:
        key = sessions.begin(session, ada, NOW)
        for hour in range(0, 168, 8):
            assert sessions.standing(session, key, NOW + timedelta(hours=hour)) is not None, hour
        assert sessions.standing(session, key, NOW + timedelta(days=7, minutes=1)) is None

    def test_a_new_password_ends_the_others_and_keeps_this_one(self, app: Flask, ada: Person) -> None:
        here, there = signed_in(app), signed_in(app)
        wrong = here.post(
            "/account/password", data={"old_password": "no", "new_password": "four quite unrelated words"}
        )
        assert wrong.status_code == 422 and there.get("/today").status_code == 200
        right = here.post(
            "/account/password", data={"old_password": PASSWORD, "new_password": "four quite unrelated words"}
        )
        assert right.status_code == 303
        assert here.get("/today").status_code == 200 and there.get("/today").status_code == 302

    @pytest.mark.parametrize("change", [{"role": "reader", "active": "yes"}, {"role": "scorer"}])
    def test_a_changed_role_or_closed_account_ends_all(
        self, app: Flask, session: Session, ada: Person, change: dict[str, str]
    ) -> None:
        bo = add_person(session, ada, NOW, "Bo Lind", "bo", "scorer", PASSWORD)
        session.commit()
        lead, client = signed_in(app), signed_in(app, "bo")
        assert lead.post(f"/people/{bo.id}", data={**change, "own_password": PASSWORD}).status_code == 303
        assert client.get("/today").status_code == 302

    def test_nothing_changed_ends_nothing(self, app: Flask, session: Session, ada: Person) -> None:
        bo = add_person(session, ada, NOW, "Bo Lind", "bo", "scorer", PASSWORD)
        session.commit()
        lead, client = signed_in(app), signed_in(app, "bo")
        lead.post(f"/people/{bo.id}", data={"role": "scorer", "active": "yes", "own_password": PASSWORD})
        assert client.get("/today").status_code == 200

    def test_own_sessions_are_listed_and_ended_and_others_are_not(
        self, app: Flask, session: Session, ada: Person
    ) -> None:
        add_person(session, ada, NOW, "Bo Lind", "bo", "scorer", PASSWORD)
        session.commit()
        here, there, other = signed_in(app), signed_in(app), signed_in(app, "bo")
        page = here.get("/account").text
        assert page.count("End it") == 1 and "<b>Here</b>" in page
        first, *rest = session.scalars(select(SignedIn).order_by(SignedIn.id)).all()
        for row in rest:
            here.post(f"/account/sessions/{row.id}")
        assert first.person_id == ada.id and here.get("/today").status_code == 200
        assert other.get("/today").status_code == 200, "another's session is not mine to end"
        assert there.get("/today").status_code == 302


class TestPasswords:
    @pytest.mark.parametrize(
        "bad",
        ["short", "password123", "qwertyuiop", "1q2w3e4r5t", "aaaaaaaaaaaa", "x" * 201, "nul\0 in the middle of it"],
    )
    def test_common_short_and_odd_ones_are_refused(self, bad: str) -> None:
        with pytest.raises(InvalidInput) as refused:
            check_password(bad)
        assert bad not in str(refused.value)

    @pytest.mark.parametrize("good", ["four quite unrelated words", "lantern-moss-9-ferry", "långt nog för att hålla"])
    def test_unrelated_words_are_taken(self, good: str) -> None:
        check_password(good, "Ada Wick", "ada")

    def test_a_password_made_of_ones_own_name_is_refused(self) -> None:
        with pytest.raises(InvalidInput, match="common one"):
            check_password("maren.tveit1", "Maren Tveit", "maren.tveit")

    @pytest.mark.parametrize("bad", ["tveitmaren2026", "rooting-hormone", "tarnheadstation", "cuttings-cuttings"])
    def test_one_made_of_words_of_the_lab_or_the_trade_is_refused(self, bad: str) -> None:
        with pytest.raises(InvalidInput, match="common one"):
            check_password(bad, "Maren Tveit", "maren", "Tarn Head field station")

    def test_a_link_works_once_within_a_day_and_ends_all_sessions(
        self, app: Flask, session: Session, ada: Person
    ) -> None:
        bo = add_person(session, ada, NOW, "Bo Lind", "bo", "scorer", PASSWORD)
        session.commit()
        lead, client = signed_in(app), signed_in(app, "bo")
        page = lead.post(f"/people/{bo.id}/link", data={"own_password": PASSWORD})
        assert page.status_code == 200 and page.headers["Cache-Control"] == "no-store"
        path = "/new-password/" + page.text.split("/new-password/")[1].split("<")[0].strip()
        weak = app.test_client().post(path, data={"new_password": "password123"})
        assert weak.status_code == 422 and "common one" in weak.text
        assert app.test_client().post(path, data={"new_password": "four quite unrelated words"}).status_code == 303
        assert client.get("/today").status_code == 302
        signed_in(app, "bo", "four quite unrelated words")
        assert app.test_client().post(path, data={"new_password": "yet another long phrase"}).status_code == 422

    def test_a_used_link_voids_the_others_of_that_person_and_nobody_elses(self, session: Session, ada: Person) -> None:
        bo = add_person(session, ada, NOW, "Bo Lind", "bo", "scorer", PASSWORD)
        first, second, other = (make_link(session, ada, who, NOW) for who in (bo, bo, ada))
        operations.use_link(session, second, NOW, "four quite unrelated words")
        with pytest.raises(Refused, match="used, too old, or none"):
            operations.use_link(session, first, NOW, "yet another long phrase")
        assert operations.link_of(session, other, NOW).person is ada

    def test_an_old_link_is_none(self, session: Session, ada: Person) -> None:
        key = make_link(session, ada, ada, NOW)
        assert operations.link_of(session, key, NOW + timedelta(hours=23)).person is ada
        for moment, wrong in ((NOW + timedelta(hours=25), key), (NOW, key + "x"), (NOW, "")):
            with pytest.raises(Refused, match="used, too old, or none"):
                operations.link_of(session, wrong, moment)


class TestSecondFactor:
    def test_it_is_asked_for_after_the_password_and_a_code_counts_once(
        self, app: Flask, connection: Connection, session: Session, ada: Person
    ) -> None:
        secret = operations.new_secret()
        code = pyotp.TOTP(secret).at(NOW)
        with pytest.raises(InvalidInput, match="does not fit"):
            operations.turn_on(session, ada, NOW, secret, "000000" if code != "000000" else "111111", OWN)
        operations.turn_on(session, ada, NOW, secret, f" {code[:3]} {code[3:]} ", OWN)
        session.commit()
        soon = later(connection, minutes=2)
        client = soon.test_client()
        first = client.post("/sign-in", data={"sign_in_name": "ada", "password": PASSWORD, "next": "/trials"})
        assert first.headers["Location"] == "/sign-in/second" and client.get("/today").status_code == 302
        assert client.post("/sign-in/second", data={"code": "12345"}).status_code == 401
        fresh = pyotp.TOTP(secret).at(NOW + timedelta(minutes=2))
        done = client.post("/sign-in/second", data={"code": fresh})
        assert done.status_code == 303 and done.headers["Location"] == "/trials"
        session.expire_all()
        assert not operations.second_fits(session, ada, NOW + timedelta(minutes=2), fresh, OWN), "used once"
        assert client.get("/today").status_code == 200

    def test_without_the_password_there_is_no_second_step(self, app: Flask, ada: Person) -> None:
        answer = app.test_client().post("/sign-in/second", data={"code": "123456"})
        assert answer.status_code == 303 and answer.headers["Location"] == "/sign-in"

    def test_it_is_turned_on_and_off_with_the_password_only(self, app: Flask, session: Session, ada: Person) -> None:
        client = signed_in(app)
        secret = re.search(r"or type <span[^>]*>([A-Z2-7]+)", flat(client.get("/account").text))[1]
        code = pyotp.TOTP(secret).at(NOW)
        for wrong in ("", "not mine"):
            refused = client.post("/account/second", data={"code": code, "own_password": wrong})
            assert refused.status_code == 422 and "asked again" in refused.text
        assert client.post("/account/second", data={"code": code, "own_password": PASSWORD}).status_code == 303
        session.refresh(ada)
        assert ada.totp_secret is not None and secret not in ada.totp_secret
        assert client.post("/account/second", data={"own_password": "not mine"}).status_code == 422
        assert client.post("/account/second", data={"own_password": PASSWORD}).status_code == 303
        session.refresh(ada)
        assert ada.totp_secret is None

    def test_its_secret_is_kept_sealed_by_this_installation(self, session: Session, ada: Person) -> None:
        secret = operations.new_secret()
        operations.turn_on(session, ada, NOW, secret, pyotp.TOTP(secret).at(NOW), OWN)
        assert ada.totp_secret.startswith("gAAAA") and opened(ada.totp_secret, OWN) == secret
        soon = NOW + timedelta(minutes=2)
        fresh = pyotp.TOTP(secret).at(soon)
        assert not operations.second_fits(session, ada, soon, fresh, "of another installation")
        assert operations.second_fits(session, ada, soon, fresh, OWN)

    def test_one_kept_before_sealing_still_fits_and_is_sealed_then(self, session: Session, ada: Person) -> None:
        ada.totp_secret = secret = operations.new_secret()
        session.flush()
        assert operations.second_fits(session, ada, NOW, pyotp.TOTP(secret).at(NOW), OWN)
        assert ada.totp_secret.startswith("gAAAA") and opened(ada.totp_secret, OWN) == secret


class TestThrottle:
    def test_the_wait_doubles_by_name_for_all_addresses_and_is_forgotten_in_an_hour(self, session: Session) -> None:
        waits = []
        for number in range(9):
            keys = throttle.keys_of("Ada", f"10.0.0.{number}")
            throttle.failed(session, keys, NOW)
            waits.append(throttle.wait_for(session, throttle.keys_of("ada ", "10.9.9.9"), NOW))
        assert waits == [0, 0, 0, 0, 2, 4, 8, 16, 32]
        assert throttle.wait_for(session, throttle.keys_of("bo", "10.9.9.9"), NOW) == 0
        assert throttle.wait_for(session, throttle.keys_of("ada", "x"), NOW + timedelta(seconds=33)) == 0
        for _ in range(20):
            throttle.failed(session, throttle.keys_of("ada", "x"), NOW)
        assert throttle.wait_for(session, throttle.keys_of("ada", "y"), NOW) == 15 * 60, "never longer than that"
        throttle.failed(session, throttle.keys_of("bo", "z"), NOW + timedelta(hours=2))
        assert sorted(session.scalars(select(Throttle.what))) == ["from z", "name bo"]

    def test_an_address_that_tries_many_names_waits_too(self, session: Session) -> None:
        for number in range(21):
            throttle.failed(session, throttle.keys_of(f"name{number}", "10.0.0.1"), NOW)
        assert throttle.wait_for(session, throttle.keys_of("somebody", "10.0.0.1"), NOW) > 0
        assert throttle.wait_for(session, throttle.keys_of("somebody", "10.0.0.2"), NOW) == 0

    def test_the_right_password_is_refused_while_waiting_and_clears_the_name_after(
        self, app: Flask, connection: Connection, ada: Person
    ) -> None:
        client = app.test_client()
        for _ in range(5):
            client.post("/sign-in", data={"sign_in_name": "ada", "password": "wrong one"})
        right = {"sign_in_name": "ada", "password": PASSWORD}
        waiting = client.post("/sign-in", data=right)
        assert waiting.status_code == 429 and "Wait 2 s" in waiting.text
        assert later(connection, seconds=3).test_client().post("/sign-in", data=right).status_code == 303

    def test_a_password_asked_again_is_throttled_as_at_the_door(
        self, app: Flask, connection: Connection, ada: Person
    ) -> None:
        client = signed_in(app)
        wrong = {"old_password": "no", "new_password": "four quite unrelated words"}
        for _ in range(5):
            assert client.post("/account/password", data=wrong).status_code == 422
        waiting = client.post("/account/password", data={**wrong, "old_password": PASSWORD})
        assert waiting.status_code == 422 and "Wait 2 s" in waiting.text
        at_the_door = {"sign_in_name": "ada", "password": PASSWORD}
        assert app.test_client().post("/sign-in", data=at_the_door).status_code == 429, "one count for both"

    def test_codes_of_the_first_account_are_throttled(self, connection: Connection, session: Session) -> None:
        session.commit()
        client = make_app(connection, FIRST_CODE="k7m-fern").test_client()
        form = {"name": "Eve", "sign_in_name": "eve", "password": PASSWORD}
        for _ in range(5):
            assert client.post("/first-account", data={**form, "code": "guess"}).status_code == 422
        refused = client.post("/first-account", data={**form, "code": "k7m-fern"})
        assert refused.status_code == 429 and "Too many tries" in refused.text


class TestOpenDoors:
    def test_the_first_account_needs_the_code_of_the_start(self, connection: Connection, session: Session) -> None:
        session.commit()
        client = make_app(connection, FIRST_CODE="k7m-fern").test_client()
        form = {"name": "Eve", "sign_in_name": "eve", "password": PASSWORD}
        for code in ("", "k7m", "k7m-fernx", "ü"):
            refused = client.post("/first-account", data={**form, "code": code})
            assert refused.status_code == 422 and "printed where" in refused.text
        assert client.post("/first-account", data={**form, "code": " k7m-fern "}).status_code == 303
        assert [p.role for p in session.scalars(select(Person))] == ["lead"]

    def test_no_page_is_kept_by_a_browser_and_styles_may_be(self, app: Flask, ada: Person) -> None:
        client = signed_in(app)
        for path in ("/today", "/trials", "/account", "/people", "/nowhere"):
            assert client.get(path).headers["Cache-Control"] == "no-store", path
        with client.get("/static/app.css") as styles:
            assert styles.headers.get("Cache-Control") != "no-store"

    def test_by_tls_the_cookie_is_secure_and_the_browser_told_to_stay_there(
        self, connection: Connection, ada: Person
    ) -> None:
        plain, secure = (make_app(connection, TLS=tls) for tls in (False, True))
        for app, wanted in ((plain, False), (secure, True)):
            answer = app.test_client().post(
                "/sign-in", data={"sign_in_name": "ada", "password": PASSWORD}, base_url="https://bench.example"
            )
            cookie = answer.headers["Set-Cookie"]
            assert ("Secure" in cookie) is wanted and "HttpOnly" in cookie and "SameSite=Lax" in cookie
            assert ("Strict-Transport-Security" in answer.headers) is wanted

    def test_the_address_behind_a_proxy_is_taken_only_where_one_is_configured(
        self, connection: Connection, session: Session, ada: Person
    ) -> None:
        for proxies, address in ((0, "127.0.0.1"), (1, "10.1.2.3")):
            client = make_app(connection, PROXIES=proxies).test_client()
            client.post(
                "/sign-in", data={"sign_in_name": "ada", "password": PASSWORD}, headers={"X-Forwarded-For": "10.1.2.3"}
            )
            newest = session.scalars(select(SignedIn).order_by(SignedIn.id.desc())).first()
            assert newest is not None and newest.address == address

    @pytest.mark.parametrize("typed", ["nul\0byte", "bell\x07", "esc\x1b[31m", "del\x7f"])
    def test_control_characters_are_refused_by_name_in_forms_and_addresses(
        self, app: Flask, ada: Person, typed: str
    ) -> None:
        client = signed_in(app)
        answer = client.post("/trials", data={"botanical_name": typed})
        assert answer.status_code == 422 and "botanical name: holds a character" in answer.text
        assert client.get("/today", query_string={"q": typed}).status_code == 422
        assert client.post("/trials", data={"botanical_name": "Olea europaea\n"}).status_code == 303

    @pytest.mark.parametrize("typed", ["--5", "-", "5-", "9" * 5_000, "1e3", "٥", "½", "0x1f", "1_000"])
    def test_what_is_no_whole_number_is_told_so(self, typed: str) -> None:
        from orderly_bench.web import fields

        with pytest.raises(InvalidInput, match="type a whole number"):
            fields.whole({"n": typed}, "n", "rows")
        assert fields.whole({"n": " -12 "}, "n", "rows") == -12


class TestLeaving:
    def test_what_is_under_way_goes_to_another_and_the_account_closes(
        self, app: Flask, session: Session, ada: Person
    ) -> None:
        bo = add_person(session, ada, NOW, "Bo Lind", "bo", "researcher", PASSWORD)
        trial = create_drawn(session, bo)
        others = create_stuck(session, ada)
        check = open_endpoint(session, others, bo)
        session.commit()
        client, leaving = signed_in(app), signed_in(app, "bo")
        path, own = f"/people/{bo.id}/leave", {"own_password": PASSWORD}
        assert client.post(path, data={"to": str(bo.id), **own}).status_code == 422
        assert client.post(path, data={"to": str(ada.id)}).status_code == 422, "the password is asked for"
        assert client.post(path, data={"to": str(ada.id), **own}).status_code == 303
        session.expire_all()
        assert check.opened_by_id == ada.id, "a check that is open goes over too"
        assert trial.created_by_id == ada.id and not bo.active and leaving.get("/today").status_code == 302

    def test_a_name_becomes_a_code_and_what_was_done_stays(self, app: Flask, session: Session, ada: Person) -> None:
        bo = add_person(session, ada, NOW, "Bo Lind", "bo", "scorer", PASSWORD)
        session.commit()
        client, own = signed_in(app), {"own_password": PASSWORD}
        signed_in(app, "bo")
        before = session.scalar(select(func.count(AuditEntry.id)))
        assert client.post(f"/people/{bo.id}/forget", data=own).status_code == 422, (
            "an open account first has to be closed"
        )
        client.post(f"/people/{bo.id}", data={"role": "scorer", **own})
        assert client.post(f"/people/{bo.id}/forget", data=own).status_code == 303
        session.expire_all()
        assert (bo.name, bo.sign_in_name) == (f"Person {bo.id}", f"person-{bo.id}")
        assert "Bo Lind" not in client.get("/people").text
        assert session.scalars(select(SignedIn).where(SignedIn.person_id == bo.id)).all() == []
        assert session.scalar(select(func.count(AuditEntry.id))) == (before or 0) + 2, "nothing of the trail is gone"
        assert app.test_client().post("/sign-in", data={"sign_in_name": "bo", "password": PASSWORD}).status_code == 401


def test_a_late_answer_puts_no_cookie_over_that_of_the_next_person(app: Flask, ada: Person) -> None:
    """Pages that only read set none, so what was under way when someone left can't undo the next one's sign-in."""
    client = signed_in(app)
    client.get("/today")  # the first page makes the token of its forms
    assert client.get("/trials").headers.getlist("Set-Cookie") == []
    left = client.post("/sign-out")
    assert left.status_code in (302, 303) and client.get("/trials").status_code in (302, 303)
