"""Minutes of work: written down, put right, withdrawn; how long a care job took."""

from __future__ import annotations

from flask import Blueprint, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.tend.routes import page_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial import load, time_spent
from orderly_bench.trial.access import Act
from orderly_bench.trial.blindness import arms_hidden
from orderly_bench.trial.models import Job, TimeSpent, Trial
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.store import db, now, today

chapter = Blueprint("minutes", __name__, template_folder="templates")


def _home(trial: Trial) -> str:
    return url_for("tend.tend_page", trial_id=trial.id) + "#minutes"


def _asked_for(trial: Trial) -> TimeSpent:
    """The entry that the form names."""
    one = load.by_id(db(), TimeSpent, fields.sent_number(request.form.get("minutes_id", "")) or 0, _("entry"))
    load.of_trial(trial, one, _("entry"))
    return one


@route(chapter, "/trials/<int:trial_id>/minutes", Act.TEND, "POST")
def keep(trial: Trial) -> ResponseReturnValue:
    """Keep minutes of work."""

    def save() -> None:
        form = request.form
        arms = [] if arms_hidden(db(), trial, actor()) else form.getlist("worked_for")
        minutes, day = fields.number(form, "minutes", "minutes"), fields.day(form, "worked_on", "day")
        told = time_spent.Told(form.get("work", ""), day, minutes, arms, form.get("minutes_key", "")[:40] or None)
        time_spent.keep_time(db(), trial, actor(), now(), told, today())

    return answer(save, _home(trial), lambda e: page_of(trial, e))


@route(chapter, "/trials/<int:trial_id>/minutes/right", Act.TEND, "POST")
def put_right(trial: Trial) -> ResponseReturnValue:
    """Other minutes than were kept."""

    def save() -> None:
        minutes = fields.number(request.form, "right_minutes", "minutes")
        why = fields.text(request.form, "right_why")
        arms = None if arms_hidden(db(), trial, actor()) else request.form.getlist("right_for")
        time_spent.put_right(db(), trial, actor(), now(), _asked_for(trial), (minutes, arms), why)

    return answer(save, _home(trial), lambda e: page_of(trial, e))


@route(chapter, "/trials/<int:trial_id>/minutes/withdraw", Act.TEND, "POST")
def withdraw(trial: Trial) -> ResponseReturnValue:
    """An entry no longer counts."""

    def save() -> None:
        why = fields.text(request.form, "minutes_why")
        time_spent.withdraw_time(db(), trial, actor(), now(), _asked_for(trial), why)

    return answer(save, _home(trial), lambda e: page_of(trial, e))


@route(chapter, "/jobs/<int:job_id>/minutes", Act.TEND, "POST")
def of_job(job_id: int) -> ResponseReturnValue:
    """How long a care job took."""
    job = load.by_id(db(), Job, job_id, "job")

    def save() -> None:
        minutes = fields.number(request.form, "job_minutes", "minutes")
        time_spent.keep_for_job(db(), job, actor(), now(), minutes)

    return answer(save, _home(job.trial), lambda e: page_of(job.trial, e))
