"""The page of a trial that is stuck before it is asked in full."""

from __future__ import annotations

import secrets
from pathlib import Path

from flask import Blueprint, current_app, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.at_once import carried, old_trial, operations
from orderly_bench.chapters.score.undrawn import trials_of_undrawn
from orderly_bench.core.errors import InvalidInput, OrderlyError
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import SORTS, AspectKind
from orderly_bench.core.plan.value import CameToArms
from orderly_bench.core.question.at_once import ORIGINS
from orderly_bench.core.question.old_trial import ASKED, read_old
from orderly_bench.core.question.undrawn_group import aspects_said, read_group
from orderly_bench.core.score.undrawn import undrawn_groups
from orderly_bench.formats.data_package import read_package
from orderly_bench.formats.old_trial_csv import OUTCOMES, read_old_trial
from orderly_bench.trial.access import Act
from orderly_bench.trial.models import Trial
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import status_of
from orderly_bench.web.pages import trial_page
from orderly_bench.web.store import db, now, today

chapter = Blueprint("at_once", __name__, template_folder="templates")
MOST_SEED = 2**31
FIELDS = ("plant", "pieces", "differs", "ways", "endpoint_day", "source", "origin")


@route(chapter, "/stick-first", Act.PLAN)
def page() -> ResponseReturnValue:
    """Plant, pieces, ways: nothing else is asked before they stand."""
    return _page()


def _page(error: OrderlyError | None = None) -> str:
    kinds = [AspectKind.OTHER, *(kind for kind in AspectKind if kind is not AspectKind.OTHER)]
    return render_template(
        "at_once.html", error=error, typed=request.form, kinds=[(kind.value, kind.value) for kind in kinds],
        origins=[(origin, origin) for origin in ORIGINS], such_as=SORTS[AspectKind.MEDIUM].such_as,
    )  # fmt: skip


@route(chapter, "/stick-first", Act.PLAN, "POST")
def stick_first() -> ResponseReturnValue:
    """Drawn and locked; on to the bench."""
    try:
        asked = operations.read(db(), {name: fields.text(request.form, name) for name in FIELDS})
        trial = operations.stick_first(db(), actor(), now(), today(), asked, secrets.randbelow(MOST_SEED))
    except OrderlyError as error:
        db().rollback()
        return _page(error), status_of(error)
    return redirect(url_for("stick.stick_page", trial_id=trial.id), 303)


@route(chapter, "/trials/<int:trial_id>/group-beside", Act.PLAN)
def beside_page(trial: Trial) -> ResponseReturnValue:
    """Pieces that come in after the lock: a group of their own."""
    return _beside_page(trial)


def _beside_page(trial: Trial, error: OrderlyError | None = None) -> str:
    plan = trial.plan
    own = trials_of_undrawn(db(), trial)
    return trial_page(
        "group_beside.html", trial, "Stick", error, typed=request.form, aspects=aspects_said(plan), own=own,
        named=[name for name in undrawn_groups(plan) if name not in own],
        containers=[(name, name) for name in operations.containers_for(db(), trial)],
        origins=[(origin, origin) for origin in ORIGINS],
    )  # fmt: skip


@route(chapter, "/trials/<int:trial_id>/group-beside", Act.PLAN, "POST")
def begin_beside(trial: Trial) -> ResponseReturnValue:
    """Drawn and locked as a trial of its own; on to its sticking."""
    typed = {name: fields.text(request.form, name) for name in request.form}
    try:
        asked = read_group(typed, trial.plan)
        own = operations.begin_beside(
            db(),
            trial,
            actor(),
            now(),
            asked,
            typed.get("stands_in", ""),
            typed.get("reason", ""),
            secrets.randbelow(MOST_SEED),
        )
    except OrderlyError as error:
        db().rollback()
        return _beside_page(trial, error), status_of(error)
    return redirect(url_for("stick.stick_page", trial_id=own.id), 303)


@route(chapter, "/old-trial", Act.PLAN)
def old_page() -> ResponseReturnValue:
    """A finished trial comes in from its file."""
    return _old_page()


def _old_page(error: OrderlyError | None = None) -> str:
    typed = request.form or {"came": CameToArms.NOT_KNOWN.value}
    return render_template("old_trial.html", error=error, typed=typed, asked=ASKED, outcomes=OUTCOMES)


@route(chapter, "/old-trial", Act.PLAN, "POST")
def bring_in() -> ResponseReturnValue:
    """Arms, units and scores at once, checked together; on to what they say."""
    try:
        told = read_old({one.name: fields.text(request.form, one.name) for one in ASKED}, today())
        _name, data = fields.file(request.files, "file")
        if data is None:
            raise InvalidInput("file", _("choose the CSV file with a row for each cutting"))
        rows = read_old_trial(data, told.columns, told.unit, told.block, told.way, told.day, told.tallied == "alone")
        trial = old_trial.bring_in(db(), actor(), now(), today(), told, rows)
    except OrderlyError as error:
        db().rollback()
        return _old_page(error), status_of(error)
    return redirect(url_for("compare.compare_page", trial_id=trial.id), 303)


@route(chapter, "/trial-from-a-lab", Act.PLAN, "POST")
def take_in() -> ResponseReturnValue:
    """A whole trial of another lab, from the zip it wrote."""
    try:
        sent = fields.stream(request.files, "package")
        if sent is None:
            raise InvalidInput("file", _("choose the zip that the other lab wrote"))
        trial = carried.take_in(db(), actor(), now(), read_package(sent), Path(current_app.config["PHOTOS"]))
    except OrderlyError as error:
        db().rollback()
        return _old_page(error), status_of(error)
    return redirect(url_for("question.question_page", trial_id=trial.id), 303)
