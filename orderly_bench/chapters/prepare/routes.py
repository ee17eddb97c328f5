"""Prepare: counts, litres, labels."""

from __future__ import annotations

from flask import Blueprint, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.prepare import operations, views
from orderly_bench.chapters.prepare.labels import labels_html
from orderly_bench.core.errors import OrderlyError, Refused
from orderly_bench.core.messages.words import tell
from orderly_bench.core.prepare.needs import media_of
from orderly_bench.trial import load
from orderly_bench.trial.access import Act
from orderly_bench.trial.models import Trial
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.pages import trial_page
from orderly_bench.web.pdf import download, pdf_of
from orderly_bench.web.store import db, now

chapter = Blueprint("prepare", __name__, template_folder="templates")


def _page(trial: Trial, error: OrderlyError | None = None) -> str:
    needs = views.needs_of(db(), trial) if trial.arms else None
    picks = views.picks_of(db(), trial)
    short = operations.shortages(db(), trial) if trial.arms and trial.prepared_at is None and not trial.lots else []
    return trial_page(
        "prepare.html", trial, "Prepare", error, needs=needs, picks=picks, short=short, typed=request.form
    )


@route(chapter, "/trials/<int:trial_id>/prepare", Act.READ)
def prepare_page(trial: Trial) -> ResponseReturnValue:
    """What has to stand ready."""
    return _page(trial)


@route(chapter, "/trials/<int:trial_id>/prepare", Act.PLAN, "POST")
def save_media(trial: Trial) -> ResponseReturnValue:
    """Keep the recipes."""

    def save() -> None:
        recipes = {m.id: fields.text(request.form, f"recipe_{i}") for i, m in enumerate(media_of(trial.plan))}
        operations.save_media(db(), trial, actor(), now(), recipes, fields.text(request.form, "reason"))

    return answer(save, url_for(".prepare_page", trial_id=trial.id), lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/prepared", Act.STICK, "POST")
def mark_prepared(trial: Trial) -> ResponseReturnValue:
    """All stands ready."""
    return answer(
        lambda: operations.mark_prepared(db(), trial, actor(), now(), fields.text(request.form, "anyway")),
        url_for("stick.stick_page", trial_id=trial.id),
        lambda e: _page(trial, e),
    )


@route(chapter, "/trials/<int:trial_id>/labels.pdf", Act.READ)
def labels(trial: Trial) -> ResponseReturnValue:
    """The labels as PDF."""
    if trial.locked_at is None:
        raise Refused(tell("Lock the plan on the Design page first; a redraw would make these labels wrong."))
    html = labels_html(trial, load.units_with_everything(db(), trial))
    return download(pdf_of(html), "application/pdf", f"labels-{trial.code}.pdf")
