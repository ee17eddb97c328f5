"""Shelf: benches."""

from __future__ import annotations

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.shelf import operations, views
from orderly_bench.chapters.shelf.list_pages import keep_entry, list_page
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.measures import Measure
from orderly_bench.stock.models import StockBench
from orderly_bench.stock.operations import bench_named
from orderly_bench.trial import load
from orderly_bench.trial.access import Act, Role, may
from orderly_bench.trial.models import Tray, Trial
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.store import db, now

chapter = Blueprint("shelf", __name__, template_folder="templates")


def _benches_page(error: OrderlyError | None = None) -> str:
    kept = [(bench, len(operations.standing_on(db(), bench))) for bench in operations.benches(db())]
    return list_page("benches", error, kept=kept)


@route(chapter, "/benches", Act.READ)
def benches_page() -> ResponseReturnValue:
    """All benches; asked for one by its name, that one where it is kept."""
    wanted = request.args.get("named", "")
    if not wanted:
        return _benches_page()
    named = bench_named(db(), wanted)
    there = url_for(".bench_page", bench_id=named.id) if named else url_for(".benches_page", name=wanted)
    return redirect(there)


@route(chapter, "/benches", Act.PLAN, "POST")
def keep_bench() -> ResponseReturnValue:
    """Keep a bench, or measure it anew."""
    return answer(lambda: keep_entry("benches"), url_for(".benches_page"), _benches_page)


def _bench_page(bench: StockBench, error: OrderlyError | None = None) -> str:
    there = operations.standing_on(db(), bench)
    return render_template(
        "bench.html",
        bench=bench,
        error=error,
        map=views.map_of(operations.room_of(bench), there),
        waiting=operations.waiting_for(db(), bench),
        moves=operations.moves_on(db(), bench),
        reasons=actor().role != Role.SCORER,
        typed=request.form,
        plans=may(actor(), Act.PLAN),
        tends=may(actor(), Act.TEND),
    )


@route(chapter, "/benches/<int:bench_id>", Act.READ)
def bench_page(bench_id: int) -> ResponseReturnValue:
    """One bench, drawn to scale."""
    return _bench_page(load.by_id(db(), StockBench, bench_id, "bench"))


@route(chapter, "/benches/<int:bench_id>/trays", Act.PLAN, "POST")
def stand_trays(bench_id: int) -> ResponseReturnValue:
    """Stand a trial's trays on it."""
    bench = load.by_id(db(), StockBench, bench_id, "bench")
    return answer(
        lambda: operations.stand_trays(
            db(), load.trial(db(), fields.whole(request.form, "trial", "trial")), actor(), now(), bench
        ),
        url_for(".bench_page", bench_id=bench_id),
        lambda e: _bench_page(bench, e),
    )


@route(chapter, "/benches/<int:bench_id>/moves", Act.TEND, "POST")
def move_tray(bench_id: int) -> ResponseReturnValue:
    """Move a tray on it, or from another bench onto it."""
    bench = load.by_id(db(), StockBench, bench_id, "bench")
    form = request.form

    def move() -> None:
        tray = load.by_id(db(), Tray, fields.whole(form, "tray", "tray"), "tray")
        trial = load.by_id(db(), Trial, tray.trial_id, "trial")
        to = (
            fields.quantity(form, "x_cm", "cm along", Measure.CM),
            fields.quantity(form, "y_cm", "cm across", Measure.CM),
        )
        operations.move_tray(db(), tray, trial, actor(), now(), bench, to, fields.text(form, "why"))

    return answer(move, url_for(".bench_page", bench_id=bench_id) + "#map", lambda e: _bench_page(bench, e))


@route(chapter, "/genera", Act.READ)
def genera_page() -> ResponseReturnValue:
    """What is noted by genus: irritant, poisonous, invasive, protected, under plant health rules."""
    return list_page("genera")


@route(chapter, "/genera", Act.PLAN, "POST")
def keep_genus() -> ResponseReturnValue:
    """Keep the lab's own note on a genus."""
    return answer(lambda: keep_entry("genera"), url_for(".genera_page"), lambda error: list_page("genera", error))
