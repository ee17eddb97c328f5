"""A check taken along: its page for a device, and the service worker that opens it there without a network."""

from __future__ import annotations

from pathlib import Path

from flask import Blueprint, Response, current_app, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.score import along
from orderly_bench.chapters.score.routes import bench_of
from orderly_bench.core.errors import Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial import load
from orderly_bench.trial.access import Act, may
from orderly_bench.trial.checks import refuse_unless_stuck
from orderly_bench.trial.models import CheckVisit
from orderly_bench.trial.progress import progress_of
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.store import db, now

chapter = Blueprint("along", __name__, template_folder="templates")


@route(chapter, "/worker.js", Act.ANYONE)
def worker() -> ResponseReturnValue:
    """The service worker; at the root, so that it may answer for every page."""
    script = (Path(current_app.static_folder or "") / "worker.js").read_bytes()
    return Response(script, mimetype="text/javascript")


@route(chapter, "/along", Act.READ)
def start() -> ResponseReturnValue:
    """What a device has along: filled in there, for the server does not know what it keeps."""
    return render_template("along_start.html", brings=may(actor(), Act.RUN_CHECK))


@route(chapter, "/checks/<int:check_id>/along", Act.SCORE)
def page(check_id: int) -> ResponseReturnValue:
    """The pad of an open check for a device: codes and places, no arm, whoever takes it."""
    check = load.by_id(db(), CheckVisit, check_id, "check")
    refuse_unless_stuck(check.trial)
    if not check.is_open:
        raise Refused(_("Only an open check can be taken along."))
    bench = bench_of(check.trial, progress_of(db(), check), None) | {"container": None, "htmx": False}
    return render_template("along.html", out=along.out_with(db(), check), releases=False, **bench)


@route(chapter, "/checks/<int:check_id>/along", Act.SCORE, "POST")
def take(check_id: int) -> ResponseReturnValue:
    """Register a device."""
    check = load.by_id(db(), CheckVisit, check_id, "check")
    along.take(db(), check, actor(), now(), fields.text(request.form, "key"), fields.text(request.form, "device"))
    return "", 204


@route(chapter, "/checks/<int:check_id>/along/back", Act.SCORE, "POST")
def bring_back(check_id: int) -> ResponseReturnValue:
    """Nothing waits on the device any more."""
    check = load.by_id(db(), CheckVisit, check_id, "check")
    along.bring_back(db(), check, actor(), now(), fields.text(request.form, "key"))
    return "", 204


@route(chapter, "/checks/<int:check_id>/along/release", Act.RUN_CHECK, "POST")
def release(check_id: int) -> ResponseReturnValue:
    """Wait no longer for a device."""
    check = load.by_id(db(), CheckVisit, check_id, "check")
    number, why = fields.sent_number(request.form.get("device_id", "")), fields.text(request.form, "released_why")
    along.release(db(), check, actor(), now(), number, why)
    return redirect(url_for("score.score_page", trial_id=check.trial_id, check=check.id), 303)
