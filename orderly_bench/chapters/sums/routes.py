"""Sums: one page, one form each; what was typed stands in the address."""

from __future__ import annotations

from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue

from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.messages.words import tell
from orderly_bench.core.sums.registry import CALLED, SUMS
from orderly_bench.trial.access import Act
from orderly_bench.trial.errors import NotFound
from orderly_bench.web.access import route

chapter = Blueprint("sums", __name__, template_folder="templates")


@route(chapter, "/sums", Act.READ)
def sums_page() -> ResponseReturnValue:
    """All sums."""
    return render_template("sums.html", sums=SUMS.values(), one=None, error=None)


@route(chapter, "/sums/<name>", Act.READ)
def sum_page(name: str) -> ResponseReturnValue:
    """One sum with its answer: of its example until something is typed."""
    one = SUMS.get(name)
    if one is None:
        raise NotFound(tell("There is no sum of that name; all of them are on the Sums page."))
    asked = {ask.name: request.args.get(ask.name, "").strip()[:300] for ask in one.asks}
    typed, found, error = any(asked.values()), None, None
    values = asked if typed else dict(one.example)
    try:
        found = one.of(values)
    except OrderlyError as refused:
        error = refused
    page = render_template(
        "sums.html",
        sums=SUMS.values(),
        one=one,
        values=values,
        typed=typed,
        found=found,
        error=error,
        command=one.command(values) + " --json",
        called=CALLED,
    )
    return page, 422 if error else 200
