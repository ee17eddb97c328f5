"""Stick: day 0, the bench-order walk, the tally."""

from __future__ import annotations

from flask import Blueprint, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.stick import operations, views
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.stick.tally import NOT_STUCK_REASONS
from orderly_bench.trial import load
from orderly_bench.trial.access import Act, arms_hidden
from orderly_bench.trial.errors import NotFound
from orderly_bench.trial.models import Cutting, Trial
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.pages import trial_page
from orderly_bench.web.store import db, now, today

chapter = Blueprint("stick", __name__, template_folder="templates")


def _tray_wanted(trial: Trial) -> int:
    """The tray asked for, else the first with something left to stick."""
    asked = request.values.get("tray", "")
    numbers = [tray.number for tray in trial.trays]
    if asked.isdecimal() and int(asked) in numbers:
        return int(asked)
    waiting = [u.place.tray.number for u in trial.units if any(c.status == "planned" for c in u.cuttings)]
    return min(waiting or numbers)


def _cutting(trial: Trial, number: str) -> Cutting | None:
    if not number:
        return None
    cutting = load.by_id(db(), Cutting, int(number) if number.isdecimal() else 0, "cutting")
    load.of_trial(trial, cutting.unit, "cutting")
    return cutting


def _page(trial: Trial, error: OrderlyError | None = None) -> str:
    hidden = arms_hidden(db(), trial, actor())
    units = load.units_with_everything(db(), trial)
    tray = _tray_wanted(trial) if trial.locked_at else 0
    return trial_page(
        "stick.html",
        trial,
        "Stick",
        error,
        typed=request.form,
        tray_number=tray,
        tray=views.map_of(trial, units, hidden, tray) if tray else None,
        rows=views.what_goes_in(trial, units, tray) if tray and not hidden else [],
        tallies=views.tally_rows(trial, units, hidden),
        chosen=_cutting(trial, request.values.get("cutting", "")),
        reasons=NOT_STUCK_REASONS,
    )


@route(chapter, "/trials/<int:trial_id>/stick", Act.READ)
def stick_page(trial: Trial) -> ResponseReturnValue:
    """The walk along the bench."""
    return _page(trial)


@route(chapter, "/trials/<int:trial_id>/lot", Act.STICK, "POST")
def set_lot(trial: Trial) -> ResponseReturnValue:
    """Keep day 0."""

    def save() -> None:
        day = fields.day(request.form, "day", "sticking day")
        approximate = request.form.get("about") == "yes"
        operations.record_lot(db(), trial, actor(), now(), day, approximate, fields.text(request.form, "held"), today())

    return answer(save, url_for(".stick_page", trial_id=trial.id), lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/stick/tray", Act.STICK, "POST")
def confirm_tray(trial: Trial) -> ResponseReturnValue:
    """A whole tray is stuck; on to the next."""
    return answer(
        lambda: operations.confirm_tray(db(), trial, actor(), now(), fields.whole(request.form, "tray", "tray")),
        url_for(".stick_page", trial_id=trial.id),
        lambda e: _page(trial, e),
    )


@route(chapter, "/trials/<int:trial_id>/stick/cutting", Act.STICK, "POST")
def set_cutting(trial: Trial) -> ResponseReturnValue:
    """Note an exception, or take it back."""

    def save() -> None:
        cutting = _cutting(trial, request.form.get("cutting", ""))
        if cutting is None:
            raise NotFound("Tap the cell of the cutting first; then say why it was not stuck.")
        operations.set_cutting(db(), trial, actor(), now(), cutting, fields.text(request.form, "reason"))

    tray = request.form.get("tray", "")
    return answer(save, url_for(".stick_page", trial_id=trial.id, tray=tray), lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/stick/finish", Act.STICK, "POST")
def finish(trial: Trial) -> ResponseReturnValue:
    """Sticking is done."""
    return answer(
        lambda: operations.finish_sticking(db(), trial, actor(), now()),
        url_for("tend.tend_page", trial_id=trial.id),
        lambda e: _page(trial, e),
    )
