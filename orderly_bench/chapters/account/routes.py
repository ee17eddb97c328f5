"""Signing in and out, one's own account, a new password by a link."""

from __future__ import annotations

from datetime import datetime, timedelta
from pathlib import Path

import segno
from flask import Blueprint, current_app, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue
from flask_login import login_user, logout_user

from orderly_bench.chapters.account import operations
from orderly_bench.core.errors import OrderlyError, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.formats.fingerprint import fingerprint
from orderly_bench.trial import load, sessions, throttle
from orderly_bench.trial.access import Act
from orderly_bench.trial.calendar import new_address, withdraw_address
from orderly_bench.trial.errors import NotFound
from orderly_bench.trial.models import Person
from orderly_bench.trial.people import active_people, nobody_yet, person_named
from orderly_bench.trial.sessions import KEY
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer, safe_next
from orderly_bench.web.asked_again import ask_again
from orderly_bench.web.languages import offered
from orderly_bench.web.pdf import download
from orderly_bench.web.store import commit, db, lab, now

chapter = Blueprint("account", __name__, template_folder="templates")
#: What the browser's signed cookie holds of someone who waits for the second factor.
SECOND = "second"
SECOND_HOLDS = timedelta(minutes=5)


def _sign_in_page(message: str = "", status: int = 200) -> ResponseReturnValue:
    offered = active_people(db()) if current_app.config["DEMO"] else []
    page = render_template("sign_in.html", message=message, next=request.values.get("next", ""), demo_people=offered)
    return page, status


@route(chapter, "/sign-in", Act.ANYONE)
def sign_in_page() -> ResponseReturnValue:
    """Sign in, or make the first account of an empty lab."""
    return redirect(url_for("people.first_account_page")) if nobody_yet(db()) else _sign_in_page()


@route(chapter, "/sign-in", Act.ANYONE, "POST")
def sign_in() -> ResponseReturnValue:
    """Sign in with name and password; the wait grows with every failed try."""
    name, password = request.form.get("sign_in_name", ""), request.form.get("password", "")
    keys = throttle.keys_of(name, request.remote_addr or "")
    wait = throttle.wait_for(db(), keys, now())
    if wait:
        return _sign_in_page(_("Too many tries. Wait {wait} s, then try again.", wait=wait), 429)
    person = person_named(db(), name, password)
    if person is None:
        return _failed(
            keys, _("Name and password do not fit. Check both; a lead can give you a link for a new password.")
        )
    if person.totp_secret is not None:
        session.clear()
        session[SECOND] = {"person": person.id, "at": now().isoformat(), "next": request.form.get("next", "")}
        return redirect(url_for(".second_page"), 303)
    return _welcome(person, request.form.get("next", ""))


def _own_secret() -> str:
    return str(current_app.config["SECRET_KEY"])


def _failed(keys: list[str], message: str) -> ResponseReturnValue:
    """A failed try is counted although the answer is a refusal."""
    throttle.failed(db(), keys, now())
    commit()
    return _sign_in_page(message, 401)


def _welcome(person: Person, target: str) -> ResponseReturnValue:
    session.clear()
    throttle.succeeded(db(), person.sign_in_name)
    device = request.headers.get("User-Agent", "")
    session[KEY] = sessions.begin(db(), person, now(), request.remote_addr or "", device)
    login_user(person)
    session.permanent = True
    return redirect(safe_next(target), 303)


def _waiting() -> tuple[Person, str] | None:
    """Who waits for the second factor, and where to afterwards; None when nobody does any more."""
    held = session.get(SECOND)
    if not held or now() - datetime.fromisoformat(held["at"]) > SECOND_HOLDS:
        return None
    person = db().get(Person, held["person"])
    return (person, held["next"]) if person is not None and person.active else None


@route(chapter, "/sign-in/second", Act.ANYONE)
def second_page() -> ResponseReturnValue:
    """The second factor."""
    return render_template("second.html", message="") if _waiting() else redirect(url_for(".sign_in_page"))


@route(chapter, "/sign-in/second", Act.ANYONE, "POST")
def second() -> ResponseReturnValue:
    """Check the six digits."""
    waiting = _waiting()
    if waiting is None:
        return redirect(url_for(".sign_in_page"), 303)
    person, target = waiting
    keys = throttle.keys_of(person.sign_in_name, request.remote_addr or "")
    wait = throttle.wait_for(db(), keys, now())
    if wait:
        return render_template(
            "second.html", message=_("Too many tries. Wait {wait} s, then try again.", wait=wait)
        ), 429
    if not operations.second_fits(db(), person, now(), request.form.get("code", ""), _own_secret()):
        throttle.failed(db(), keys, now())
        commit()
        return render_template(
            "second.html", message=_("The code does not fit, or was used. Take the one shown now.")
        ), 401
    return _welcome(person, target)


@route(chapter, "/sign-in/demo", Act.ANYONE, "POST")
def sign_in_demo() -> ResponseReturnValue:
    """One click, in demo mode only."""
    if not current_app.config["DEMO"]:
        raise Refused(_("Signing in at a click is for the demo lab only. Use your name and password."))
    person = load.by_id(db(), Person, fields.whole(request.form, "person", "person"), "person")
    if not person.active:
        raise Refused(_("{name}'s account is closed.", name=person.name))
    return _welcome(person, request.form.get("next", ""))


