"""Question: list trials, start one, ask its question, predict."""

from __future__ import annotations

from collections.abc import Mapping

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy import select

from orderly_bench.chapters.question import operations, views
from orderly_bench.chapters.question.forms import read_question
from orderly_bench.chapters.question.models import Prediction
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.vocabulary import FactorKind
from orderly_bench.trial.access import Act, may
from orderly_bench.trial.models import Trial
from orderly_bench.trial.walk import facts
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.pages import trial_page
from orderly_bench.web.store import db, now, today

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
    predictions = list(
        db().scalars(select(Prediction).where(Prediction.trial_id == trial.id).order_by(Prediction.id.desc()))
    )
    return trial_page(
        "question.html",
        trial,
        "Question",
        error,
        values=values,
        work=views.margin_for(values),
        kinds=[(kind.value, kind.value) for kind in FactorKind],
        predictions=predictions,
        standing=operations.standing_prediction(db(), trial),
        can_predict=not operations.first_result_exists(db(), trial),
    )


@route(chapter, "/trials/<int:trial_id>/question", Act.READ)
def question_page(trial: Trial) -> ResponseReturnValue:
    """The question."""
    return _page(trial)


@route(chapter, "/trials/<int:trial_id>/question", Act.PLAN, "POST")
def save_question(trial: Trial) -> ResponseReturnValue:
    """Keep the question."""

    def save() -> None:
        version = int(request.form.get("version", "0") or 0) if request.form.get("version", "").isdecimal() else 0
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
