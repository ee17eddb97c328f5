"""Sums: one page, one form each; what was typed stands in the address."""

from __future__ import annotations

from collections.abc import Mapping

from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue

from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.recipe import in_parts, read_recipe, spelled_out
from orderly_bench.core.sums.registry import CALLED, SUMS
from orderly_bench.stock.operations import recipes_known
from orderly_bench.trial.access import Act
from orderly_bench.trial.errors import NotFound
from orderly_bench.web.access import route
from orderly_bench.web.store import db

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
        raise NotFound(_("There is no sum of that name; all of them are on the Sums page."))
    asked = {ask.name: request.args.get(ask.name, "").strip()[:300] for ask in one.asks}
    typed, found, error = any(asked.values()), None, None
    values = asked if typed else dict(one.example)
    try:
        found = one.of(_spelled_out(values))
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


def _spelled_out(values: Mapping[str, str]) -> dict[str, str]:
    """What was typed, a recipe with the shelf's blends in it parted."""
    recipe = values.get("recipe", "")
    if not recipe:
        return dict(values)
    return {**values, "recipe": in_parts(spelled_out(read_recipe(recipe), recipes_known(db())))}
