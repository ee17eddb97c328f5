"""Nights to come, as typed; Today warns of frost and heat."""

from __future__ import annotations

from flask import Blueprint, render_template, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.tend import forecast
from orderly_bench.trial.access import Act
from orderly_bench.trial.weather import keep_night, nights_from
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.store import db, lab, now, today

chapter = Blueprint("weather", __name__, template_folder="templates")


def _page(error: OrderlyError | None = None) -> str:
    nights = nights_from(lab(), today())
    return render_template(
        "weather.html",
        error=error,
        nights=nights,
        asked=forecast.ASKED,
        typed=dict(request.form) or {"day": today().isoformat()},
    )


@route(chapter, "/weather", Act.READ)
def page() -> ResponseReturnValue:
    """Nights to come."""
    return _page()


@route(chapter, "/weather", Act.TEND, "POST")
def keep() -> ResponseReturnValue:
    """Keep a night; a later one of the same day stands for it."""

    def save() -> None:
        typed = {one.name: fields.text(request.form, one.name) for one in forecast.ASKED}
        keep_night(db(), actor(), now(), forecast.read_night(typed, request.form.get("unit") == "F"), today())

    return answer(save, url_for(".page"), _page)
