"""Shelf: containers, covers, zones and supplies, each entry put right in its place; every list as a file, out and in."""

from __future__ import annotations

from flask import Blueprint, render_template, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.shelf.list_pages import begin_list, bring_file, keep_entry, list_file, list_named, list_page
from orderly_bench.core.errors import OrderlyError
from orderly_bench.stock.operations import all_supplies
from orderly_bench.trial.access import Act, may
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.store import db, today

chapter = Blueprint("things", __name__, template_folder="templates")


@route(chapter, "/containers", Act.READ)
def containers_page() -> ResponseReturnValue:
    """Every kind of container the lab has."""
    return list_page("containers")


@route(chapter, "/containers", Act.PLAN, "POST")
def keep_container() -> ResponseReturnValue:
    """Keep a kind of container, or put the one of its name right."""
    return answer(
        lambda: keep_entry("containers"), url_for(".containers_page"), lambda error: list_page("containers", error)
    )


@route(chapter, "/covers", Act.READ)
def covers_page() -> ResponseReturnValue:
    """What is put over cuttings."""
    return list_page("covers")


@route(chapter, "/covers", Act.PLAN, "POST")
def keep_cover() -> ResponseReturnValue:
    """Keep a kind of cover, or put the one of its name right."""
    return answer(lambda: keep_entry("covers"), url_for(".covers_page"), lambda error: list_page("covers", error))


@route(chapter, "/zones", Act.READ)
def zones_page() -> ResponseReturnValue:
    """Parts of the place that are kept alike."""
    return list_page("zones")


@route(chapter, "/zones", Act.PLAN, "POST")
def keep_zone() -> ResponseReturnValue:
    """Keep a zone, or put the one of its name right."""
    return answer(lambda: keep_entry("zones"), url_for(".zones_page"), lambda error: list_page("zones", error))


def _supplies_page(error: OrderlyError | None = None) -> str:
    shown = [(row.value, row.value.words(today()), row.value.past(today())) for row in all_supplies(db())]
    return list_page("supplies", error, supplies=shown)


@route(chapter, "/supplies", Act.READ)
def supplies_page() -> ResponseReturnValue:
    """What is used up, lot by lot."""
    return _supplies_page()


@route(chapter, "/supplies", Act.PLAN, "POST")
def keep_supply() -> ResponseReturnValue:
    """Keep a supply, or put the one of its name and lot right."""
    return answer(lambda: keep_entry("supplies"), url_for(".supplies_page"), _supplies_page)


@route(chapter, "/shelf/<name>.csv", Act.READ)
def as_file(name: str) -> ResponseReturnValue:
    """All entries of a list."""
    return list_file(name)


@route(chapter, "/shelf/<name>/begin", Act.PLAN, "POST")
def begin(name: str) -> ResponseReturnValue:
    """Begin an empty list with the usual entries."""
    return answer(lambda: begin_list(name), url_for(list_named(name).page), lambda error: _file_page(name, error))


def _file_page(name: str, error: OrderlyError | None = None) -> str:
    listed = list_named(name).listed
    return render_template(
        "list_file.html", error=error, listed=listed, plans=may(actor(), Act.PLAN), kept=request.args.get("kept") == "1"
    )


@route(chapter, "/shelf/<name>/file", Act.READ)
def file_page(name: str) -> ResponseReturnValue:
    """How a list comes in from a file."""
    return _file_page(name)


@route(chapter, "/shelf/<name>/file", Act.PLAN, "POST")
def bring(name: str) -> ResponseReturnValue:
    """Keep the entries of a file, all or none."""
    return bring_file(name, url_for(".file_page", name=name, kept=1), lambda error: _file_page(name, error))
