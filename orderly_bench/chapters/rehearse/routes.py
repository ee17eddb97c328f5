"""Rehearse: a trial's plan, or two arms of a few cuttings for who learns. Writes nothing."""

from __future__ import annotations

from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.rehearse import views
from orderly_bench.core.errors import InvalidInput, OrderlyError
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial.access import Act
from orderly_bench.trial.blindness import arms_hidden
from orderly_bench.trial.models import Trial
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.pages import trial_page
from orderly_bench.web.store import db

chapter = Blueprint("rehearse", __name__, template_folder="templates")
USUAL = {"a": "40", "b": "70", "margin": "15", "again": "1"}
MOST_SEED = 2**31


def _typed() -> tuple[tuple[float, float], float, int]:
    values = {**USUAL, **{key: value for key, value in request.args.items() if value}}
    a, b, margin = (
        fields.number(values, key, name) for key, name in (("a", "rate of A"), ("b", "rate of B"), ("margin", "margin"))
    )
    seed = fields.whole(values, "again", "run")
    for name, rate in (("rate of A", a), ("rate of B", b)):
        if not 0 <= rate <= 100:
            raise InvalidInput(name, _("must be between 0 and 100 %"), rate)
    if not 0 < margin < 100 or not 0 <= seed < MOST_SEED:
        raise InvalidInput("margin", _("must be above 0 and below 100 points"), margin)
    return (a / 100, b / 100), margin / 100, seed


@route(chapter, "/rehearse", Act.READ)
def rehearse_page() -> ResponseReturnValue:
    """How do 3, 10 and 30 a side mislead?"""
    error: OrderlyError | None = None
    try:
        _, _, seed = _typed()
    except OrderlyError as found:
        error, seed = found, 1
    values = {**USUAL, **request.args}
    return render_template(
        "rehearse.html", sizes=views.SIZES, values=values, error=error, again=seed + 1
    ), 422 if error else 200


@route(chapter, "/rehearse/side", Act.READ)
def side() -> ResponseReturnValue:
    """One number a side, one pass."""
    rates, margin, seed = _typed()
    step = fields.optional_whole(request.args, "step", "pass") or 0
    size = fields.whole(request.args, "size", "a side")
    if request.args.get("nothing") == "yes":
        rates = (rates[0], rates[0])
    panel = views.side_by_side(rates, size, margin, seed, max(0, step))
    return render_template("_panel.html", panel=panel, step=max(0, step), values=request.args.to_dict())


@route(chapter, "/trials/<int:trial_id>/rehearse", Act.READ)
def rehearse_trial(trial: Trial) -> ResponseReturnValue:
    """The trial's own plan, at what is guessed and where nothing differs."""
    hidden = arms_hidden(db(), trial, actor())
    return trial_page("rehearse_trial.html", trial, "Design", hidden_arms=hidden)


@route(chapter, "/trials/<int:trial_id>/rehearse/panel", Act.READ)
def plan_panel(trial: Trial) -> ResponseReturnValue:
    """One scenario of the plan, one pass."""
    step = max(0, fields.optional_whole(request.args, "step", "pass") or 0)
    panel = views.of_plan(trial.plan, request.args.get("nothing") == "yes", step)
    return render_template("_panel.html", panel=panel, step=step, values=request.args.to_dict())
