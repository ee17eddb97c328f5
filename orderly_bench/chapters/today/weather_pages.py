"""Nights to come, as typed; Today warns of frost and heat."""

from __future__ import annotations

from flask import Blueprint, render_template, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.core.errors import InvalidInput, OrderlyError
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend import forecast
from orderly_bench.core.tend.simulated_weather import simulated_nights
from orderly_bench.formats.forecast_csv import forecast_csv, read_forecast
from orderly_bench.trial.access import Act
from orderly_bench.trial.weather import keep_night, nights_from
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.pdf import download
from orderly_bench.web.store import db, lab, now, today

chapter = Blueprint("weather", __name__, template_folder="templates")


#: Nights of a forecast to practise with.
NIGHTS = 7


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


@route(chapter, "/weather/simulated.csv", Act.READ)
def simulated() -> ResponseReturnValue:
    """A forecast to practise with, as the file that a service would give."""
    nights = simulated_nights(today(), NIGHTS, lab().settings.hemisphere)
    return download(forecast_csv(nights), "text/csv", "simulated-nights.csv")


@route(chapter, "/weather/file", Act.TEND, "POST")
def bring() -> ResponseReturnValue:
    """Keep the nights of a file, all or none."""

    def save() -> None:
        name, data = fields.file(request.files, "file")
        if not data:
            raise InvalidInput("file", _("choose a CSV file with the columns day and low_c"))
        nights = read_forecast(data, fields.text(request.form, "file_gains"), name[-80:])
        for night in nights:
            keep_night(db(), actor(), now(), night, today())

    return answer(save, url_for(".page"), _page)
