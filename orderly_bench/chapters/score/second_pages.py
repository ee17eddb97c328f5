"""The second scorer's page: one drawn cutting after the other, the first score never in sight."""

from __future__ import annotations

import secrets

from flask import Blueprint, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.score import second
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.vocabulary import Roots
from orderly_bench.trial import load
from orderly_bench.trial.access import Act
from orderly_bench.trial.checks import refuse_unless_stuck
from orderly_bench.trial.models import CheckVisit
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.pages import trial_page
from orderly_bench.web.store import db, now

chapter = Blueprint("second", __name__, template_folder="templates")
MOST_SEED = 2**31


def _page(check: CheckVisit, error: OrderlyError | None = None) -> str:
    return trial_page(
        "scored_again.html", check.trial, "Score", error, check=check, drawn=second.drawn(db(), check), typed=request.form,
        seen_as=[(roots.value, roots.value) for roots in (Roots.NONE, Roots.COUNTED, Roots.SEEN, Roots.NOT_LOOKED)],
    )  # fmt: skip


@route(chapter, "/checks/<int:check_id>/second", Act.READ)
def page(check_id: int) -> ResponseReturnValue:
    """What is left to be scored again."""
    check = load.by_id(db(), CheckVisit, check_id, "check")
    refuse_unless_stuck(check.trial)
    return _page(check)


@route(chapter, "/checks/<int:check_id>/second/draw", Act.RUN_CHECK, "POST")
def draw(check_id: int) -> ResponseReturnValue:
    """Draw the share."""
    check = load.by_id(db(), CheckVisit, check_id, "check")

    def save() -> None:
        percent = fields.number(request.form, "percent", "share to be scored again")
        second.draw_second(db(), check, actor(), now(), percent, secrets.randbelow(MOST_SEED))

    return answer(save, url_for(".page", check_id=check.id), lambda e: _page(check, e))


@route(chapter, "/checks/<int:check_id>/second", Act.SCORE, "POST")
def keep(check_id: int) -> ResponseReturnValue:
    """Keep one; the next comes up."""
    check = load.by_id(db(), CheckVisit, check_id, "check")

    def save() -> None:
        cutting = load.cutting_with_unit(db(), fields.whole(request.form, "cutting", "cutting"))
        number = fields.optional_whole(request.form, "root_number", "number of roots")
        second.keep_second(db(), check, cutting, actor(), now(), fields.text(request.form, "roots"), number)

    return answer(save, url_for(".page", check_id=check.id), lambda e: _page(check, e))
