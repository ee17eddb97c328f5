"""The first account, people and roles, the lab's settings, the theme."""

from __future__ import annotations

import secrets
from dataclasses import asdict
from datetime import UTC
from zoneinfo import ZoneInfo, available_timezones

from flask import Blueprint, current_app, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from flask_login import current_user
from sqlalchemy import select

from orderly_bench.chapters.people import operations
from orderly_bench.chapters.people.settings import change_settings
from orderly_bench.core.errors import InvalidInput, OrderlyError, Refused
from orderly_bench.core.lab import Hemisphere, LabSettings, season_of
from orderly_bench.core.measures import Measure, UnitSystem
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.typed import DayOrder
from orderly_bench.trial import load, throttle
from orderly_bench.trial.access import Act, Role, may
from orderly_bench.trial.models import Person
from orderly_bench.trial.people import make_link, nobody_yet
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer, safe_next
from orderly_bench.web.asked_again import ask_again, count_failed, refuse_while_waiting
from orderly_bench.web.dress import THEMES
from orderly_bench.web.store import db, lab, now

chapter = Blueprint("people", __name__, template_folder="templates")


def _first_account_page(error: OrderlyError | None = None) -> str:
    return render_template(
        "first_account.html", error=error, typed=request.form, code=bool(current_app.config["FIRST_CODE"])
    )


@route(chapter, "/first-account", Act.ANYONE)
def first_account_page() -> ResponseReturnValue:
    """The first account of an empty lab is a lead."""
    if not nobody_yet(db()):
        return redirect(url_for("account.sign_in_page"))
    return _first_account_page()


@route(chapter, "/first-account", Act.ANYONE, "POST")
def first_account() -> ResponseReturnValue:
    """Make the first account; refused once there is one."""
    if not nobody_yet(db()):
        raise Refused(_("The lab has its first account already. Ask a lead for yours."))
    form, wanted = request.form, current_app.config["FIRST_CODE"]
    if wanted is None:
        raise Refused(
            _(
                "The first account needs the code that ./bench run prints. Start with it, or set ORDERLY_BENCH_FIRST_CODE."
            )
        )
    keys = throttle.keys_of("", request.remote_addr or "")
    try:
        refuse_while_waiting(keys)
    except Refused as waiting:
        return _first_account_page(waiting), 429
    if wanted and not secrets.compare_digest(form.get("code", "").strip().encode(), wanted.encode()):
        error = InvalidInput(
            "code",
            _("is the one printed where Orderly Bench was started; only who starts it makes the first account"),
        )
        count_failed(keys)
        return _first_account_page(error), 422
    return answer(
        lambda: operations.add_person(
            db(), None, now(), form.get("name", ""), form.get("sign_in_name", ""), Role.LEAD, form.get("password", "")
        ),
        url_for("account.sign_in_page"),
        _first_account_page,
    )


def _people_page(error: OrderlyError | None = None, link: tuple[Person, str] | None = None) -> str:
    people = list(db().scalars(select(Person).order_by(Person.name)))
    return render_template(
        "people.html",
        people=people,
        roles=list(Role),
        error=error,
        typed=request.form,
        manages=may(actor(), Act.PEOPLE),
        asks=not current_app.config["DEMO"],
        link=link,
    )


@route(chapter, "/people", Act.READ)
def people_page() -> ResponseReturnValue:
    """Who is in the lab."""
    return _people_page()


@route(chapter, "/people", Act.PEOPLE, "POST")
def add_person() -> ResponseReturnValue:
    """Add someone."""
    form = request.form

    def add() -> None:
        _confirm()
        named = form.get("name", ""), form.get("sign_in_name", ""), form.get("role", ""), form.get("password", "")
        operations.add_person(db(), actor(), now(), *named)

    return answer(
        add,
        url_for(".people_page"),
        _people_page,
    )


@route(chapter, "/people/<int:person_id>", Act.PEOPLE, "POST")
def change_person(person_id: int) -> ResponseReturnValue:
    """Change role, or close the account."""
    person = load.by_id(db(), Person, person_id, "person")

    def change() -> None:
        _confirm()
        role, active = request.form.get("role", ""), request.form.get("active") == "yes"
        operations.change_person(db(), actor(), now(), person, role, active)

    return answer(change, url_for(".people_page"), _people_page)


@route(chapter, "/people/<int:person_id>/link", Act.PEOPLE, "POST")
def give_link(person_id: int) -> ResponseReturnValue:
    """A link for a new password, shown once."""
    person = load.by_id(db(), Person, person_id, "person")
    try:
        _confirm()
        key = make_link(db(), actor(), person, now())
    except OrderlyError as error:
        db().rollback()
        return _people_page(error), 422
    return _people_page(link=(person, url_for("account.new_password_page", key=key, _external=True)))


@route(chapter, "/people/<int:person_id>/leave", Act.PEOPLE, "POST")
def hand_over(person_id: int) -> ResponseReturnValue:
    """Hand what someone has under way to another, and close the account."""
    leaving = load.by_id(db(), Person, person_id, "person")

    def give() -> None:
        _confirm()
        to = load.by_id(db(), Person, fields.whole(request.form, "to", "to whom"), "person")
        operations.hand_over(db(), actor(), now(), leaving, to)

    return answer(give, url_for(".people_page"), _people_page)


@route(chapter, "/people/<int:person_id>/forget", Act.PEOPLE, "POST")
def forget_name(person_id: int) -> ResponseReturnValue:
    """Put a code in place of a name."""
    person = load.by_id(db(), Person, person_id, "person")

    def forget() -> None:
        _confirm()
        operations.forget_name(db(), actor(), now(), person)

    return answer(forget, url_for(".people_page"), _people_page)


def _confirm() -> None:
    """The password again, before people are changed."""
    ask_again(request.form.get("own_password", ""))


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
        fit_least_mm=fields.quantity(form, "fit_least_mm", _("fit to pot on, mm"), Measure.MM),
        held_most_hours=fields.number(form, "held_most_hours", "held, hours at most"),
        last_frost=fields.text(form, "last_frost"),
        first_frost=fields.text(form, "first_frost"),
        hot_from=fields.text(form, "hot_from"),
        hot_to=fields.text(form, "hot_to"),
        day_order=fields.one_of(form, "day_order", "days with strokes", DayOrder),
    )


@route(chapter, "/theme", Act.ANYONE, "POST")
def set_theme() -> ResponseReturnValue:
    """Light or dark, kept in this browser."""
    back = safe_next(request.form.get("back", "")) if current_user.is_authenticated else url_for("account.sign_in_page")
    response = redirect(back, 303)
    wanted = request.form.get("theme", "")
    if wanted in THEMES:
        response.set_cookie("theme", wanted, max_age=365 * 86_400, samesite="Lax", httponly=True)
    return response
