"""Signing in and out, the first account, people and roles, the lab's settings, the theme."""

from __future__ import annotations

from dataclasses import asdict
from datetime import UTC
from urllib.parse import urlsplit
from zoneinfo import ZoneInfo, available_timezones

from flask import Blueprint, current_app, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue
from flask_limiter import Limiter
from flask_login import current_user, login_user, logout_user
from sqlalchemy import select

from orderly_bench.chapters.people import operations
from orderly_bench.chapters.people.settings import change_settings
from orderly_bench.core.errors import OrderlyError, Refused
from orderly_bench.core.lab import Hemisphere, LabSettings, UnitSystem, season_of
from orderly_bench.trial import load
from orderly_bench.trial.access import Act, Role, may
from orderly_bench.trial.models import Person
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.dress import THEMES
from orderly_bench.web.store import db, lab, now

chapter = Blueprint("people", __name__, template_folder="templates")
SIGN_IN_TRIES = "8 per minute; 60 per hour"


def sign_in_limits(limiter: Limiter) -> None:
    """Throttle signing in, by address and by name."""
    limiter.limit(SIGN_IN_TRIES, methods=["POST"], deduct_when=lambda response: response.status_code == 401)(chapter)


def _safe_next(target: str) -> str:
    """A path of ours to go to after signing in; anything else goes to Today."""
    parts = urlsplit(target)
    fine = (
        target.startswith("/")
        and not target.startswith("//")
        and "\\" not in target
        and not parts.netloc
        and not parts.scheme
    )
    return target if fine else url_for("today.today_page")


def _sign_in_page(message: str = "", status: int = 200) -> ResponseReturnValue:
    demo_people = (
        list(db().scalars(select(Person).where(Person.active).order_by(Person.id)))
        if current_app.config["DEMO"]
        else []
    )
    page = render_template(
        "sign_in.html", message=message, next=request.values.get("next", ""), demo_people=demo_people
    )
    return page, status


@route(chapter, "/sign-in", Act.ANYONE)
def sign_in_page() -> ResponseReturnValue:
    """Sign in, or make the first account of an empty lab."""
    if operations.nobody_yet(db()):
        return redirect(url_for(".first_account_page"))
    return _sign_in_page()


@route(chapter, "/sign-in", Act.ANYONE, "POST")
def sign_in() -> ResponseReturnValue:
    """Sign in with name and password; throttled."""
    person = operations.sign_in(db(), request.form.get("sign_in_name", ""), request.form.get("password", ""))
    if person is None:
        return _sign_in_page("Name and password do not fit. Check both; a lead can give you a new account.", 401)
    return _welcome(person)


def _welcome(person: Person) -> ResponseReturnValue:
    session.clear()
    login_user(person)
    session.permanent = True
    return redirect(_safe_next(request.form.get("next", "")), 303)


@route(chapter, "/sign-in/demo", Act.ANYONE, "POST")
def sign_in_demo() -> ResponseReturnValue:
    """One click, in demo mode only."""
    if not current_app.config["DEMO"]:
        raise Refused("Signing in at a click is for the demo lab only. Use your name and password.")
    return _welcome(load.by_id(db(), Person, fields.whole(request.form, "person", "person"), "person"))


@route(chapter, "/sign-out", Act.ANYONE, "POST")
def sign_out() -> ResponseReturnValue:
    """Sign out."""
    logout_user()
    session.clear()
    return redirect(url_for(".sign_in_page"), 303)


def _first_account_page(error: OrderlyError | None = None) -> str:
    return render_template("first_account.html", error=error, typed=request.form)


@route(chapter, "/first-account", Act.ANYONE)
def first_account_page() -> ResponseReturnValue:
    """The first account of an empty lab is a lead."""
    if not operations.nobody_yet(db()):
        return redirect(url_for(".sign_in_page"))
    return _first_account_page()