@route(chapter, "/sign-out", Act.ANYONE, "POST")
def sign_out() -> ResponseReturnValue:
    """Sign out: the session ends on the server too."""
    standing = sessions.standing(db(), session.get(KEY, ""), now())
    if standing is not None:
        sessions.end(db(), standing.person, standing.id, now())
    logout_user()
    session.clear()
    return redirect(url_for(".sign_in_page"), 303)


@route(chapter, "/certificate", Act.ANYONE)
def certificate() -> ResponseReturnValue:
    """How a phone comes to trust the lab: fingerprint, file, steps."""
    file = Path(current_app.config["AUTHORITY"])
    known = file.is_file()
    names = [name for name in current_app.config["HOSTS"] or [] if not name.replace(".", "").isdigit()]
    return render_template("certificate.html", print=fingerprint(file.read_bytes()) if known else "", names=names)


@route(chapter, "/authority.crt", Act.ANYONE)
def authority() -> ResponseReturnValue:
    """The authority, to be installed; its key never leaves the machine."""
    file = Path(current_app.config["AUTHORITY"])
    if not file.is_file():
        raise NotFound(_("This lab has no authority of its own."))
    return download(file.read_bytes(), "application/x-x509-ca-cert", "orderly-bench-authority.crt")


def _account_page(error: OrderlyError | None = None, feed: str = "") -> str:
    here = sessions.standing(db(), session.get(KEY, ""), now())
    secret, square = "", ""
    if actor().totp_secret is None:
        secret = session.setdefault("new_secret", operations.new_secret())
        address = operations.authenticator_address(actor(), secret, lab().name)
        square = segno.make(address, micro=False).svg_data_uri(scale=4, border=2)
    return render_template(
        "account.html",
        error=error,
        here=here.id if here else None,
        signed_in=sessions.of(db(), actor(), now()),
        secret=secret,
        square=square,
        second=actor().totp_secret is not None,
        calendar=actor().calendar_digest is not None,
        calendar_address=feed,
        languages=[("", N_("that of the browser")), *((one.code, one.name) for one in offered(current_app).values())],
    )


@route(chapter, "/account", Act.READ)
def account_page() -> ResponseReturnValue:
    """One's own account."""
    return _account_page()


@route(chapter, "/account/language", Act.READ, "POST")
def change_language() -> ResponseReturnValue:
    """The language in which one reads."""
    code = request.form.get("language", "")
    return answer(
        lambda: operations.read_in(actor(), code, list(offered(current_app))), url_for(".account_page"), _account_page
    )


@route(chapter, "/account/calendar", Act.READ, "POST")
def change_calendar() -> ResponseReturnValue:
    """A new secret address of one's own calendar, shown this once; or none any more."""
    if request.form.get("act") == "withdraw":
        withdraw_address(db(), actor(), now())
        return redirect(url_for(".account_page") + "#calendar", 303)
    key = new_address(db(), actor(), now())
    return _account_page(feed=url_for("today.calendar_feed", key=key, _external=True))


@route(chapter, "/account/password", Act.READ, "POST")
def change_password() -> ResponseReturnValue:
    """A new password of one's own."""
    here = sessions.standing(db(), session.get(KEY, ""), now())
    form = request.form

    def change() -> None:
        ask_again(form.get("old_password", ""))
        operations.change_password(db(), actor(), now(), form.get("new_password", ""), here.id if here else None)

    return answer(
        change,
        url_for(".account_page"),
        _account_page,
    )


@route(chapter, "/account/second", Act.READ, "POST")
def change_second() -> ResponseReturnValue:
    """Turn the second factor on with a code, or off; the password is asked for both."""

    def change() -> None:
        ask_again(request.form.get("own_password", ""))
        if actor().totp_secret is not None:
            operations.turn_off(db(), actor(), now())
        else:
            secret, code = session.get("new_secret", ""), request.form.get("code", "")
            operations.turn_on(db(), actor(), now(), secret, code, _own_secret())
        session.pop("new_secret", None)

    return answer(change, url_for(".account_page"), _account_page)


@route(chapter, "/account/sessions/<int:session_id>", Act.READ, "POST")
def end_session(session_id: int) -> ResponseReturnValue:
    """End one of one's own sessions."""
    sessions.end(db(), actor(), session_id, now())
    return redirect(url_for(".account_page"), 303)


@route(chapter, "/new-password/<key>", Act.ANYONE)
def new_password_page(key: str) -> ResponseReturnValue:
    """A new password by a link."""
    link = operations.link_of(db(), key, now())
    return render_template("new_password.html", person=link.person, error=None)


@route(chapter, "/new-password/<key>", Act.ANYONE, "POST")
def new_password(key: str) -> ResponseReturnValue:
    """Set it; the link is used up."""
    link = operations.link_of(db(), key, now())
    return answer(
        lambda: operations.use_link(db(), key, now(), request.form.get("new_password", "")),
        url_for(".sign_in_page"),
        lambda e: render_template("new_password.html", person=link.person, error=e),
    )
