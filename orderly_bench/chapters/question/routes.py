"""Question: list trials, start one, ask its question, predict."""

from __future__ import annotations

from collections.abc import Mapping
from zoneinfo import ZoneInfo

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy import select

from orderly_bench.chapters.question import operations, views
from orderly_bench.chapters.question.forms import read_description, read_question
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.record.gather import standing_prediction
from orderly_bench.trial.access import Act, may
from orderly_bench.trial.models import Trial
from orderly_bench.trial.walk import facts
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.pages import trial_page
from orderly_bench.web.store import db, lab, now, today

chapter = Blueprint("question", __name__, template_folder="templates")


@route(chapter, "/trials", Act.READ)
def trials() -> ResponseReturnValue:
    """All trials of the lab, newest first."""
    return _trials_page()


def _trials_page(error: OrderlyError | None = None, typed: str = "") -> str:
    rows = [(trial, facts(db(), trial, today())) for trial in db().scalars(select(Trial).order_by(Trial.id.desc()))]
    return render_template("trials.html", rows=rows, error=error, typed=typed, may_plan=may(actor(), Act.PLAN))


@route(chapter, "/trials", Act.PLAN, "POST")
def start_trial() -> ResponseReturnValue:
    """Start a trial from a plant's name."""
    name = request.form.get("botanical_name", "")
    try:
        trial = operations.create_trial(db(), actor(), now(), name)
    except OrderlyError as error:
        return _trials_page(error, name), 422
    return redirect(url_for(".question_page", trial_id=trial.id), 303)


def _page(trial: Trial, typed: Mapping[str, str] | None = None, error: OrderlyError | None = None) -> str:
    values = {**views.typed_values(trial), **(typed or {})}
    if typed is not None:
        values["blind"] = typed.get("blind", "")
        values["version"] = str(trial.version)
    predictions = operations.predictions_of(db(), trial)
    stuck = [lot.day_zero for lot in trial.lots]
    problems, mends = views.separation_lines(trial.plan.treatments)
    return trial_page(
        "question.html",
        trial,
        "Question",
        error,
        values=values,
        work=views.margin_for(values),
        kinds=[(kind.value, kind.value) for kind in AspectKind],
        predictions=predictions,
        standing=standing_prediction(db(), trial, ZoneInfo(lab().time_zone), stuck),
        problems=problems,
        mends=mends,
    )


@route(chapter, "/trials/<int:trial_id>/question", Act.READ)
def question_page(trial: Trial) -> ResponseReturnValue:
    """The question."""
    return _page(trial)


@route(chapter, "/trials/<int:trial_id>/question", Act.PLAN, "POST")
def save_question(trial: Trial) -> ResponseReturnValue:
    """Keep the question."""

    def save() -> None:
        version = fields.whole(request.form, "version", "version of the plan")
        operations.save_question(db(), trial, actor(), now(), version, read_question(request.form))

    return answer(save, url_for(".question_page", trial_id=trial.id), lambda e: _page(trial, request.form, e))


@route(chapter, "/trials/<int:trial_id>/question/working", Act.PLAN, "POST")
def question_working(trial: Trial) -> ResponseReturnValue:
    """The margin, as it is typed. Writes nothing."""
    return render_template("_question_margin.html", work=views.margin_for(request.form))


@route(chapter, "/trials/<int:trial_id>/prediction", Act.PLAN, "POST")
def predict(trial: Trial) -> ResponseReturnValue:
    """Keep a ranked prediction."""
    ranking = [request.form.get(f"rank_{i}", "") for i in range(1, len(trial.arms) + 1)]
    return answer(
        lambda: operations.record_prediction(db(), trial, actor(), now(), ranking, request.form.get("why", "")),
        url_for(".question_page", trial_id=trial.id) + "#prediction",
        lambda e: _page(trial, None, e),
    )


def _arms_page(trial: Trial, error: OrderlyError | None = None) -> str:
    treatments = trial.plan.treatments
    problems, mends = views.separation_lines(treatments)
    typed = request.form if error is not None else {}
    return trial_page(
        "arms.html", trial, "Question", error, rows=views.arm_rows(treatments), problems=problems, mends=mends, typed=typed,
        kinds=[(kind.value, kind.value) for kind in AspectKind], split=request.args.get("split", type=int),
    )  # fmt: skip


@route(chapter, "/trials/<int:trial_id>/arms", Act.READ)
def arms_page(trial: Trial) -> ResponseReturnValue:
    """The arms side by side: what is asked, the same, travelling, not said."""
    return _arms_page(trial)


@route(chapter, "/trials/<int:trial_id>/arms", Act.PLAN, "POST")
def describe_arms(trial: Trial) -> ResponseReturnValue:
    """Keep what the arms say of each aspect."""

    def save() -> None:
        version = fields.whole(request.form, "version", "version of the plan")
        rows, groups = read_description(request.form, [arm.letter for arm in trial.arms])
        operations.describe_arms(db(), trial, actor(), now(), version, rows, groups)

    return answer(save, url_for(".arms_page", trial_id=trial.id), lambda e: _arms_page(trial, e))