@route(chapter, "/first-account", Act.ANYONE, "POST")
def first_account() -> ResponseReturnValue:
    """Make the first account; refused once there is one."""
    if not operations.nobody_yet(db()):
        raise Refused("The lab has its first account already. Ask a lead for yours.")
    form = request.form
    return answer(
        lambda: operations.add_person(
            db(), None, now(), form.get("name", ""), form.get("sign_in_name", ""), Role.LEAD, form.get("password", "")
        ),
        url_for(".sign_in_page"),
        _first_account_page,
    )


def _people_page(error: OrderlyError | None = None) -> str:
    people = list(db().scalars(select(Person).order_by(Person.name)))
    return render_template(
        "people.html",
        people=people,
        roles=list(Role),
        error=error,
        typed=request.form,
        manages=may(actor(), Act.PEOPLE),
    )


@route(chapter, "/people", Act.READ)
def people_page() -> ResponseReturnValue:
    """Who is in the lab."""
    return _people_page()


@route(chapter, "/people", Act.PEOPLE, "POST")
def add_person() -> ResponseReturnValue:
    """Add someone."""
    form = request.form
    return answer(
        lambda: operations.add_person(
            db(),
            actor(),
            now(),
            form.get("name", ""),
            form.get("sign_in_name", ""),
            form.get("role", ""),
            form.get("password", ""),
        ),
        url_for(".people_page"),
        _people_page,
    )


@route(chapter, "/people/<int:person_id>", Act.PEOPLE, "POST")
def change_person(person_id: int) -> ResponseReturnValue:
    """Change role, or close the account."""
    person = load.by_id(db(), Person, person_id, "person")
    return answer(
        lambda: operations.change_person(
            db(), actor(), now(), person, request.form.get("role", ""), request.form.get("active") == "yes"
        ),
        url_for(".people_page"),
        _people_page,
    )


def _lab_page(error: OrderlyError | None = None) -> str:
    kept = lab()
    shown = {name: f"{value:g}" if isinstance(value, float) else value for name, value in asdict(kept.settings).items()}
    today = now().replace(tzinfo=UTC).astimezone(ZoneInfo(kept.time_zone))
    return render_template(
        "lab.html",
        error=error,
        typed=shown | request.form.to_dict(),
        settings=kept.settings,
        today=today,
        season=season_of(today.date(), kept.settings.hemisphere),
        zones=sorted(zone for zone in available_timezones() if "/" in zone and not zone.startswith("Etc/")),
        changes=may(actor(), Act.LAB),
    )


@route(chapter, "/lab", Act.READ)
def lab_page() -> ResponseReturnValue:
    """What new trials start from."""
    return _lab_page()


@route(chapter, "/lab", Act.LAB, "POST")
def change_lab() -> ResponseReturnValue:
    """Keep the lab's settings."""
    form = request.form
    return answer(
        lambda: change_settings(db(), actor(), now(), lab(), _read_settings(form)), url_for(".lab_page"), _lab_page
    )


def _read_settings(form: fields.Form) -> LabSettings:
    return LabSettings(
        name=fields.text(form, "name"),
        time_zone=fields.text(form, "time_zone"),
        hemisphere=fields.one_of(form, "hemisphere", "hemisphere", Hemisphere),
        units=fields.one_of(form, "units", "units", UnitSystem),
        alpha=fields.number(form, "alpha", "alpha"),
        usual_margin=fields.number(form, "usual_margin", "usual margin"),
        fit_least_roots=fields.whole(form, "fit_least_roots", "fit to pot on, roots"),
        fit_least_mm=fields.number(form, "fit_least_mm", "fit to pot on, mm"),
    )


@route(chapter, "/theme", Act.ANYONE, "POST")
def set_theme() -> ResponseReturnValue:
    """Light or dark, kept in this browser."""
    back = _safe_next(request.form.get("back", "")) if current_user.is_authenticated else url_for(".sign_in_page")
    response = redirect(back, 303)
    wanted = request.form.get("theme", "")
    if wanted in THEMES:
        response.set_cookie("theme", wanted, max_age=365 * 86_400, samesite="Lax", httponly=True)
    return response
