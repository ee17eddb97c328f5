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
    """One sum: as an example until something is typed, then with its answer."""
    one = SUMS.get(name)
    if one is None:
        raise NotFound(tell("There is no sum of that name; all of them are on the Sums page."))
    asked = {ask.name: request.args.get(ask.name, "").strip()[:300] for ask in one.asks}
    typed, found, error = any(asked.values()), None, None
    if typed:
        try:
            found = one.of(asked)
        except OrderlyError as refused:
            error = refused
    values = asked if typed else dict(one.example)
    page = render_template(
        "sums.html",
        sums=SUMS.values(),
        one=one,
        values=values,
        found=found,
        error=error,
        command=_command(one.name, asked),
        called=CALLED,
    )
    return page, 422 if error else 200


def _command(name: str, asked: dict[str, str]) -> str:
    """The same headless."""
    said = [
        ask.option if ask.kind.box else f"{ask.option} {_quoted(asked[ask.name])}"
        for ask in SUMS[name].asks
        if asked[ask.name]
    ]
    return " ".join(["./bench sum", name, *said, "--json"])


def _quoted(value: str) -> str:
    return f'"{value}"' if " " in value or "," in value else value
