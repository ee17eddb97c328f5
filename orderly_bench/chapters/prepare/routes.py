"""Prepare: counts, litres, labels."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TypeVar

from flask import Blueprint, render_template, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.prepare import operations, views
from orderly_bench.chapters.prepare.labels import SIZES, USUAL, labels_html, read_size
from orderly_bench.core.errors import OrderlyError, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.prepare.hormones import ASKED, Bottle, as_typed, own_strengths, read_bottle, sheet_of
from orderly_bench.core.prepare.needs import media_of
from orderly_bench.core.prepare.ready import Needed
from orderly_bench.core.prepare.taking import hours_for_hands
from orderly_bench.core.prepare.water import ASKED as ASKED_OF_WATER
from orderly_bench.core.prepare.water import Feeding, fills, read_feeding, together
from orderly_bench.core.prepare.water import as_typed as feeding_typed
from orderly_bench.core.stock.genera import genus_of
from orderly_bench.core.typed import Asked
from orderly_bench.formats.table_csv import write
from orderly_bench.stock.operations import note_on, ways_for
from orderly_bench.trial import load, readiness
from orderly_bench.trial.access import Act
from orderly_bench.trial.blindness import arms_hidden
from orderly_bench.trial.models import Trial
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.pages import trial_page
from orderly_bench.web.pdf import download, pdf_of
from orderly_bench.web.store import db, now, today

Kept = TypeVar("Kept", Bottle, Feeding)
chapter = Blueprint("prepare", __name__, template_folder="templates")


def _page(trial: Trial, error: OrderlyError | None = None) -> str:
    needs = views.needs_of(db(), trial) if trial.arms else None
    picks = views.picks_of(db(), trial)
    short = operations.shortages(db(), trial) if trial.arms and trial.prepared_at is None and not trial.lots else []
    return trial_page(
        "prepare.html", trial, "Prepare", error, genus=note_on(db(), trial.taxon) if needs else None,
        genus_named=genus_of(trial.taxon), needs=needs, picks=picks, short=short, typed=request.form,
        on_trays=views.trays_of(db(), trial, arms_hidden(db(), trial, actor())) if needs else [],
        sizes=[(size, _("{size} mm", size=size)) for size in SIZES],
        hands=hours_for_hands(needs.cuttings, trial.plan.design.pace_per_hour) if needs else "",
        listed=views.list_of(db(), trial) if needs else [],
        shopping=views.shopping_of(db(), trial, needs.labels, today()) if needs and not trial.lots else [],
    )  # fmt: skip


@route(chapter, "/trials/<int:trial_id>/prepare", Act.READ)
def prepare_page(trial: Trial) -> ResponseReturnValue:
    """What has to stand ready."""
    return _page(trial)


@route(chapter, "/trials/<int:trial_id>/prepare", Act.PLAN, "POST")
def save_media(trial: Trial) -> ResponseReturnValue:
    """Keep the recipes."""

    def save() -> None:
        recipes = {m.id: fields.text(request.form, f"recipe_{i}") for i, m in enumerate(media_of(trial.plan))}
        operations.save_media(db(), trial, actor(), now(), recipes, fields.text(request.form, "reason"))

    return answer(save, url_for(".prepare_page", trial_id=trial.id), lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/prepared", Act.STICK, "POST")
def mark_prepared(trial: Trial) -> ResponseReturnValue:
    """All stands ready."""
    return answer(
        lambda: operations.mark_prepared(db(), trial, actor(), now(), fields.text(request.form, "anyway")),
        url_for("stick.stick_page", trial_id=trial.id),
        lambda e: _page(trial, e),
    )


@route(chapter, "/trials/<int:trial_id>/seen-to", Act.STICK, "POST")
def see_to(trial: Trial) -> ResponseReturnValue:
    """Tick a thing that was seen to, or take the tick back."""
    item, done = fields.text(request.form, "item"), request.form.get("done") == "yes"
    return answer(
        lambda: readiness.tick(db(), trial, actor(), now(), item, done),
        url_for(".prepare_page", trial_id=trial.id) + "#ready",
        lambda e: _page(trial, e),
    )


def _shopping(trial: Trial) -> list[Needed]:
    if not trial.arms:
        raise Refused(_("Write the question first; the list follows from its arms."))
    return views.shopping_of(db(), trial, views.needs_of(db(), trial).labels, today())


@route(chapter, "/trials/<int:trial_id>/shopping.pdf", Act.READ)
def shopping_pdf(trial: Trial) -> ResponseReturnValue:
    """The shopping list to take along, with a column to tick."""
    html = render_template("shopping_pdf.html", trial=trial, lines=_shopping(trial))
    return download(pdf_of(html), "application/pdf", f"shopping-{trial.code}.pdf")


@route(chapter, "/trials/<int:trial_id>/shopping.csv", Act.READ)
def shopping_csv(trial: Trial) -> ResponseReturnValue:
    """The shopping list as CSV."""
    lines = _shopping(trial)
    content = write(
        ["what", "amount", "unit", "for", "note"], ([n.what, f"{n.amount:g}", n.unit, n.use, n.note] for n in lines)
    )
    return download(content, "text/csv; charset=utf-8", f"shopping-{trial.code}.csv")


@route(chapter, "/trials/<int:trial_id>/labels.pdf", Act.READ)
def labels(trial: Trial) -> ResponseReturnValue:
    """The labels as PDF."""
    if trial.locked_at is None:
        raise Refused(_("Lock the plan on the Design page first; a redraw would make these labels wrong."))
    size = read_size(fields.text(request.args, "mm") or USUAL)
    units = load.units_with_everything(db(), trial)
    if wanted := fields.text(request.args, "code"):
        unit = load.unit_by_code(db(), wanted, trial.id)
        units = [one for one in units if one.id == unit.id]
        if not units:
            raise Refused(_("{code} is no unit of this trial.", code=unit.code))
    html = labels_html(trial, units, size)
    return download(pdf_of(html), "application/pdf", f"labels-{trial.code}.pdf")


def _in_address(
    asked: Sequence[Asked], read: Callable[[Mapping[str, str]], Kept], usual: Kept
) -> tuple[Kept, dict[str, str], OrderlyError | None]:
    """What the address says of these fields: its value, the usual one where it can't be read; what was typed; why it can't."""
    typed = {one.name: fields.text(request.args, one.name) for one in asked}
    filled = {name: value for name, value in typed.items() if value}
    try:
        return read(typed), filled, None
    except OrderlyError as refused:
        return usual, filled, refused


@route(chapter, "/trials/<int:trial_id>/hormones", Act.READ)
def hormone_sheet(trial: Trial) -> ResponseReturnValue:
    """From the bottle to a dish for each level; what stands in the bottle is in the address."""
    bottle, typed, error = _in_address(ASKED, read_bottle, Bottle())
    sheet = sheet_of(trial.plan, bottle)
    page = trial_page(
        "hormones.html", trial, "Prepare", error, sheet=sheet, asked=ASKED, typed=as_typed(bottle) | typed,
        drawn=views.drawn(sheet, bottle) if sheet else [], own=own_strengths(ways_for(db(), trial.plan.question.botanical_name)),
    )  # fmt: skip
    return page, 422 if error else 200


@route(chapter, "/trials/<int:trial_id>/water", Act.READ)
def water_sheet(trial: Trial) -> ResponseReturnValue:
    """Level, feed and changes of the arms in water; how it is kept is in the address."""
    feeding, typed, error = _in_address(ASKED_OF_WATER, read_feeding, Feeding())
    found = fills(trial.plan, feeding)
    page = trial_page(
        "water.html", trial, "Prepare", error, fills=found, together=together(found), asked=ASKED_OF_WATER,
        typed=feeding_typed(feeding) | typed, litres=sum(one.litres for one in found), grams=sum(one.grams or 0 for one in found),
        drawn=[views.vessel_drawn(trial.plan, one) for one in found],
    )  # fmt: skip
    return page, 422 if error else 200
