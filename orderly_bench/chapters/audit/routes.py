"""The audit trail: read, filtered, taken away as CSV."""

from __future__ import annotations

from datetime import date
from typing import Any

from flask import Blueprint, Response, abort, current_app, render_template, request, url_for
from flask.typing import ResponseReturnValue
from prometheus_client import CONTENT_TYPE_LATEST, generate_latest

from orderly_bench.chapters.audit import operations
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.formats.table_csv import write
from orderly_bench.trial.access import Act
from orderly_bench.web import fields
from orderly_bench.web.access import route
from orderly_bench.web.metrics import may_be_told
from orderly_bench.web.pdf import download
from orderly_bench.web.store import db

chapter = Blueprint("audit", __name__, template_folder="templates")
FILTERS = ("trial", "person", "action", "first", "last")
COLUMNS = ("entry", "at", "person", "action", "old", "new", "why")


def _number(name: str) -> int | None:
    return fields.sent_number(request.args.get(name, ""))


def _day(name: str, words: str) -> date | None:
    typed = request.args.get(name, "")
    try:
        return date.fromisoformat(typed) if typed else None
    except ValueError as error:
        raise InvalidInput(words, _("is no day of the calendar; give it as 2026-05-20"), typed[:20]) from error


def _wanted() -> operations.Wanted:
    return operations.Wanted(
        _number("trial"),
        _number("person"),
        request.args.get("action", "")[:60],
        _day("first", "first day"),
        _day("last", "last day"),
    )


@route(chapter, "/audit", Act.PEOPLE)
def audit_page() -> ResponseReturnValue:
    """The entries that are wanted, newest first."""
    wanted, page = _wanted(), _number("page") or 0
    found, older = operations.entries(db(), wanted, page)
    asked: dict[str, Any] = {name: value for name, value in request.args.items() if name in FILTERS}
    return render_template(
        "audit.html",
        entries=found,
        wanted=wanted,
        trials=operations.trials(db()),
        people=operations.people(db()),
        actions=operations.actions(db()),
        older=url_for(".audit_page", **{**asked, "page": str(page + 1)}) if older else "",
        csv=url_for(".audit_csv", **asked),
    )


@route(chapter, "/audit.csv", Act.PEOPLE)
def audit_csv() -> ResponseReturnValue:
    """All that are wanted, as CSV."""
    content = write(COLUMNS, operations.everything(db(), _wanted()))
    return download(content, "text/csv; charset=utf-8", "audit.csv")


@route(chapter, "/metrics", Act.ANYONE)
def metrics() -> ResponseReturnValue:
    """For a monitor on this machine: what was asked, how long it took, what waits, how the database stands. Nothing of the lab."""
    if not may_be_told():
        abort(404)
    return Response(generate_latest(current_app.extensions["metrics"].registry), content_type=CONTENT_TYPE_LATEST)


@route(chapter, "/health", Act.ANYONE)
def health() -> ResponseReturnValue:
    """For a monitor: whether pages and database answer. Says nothing of the lab."""
    from sqlalchemy import text

    db().execute(text("SELECT 1"))
    return {"status": "ok"}
