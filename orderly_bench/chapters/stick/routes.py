"""Stick: day 0, the bench-order walk, the tally."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, render_template, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.stick import at_the_tray, measuring, operations, views
from orderly_bench.core.design.codes import normalise
from orderly_bench.core.errors import InvalidInput, OrderlyError, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.stick.came import ASKED, read_came
from orderly_bench.core.stick.half_way import Lacking, read_enough
from orderly_bench.core.stick.tally import NOT_STUCK_REASONS, Status
from orderly_bench.trial import load
from orderly_bench.trial.access import Act
from orderly_bench.trial.blindness import arms_hidden
from orderly_bench.trial.errors import NotFound
from orderly_bench.trial.models import Cutting, Lot, Trial, Unit, Wave
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.pages import trial_page
from orderly_bench.web.pdf import download, pdf_of
from orderly_bench.web.store import db, now, today

chapter = Blueprint("stick", __name__, template_folder="templates")


def _tray_wanted(trial: Trial) -> int:
    """The tray asked for, else the first with something left to stick, of the wave that is begun and not finished if there is one."""
    asked, wave = request.values.get("tray", ""), request.values.get("wave", "")
    begun = {lot.wave_id for lot in trial.lots}
    at_work = [w for w in trial.waves if w.id in begun and w.sticking_done_at is None and not asked][:1]
    wanted = {w.id for w in trial.waves if str(w.number) == wave} if wave else {w.id for w in at_work or trial.waves}
    numbers = [tray.number for tray in trial.trays if tray.wave_id in wanted] or [tray.number for tray in trial.trays]
    number = fields.sent_number(asked)
    if number is not None and number in numbers:
        return number
    waiting = [u.place.tray.number for u in trial.units if any(c.status == "planned" for c in u.cuttings)]
    return min([n for n in waiting if n in numbers] or numbers)


def _cutting(trial: Trial, number: str) -> Cutting | None:
    if not number:
        return None
    cutting = load.by_id(db(), Cutting, fields.sent_number(number) or 0, "cutting")
    load.of_trial(trial, cutting.unit, "cutting")
    return cutting


def _wave(trial: Trial) -> Wave:
    """The wave asked for, else that of the tray asked for."""
    asked = request.values.get("wave", "")
    found = next((w for w in trial.waves if str(w.number) == asked), None)
    if found is None:
        wanted = _tray_wanted(trial) if trial.trays else 0
        tray = next((t for t in trial.trays if t.number == wanted), None)
        found = next((w for w in trial.waves if tray is not None and w.id == tray.wave_id), trial.waves[0])
    return found


def _lot(trial: Trial) -> Lot | None:
    """The lot asked for; None where the page asks for none, because there is one. Of several none is taken for granted."""
    typed = request.form.get("in_lot")
    if typed is None:
        return None
    asked = fields.sent_number(typed)
    if asked is None:
        raise InvalidInput("lot", _("choose the one these pieces were stuck in; its days count from its own day 0"))
    lot = next((lot for lot in trial.lots if lot.id == asked), None)
    if lot is None:
        raise NotFound(_("There is no such lot in this trial. Choose one of those listed."))
    return lot


def _newest(trial: Trial, wave: Wave | None) -> Lot | None:
    """The lot that is being stuck: the newest of the wave shown."""
    return next((lot for lot in reversed(trial.lots) if wave is not None and lot.wave_id == wave.id), None)


def _page(trial: Trial, error: OrderlyError | None = None) -> str:
    hidden = arms_hidden(db(), trial, actor())
    units = load.units_with_everything(db(), trial)
    tray, wave = (_tray_wanted(trial), _wave(trial)) if trial.locked_at else (0, None)
    lot = _newest(trial, wave)
    return trial_page(
        "stick.html",
        trial,
        "Stick",
        error,
        typed=request.form,
        tray_number=tray,
        tray=views.map_of(trial, units, hidden, tray) if tray else None,
        tray_waiting=any(
            c.status == "planned" for u in units if tray and u.place.tray.number == tray for c in u.cuttings
        ),
        rows=views.what_goes_in(trial, units, tray) if tray and not hidden else [],
        gets=views.gets(trial, units, tray) if tray and not hidden else "",
        delays=views.delays(trial),
        tallies=views.tally_rows(trial, units, hidden),
        chosen=_cutting(trial, request.values.get("cutting", "")),
        reasons=NOT_STUCK_REASONS,
        wave=wave,
        lot_choices=[("", _("which lot?")), *((lot.id, lot.name) for lot in trial.lots)],
        in_lot=request.values.get("in_lot", ""),
        came_asked=ASKED,
        steps=at_the_tray.steps_of(db(), trial, lot),
        steps_lot=lot,
        along=[url_for(".stick_page", trial_id=trial.id, tray=one.number) for one in trial.trays],
        by_block=views.tally_by_block(units) if trial.locked_at else [],
        **_as_stuck(trial, units, hidden),
        **_half_way(trial, units, hidden),
        waiting=sum(
            c.status == "planned" for u in units if wave is not None and u.wave_id == wave.id for c in u.cuttings
        ),
    )


def _half_way(trial: Trial, units: list[Unit], hidden: bool) -> dict[str, Any]:
    """What is proposed where something runs out, and what waits already."""
    asked: dict[str, Any] = {"lacking": [(one.value, _(one.value)) for one in Lacking]}
    asked |= {"half_way": None, "refused": None, "as_it_waits": operations.NOT_WAITING}
    if trial.locked_at is None:
        return asked
    lacking, wave = fields.text(request.args, "lacking"), _wave(trial)
    if any(lot.wave_id == wave.id for lot in trial.lots):
        asked["as_it_waits"] = operations.as_it_waits(trial, wave, now())
    if lacking in list(Lacking):
        try:
            enough = read_enough(fields.optional_whole(request.args, "enough", "how many there are"))
        except OrderlyError as refused:
            return asked | {"refused": refused}
        here = [unit for unit in units if unit.wave_id == wave.id]
        asked["half_way"] = views.half_way(here, hidden, Lacking(lacking), enough)
    return asked


def _as_stuck(trial: Trial, units: list[Unit], hidden: bool) -> dict[str, Any]:
    """What is measured of the pieces as they go in."""
    cuttings = [c for unit in units for c in unit.cuttings if c.replaces_id is None]
    measures = views.measures_shown(trial, hidden)
    return {
        "measures": measures,
        "measure_choices": [(one.name, _(one.words)) for one in measures],
        "measured_words": views.measured_words(cuttings, measures),
        "exceptions": views.exceptions(cuttings, measures),
        "over_arms": [] if hidden else views.over_the_arms(trial, cuttings),
    }


@route(chapter, "/trials/<int:trial_id>/stick", Act.READ)
def stick_page(trial: Trial) -> ResponseReturnValue:
    """The walk along the bench."""
    return _page(trial)


@route(chapter, "/trials/<int:trial_id>/lot", Act.STICK, "POST")
def set_lot(trial: Trial) -> ResponseReturnValue:
    """A new lot with its day 0, or one put right."""

    def save() -> None:
        form = request.form
        wave, number = _wave(trial), fields.optional_whole(form, "lot", "lot")
        values = operations.LotValues(
            fields.day(form, "day", "sticking day"), form.get("about") == "yes", fields.text(form, "held"),
            fields.optional_number(form, "held_hours", "held, hours"), form.get("on_purpose") == "yes", read_came({one.name: fields.text(form, f"came_{one.name}") for one in ASKED}),
        )  # fmt: skip
        if number is None:
            operations.add_lot(db(), trial, actor(), now(), wave, values, today())
        else:
            lot = operations.lot_for(trial, wave, number)
            operations.correct_lot(db(), lot, actor(), now(), values, fields.text(form, "reason"), today())

    return answer(save, url_for(".stick_page", trial_id=trial.id), lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/stick/tray", Act.STICK, "POST")
def confirm_tray(trial: Trial) -> ResponseReturnValue:
    """A whole tray is stuck; on to the next."""
    return answer(
        lambda: operations.confirm_tray(
            db(),
            trial,
            actor(),
            now(),
            fields.whole(request.form, "tray", "tray"),
            _lot(trial),
            fields.optional_whole(request.form, "row", "row"),
            fields.optional_whole(request.form, "counted", "counted here"),
        ),
        url_for(".stick_page", trial_id=trial.id, in_lot=request.form.get("in_lot")),
        lambda e: _page(trial, e),
    )


@route(chapter, "/trials/<int:trial_id>/stick/all", Act.STICK, "POST")
def confirm_all(trial: Trial) -> ResponseReturnValue:
    """Every tray or vessel of a wave is stuck."""
    return answer(
        lambda: operations.confirm_all(db(), trial, actor(), now(), _wave(trial), _lot(trial)),
        url_for(".stick_page", trial_id=trial.id, wave=request.form.get("wave")),
        lambda e: _page(trial, e),
    )


@route(chapter, "/trials/<int:trial_id>/stick/cutting", Act.STICK, "POST")
def set_cutting(trial: Trial) -> ResponseReturnValue:
    """Note an exception, or take it back."""

    def save() -> None:
        cutting = _cutting(trial, request.form.get("cutting", ""))
        if cutting is None:
            raise NotFound(_("Tap the cell of the cutting first; then say why it was not stuck."))
        operations.set_cutting(db(), trial, actor(), now(), cutting, fields.text(request.form, "reason"), _lot(trial))

    tray = request.form.get("tray", "")
    return answer(save, url_for(".stick_page", trial_id=trial.id, tray=tray), lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/stick/several", Act.STICK, "POST")
def set_several(trial: Trial) -> ResponseReturnValue:
    """Note several by their codes as not stuck: all of them or none."""

    def save() -> None:
        if not (reason := fields.text(request.form, "reason")):
            raise InvalidInput("reason", _("choose why they were not stuck"))
        for cutting in load.cuttings_by_codes(db(), trial, fields.text(request.form, "codes")):
            operations.set_cutting(db(), trial, actor(), now(), cutting, reason, _lot(trial))

    tray = request.form.get("tray", "")
    return answer(save, url_for(".stick_page", trial_id=trial.id, tray=tray), lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/stick/put-off", Act.STICK, "POST")
def put_off(trial: Trial) -> ResponseReturnValue:
    """What is left waits for what was short."""
    return answer(
        lambda: operations.put_off(db(), trial, actor(), now(), _wave(trial), fields.text(request.form, "lacking")),
        url_for(".stick_page", trial_id=trial.id, wave=_wave(trial).number),
        lambda e: _page(trial, e),
    )


@route(chapter, "/trials/<int:trial_id>/stick/step", Act.STICK, "POST")
def tick_step(trial: Trial) -> ResponseReturnValue:
    """Tick a step at the tray of a lot, or take the tick back."""
    wave, form = _wave(trial), request.form

    def save() -> None:
        lot = operations.lot_for(trial, wave, fields.optional_whole(form, "lot", "lot"))
        at_the_tray.tick_step(db(), lot, actor(), now(), fields.text(form, "step"), form.get("done") == "yes")

    return answer(
        save, url_for(".stick_page", trial_id=trial.id, wave=wave.number) + "#steps", lambda e: _page(trial, e)
    )


@route(chapter, "/trials/<int:trial_id>/sticking-sheet.pdf", Act.READ)
def sticking_sheet(trial: Trial) -> ResponseReturnValue:
    """A sheet for a wet bench: what goes where, in bench order, a line each."""
    if trial.locked_at is None:
        raise Refused(_("Lock the plan on the Design page first; a redraw would make this sheet wrong."))
    hidden = arms_hidden(db(), trial, actor())
    units = load.units_with_everything(db(), trial)
    whole = [] if hidden else load.whole_trays(trial, units)
    html = render_template(
        "sticking_pdf.html", trial=trial, rows=views.sheet_rows(units), hidden=hidden, on_trays=whole
    )
    return download(pdf_of(html), "application/pdf", f"sticking-{trial.code}.pdf")


def _measures_sent(trial: Trial) -> dict[str, str]:
    """The fields sent of those that this person may note."""
    mine = views.measures_shown(trial, arms_hidden(db(), trial, actor()))
    return {one.name: fields.text(request.form, one.name) for one in mine if one.name in request.form}


@route(chapter, "/trials/<int:trial_id>/stick/measures", Act.STICK, "POST")
def note_measures(trial: Trial) -> ResponseReturnValue:
    """What was measured of one cutting, or of all of a lot from here on."""

    def save() -> None:
        cutting, sent = _cutting(trial, request.form.get("cutting", "")), _measures_sent(trial)
        if cutting is not None:
            measuring.note(db(), trial, actor(), now(), cutting, sent)
            return
        wave = _wave(trial)
        lot = operations.lot_for(trial, wave, fields.optional_whole(request.form, "lot", "lot"))
        first = normalise(fields.text(request.form, "first"))
        measuring.note_usual(db(), trial, actor(), now(), lot, sent, first)

    tray, wave = request.form.get("tray"), request.form.get("wave")
    return answer(save, url_for(".stick_page", trial_id=trial.id, tray=tray, wave=wave), lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/stick/in-order", Act.STICK, "POST")
def note_in_order(trial: Trial) -> ResponseReturnValue:
    """One measure of a whole tray, or of one row of it, in bench order."""
    tray, row = _tray_wanted(trial) if trial.trays else 0, request.form.get("only_row", "")

    def save() -> None:
        number = fields.optional_whole(request.form, "only_row", "row")
        name = fields.text(request.form, "measure")
        if name not in [one.name for one in views.measures_shown(trial, arms_hidden(db(), trial, actor()))]:
            name = ""
        here = [
            c
            for c in measuring.in_bench_order(db(), trial)
            if c.unit.place.tray.number == tray and number in (None, c.unit.place.row) and c.status != Status.NOT_STUCK
        ]
        measuring.note_in_order(db(), trial, actor(), now(), here, name, fields.text(request.form, "values"))

    return answer(save, url_for(".stick_page", trial_id=trial.id, tray=tray, row=row), lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/stick/replace", Act.STICK, "POST")
def replace_cutting(trial: Trial) -> ResponseReturnValue:
    """A new piece in the place of an early loss, in a lot of its own."""

    def save() -> None:
        unit = load.unit_by_code(db(), fields.text(request.form, "code"), trial.id)
        load.of_trial(trial, unit, "unit")
        number = fields.optional_whole(request.form, "number", "number in the unit") or 1
        cutting, lot = next((c for c in unit.cuttings if c.number == number), None), _lot(trial)
        if cutting is None or lot is None:
            raise NotFound(_("Name the code on the label, the cutting's number in it, and the lot of the replacement."))
        operations.replace_cutting(db(), trial, actor(), now(), cutting, lot, fields.text(request.form, "reason"))

    return answer(save, url_for(".stick_page", trial_id=trial.id), lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/stick/finish", Act.STICK, "POST")
def finish(trial: Trial) -> ResponseReturnValue:
    """Sticking is done."""
    return answer(
        lambda: operations.finish_sticking(db(), trial, actor(), now(), _wave(trial)),
        url_for("tend.tend_page", trial_id=trial.id),
        lambda e: _page(trial, e),
    )
