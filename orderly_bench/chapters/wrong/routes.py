"""What went wrong: signs to likely causes, without any trial."""

from __future__ import annotations

from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.wrong import operations
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.question.starts import start_of
from orderly_bench.core.question.went_wrong import ASKED, hypotheses, read_case
from orderly_bench.trial.access import Act, may
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.store import db

chapter = Blueprint("wrong", __name__, template_folder="templates")


@route(chapter, "/what-went-wrong", Act.READ)
def page() -> ResponseReturnValue:
    """What shows and how they stood, likely causes below; what was typed stands in the address."""
    typed = {one.name: fields.text(request.args, one.name)[:200] for one in ASKED}
    found, own, error = [], [], None
    try:
        case = read_case(typed)
        found = [(one, start_of(one.start)) for one in hypotheses(case)]
        own = operations.own_failures(db(), case.taxon)
    except OrderlyError as refused:
        error = refused
    shown = render_template(
        "wrong.html", asked=ASKED, typed=typed, found=found, own=own, error=error, plans=may(actor(), Act.PLAN)
    )
    return shown, 422 if error else 200
