"""Shelf: containers and supplies, each entry put right in its place."""

from __future__ import annotations

from flask import Blueprint, render_template, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.shelf import stock_operations as operations
from orderly_bench.chapters.shelf.history import histories
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.plan.part import Page, asked_on, read_part, written_part
from orderly_bench.core.plan.treatments import Container
from orderly_bench.core.stock import supplies
from orderly_bench.formats.tidy_csv import write
from orderly_bench.stock.operations import all_containers, all_supplies
from orderly_bench.trial.access import Act, may
from orderly_bench.trial.audit import Action
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.pdf import download
from orderly_bench.web.store import db, now, today

chapter = Blueprint("things", __name__, template_folder="templates")


def _containers_page(error: OrderlyError | None = None) -> str:
    kept = all_containers(db())
    asked = next((one for one in kept if one.name == request.args.get("name")), None)
    typed = {"name": asked.name} | written_part(asked.value, Page.DESIGN) if asked else {}
    return render_template(
        "containers.html", error=error, history=histories(db(), (Action.KEPT_A_CONTAINER,)), containers=kept, typed=dict(request.form) or typed, asked=asked_on(Container, Page.DESIGN),
        plans=may(actor(), Act.PLAN),
    )  # fmt: skip


@route(chapter, "/containers", Act.READ)
def containers_page() -> ResponseReturnValue:
    """Every kind of container the lab has."""
    return _containers_page()


@route(chapter, "/containers", Act.PLAN, "POST")
def keep_container() -> ResponseReturnValue:
    """Keep a kind of container, or put the one of its name right."""

    def save() -> None:
        container = read_part(Container(), request.form, Page.DESIGN)
        operations.keep_container(db(), actor(), now(), fields.text(request.form, "name"), container)

    return answer(save, url_for(".containers_page"), _containers_page)


def _supplies_page(error: OrderlyError | None = None) -> str:
    kept = all_supplies(db())
    wanted = request.args.get("name"), request.args.get("lot", "")
    asked = next((row for row in kept if (row.name, row.lot) == wanted), None)
    typed = dict(request.form) or (supplies.as_typed(asked.value) if asked else {})
    return render_template(
        "supplies.html", error=error, history=histories(db(), (Action.KEPT_A_SUPPLY,)), supplies=[(row, row.value.words(today()), row.value.past(today())) for row in kept], typed=typed,
        asked=supplies.ASKED, plans=may(actor(), Act.PLAN),
    )  # fmt: skip


@route(chapter, "/supplies", Act.READ)
def supplies_page() -> ResponseReturnValue:
    """What is used up, lot by lot."""
    return _supplies_page()


@route(chapter, "/supplies", Act.PLAN, "POST")
def keep_supply() -> ResponseReturnValue:
    """Keep a supply, or put the one of its name and lot right."""

    def save() -> None:
        supply = supplies.read_supply({one.name: fields.text(request.form, one.name) for one in supplies.ASKED})
        operations.keep_supply(db(), actor(), now(), supply)

    return answer(save, url_for(".supplies_page"), _supplies_page)


@route(chapter, "/supplies.csv", Act.READ)
def supplies_csv() -> ResponseReturnValue:
    """All supplies as a file."""
    rows = ([supplies.as_typed(row.value)[one.name] for one in supplies.ASKED] for row in all_supplies(db()))
    return download(write([one.name for one in supplies.ASKED], rows), "text/csv; charset=utf-8", "supplies.csv")
