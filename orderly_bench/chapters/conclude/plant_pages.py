"""The plants: where each went, room and mix for potting on, trays put together."""

from __future__ import annotations

from datetime import timedelta

from flask import Blueprint, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy import select

from orderly_bench.chapters.conclude import hardening, operations, plants
from orderly_bench.core.conclude import cost, time_spent
from orderly_bench.core.conclude.hardening import Night
from orderly_bench.core.conclude.material import Material, material_of
from orderly_bench.core.conclude.plants import Fate, columns_of, fates_by_arm, put_together, room_for, sold_by_arm
from orderly_bench.core.conclude.potting import CARD, Standing, now_or_later
from orderly_bench.core.errors import OrderlyError, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import in_full
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.stock import supplies
from orderly_bench.evidence.cost import costs_typed, counted_as
from orderly_bench.evidence.results import Results
from orderly_bench.evidence.verdict import Evidence
from orderly_bench.formats.trial_tables import plants_csv as plants_file
from orderly_bench.record.facts import endpoint_checks, results_at
from orderly_bench.record.gather import gather
from orderly_bench.record.value import TrialRecord
from orderly_bench.stock.operations import all_supplies, recipes_known
from orderly_bench.trial.access import Act
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.blindness import arms_hidden, endpoint_closed, refuse_earlier
from orderly_bench.trial.load import units_with_everything
from orderly_bench.trial.models import Trial
from orderly_bench.trial.time_spent import spent_on
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.fields import Form
from orderly_bench.web.pages import being_worked_out, trial_page
from orderly_bench.web.pdf import download
from orderly_bench.web.store import db, lab, now, today
from orderly_bench.web.work import results_of

chapter = Blueprint("plants", __name__, template_folder="templates")
POT_MM, POT_ML = "90", "400"


def _results(trial: Trial) -> Results | None:
    if trial.locked_at is None or not endpoint_closed(db(), trial):
        raise Refused(_("What a plant costs is worked out when the endpoint check is closed."))
    return results_of(trial)


def _plants(trial: Trial) -> tuple[TrialRecord, list[plants.Ended]]:
    """The plants at the end of a trial, closed without a verdict too; nothing of it rests on the comparison."""
    over = trial.locked_at is not None and (endpoint_closed(db(), trial) or operations.conclusions_of(db(), trial))
    if not over or arms_hidden(db(), trial, actor()):
        raise Refused(
            _("Where the plants went is written when the endpoint check is closed; until then they are the trial.")
        )
    refuse_earlier(trial, actor())
    known = gather(db(), trial)
    return known, plants.ends_of(db(), trial, results_at(known, endpoint_checks(known)))


def _page(trial: Trial, error: OrderlyError | None = None) -> str:
    known, ended = _plants(trial)
    table = fates_by_arm([arm.letter for arm in trial.arms], [(one.result.cutting.unit.arm, one.fate) for one in ended])
    places, trays = plants.standing(trial, ended)
    typed = {
        "pot_mm": fields.text(request.args, "pot_mm") or POT_MM,
        "pot_ml": fields.text(request.args, "pot_ml") or POT_ML,
    }
    room = None
    try:
        room = room_for(
            places,
            trays,
            fields.number(typed, "pot_mm", "across a pot, mm"),
            fields.number(typed, "pot_ml", "volume of a pot, mL"),
        )
    except OrderlyError as refused:
        error = error or refused
    here = plants.there(ended)
    nights = hardening.nights_of(db(), trial)
    waits = (
        Standing(room.plants, room.m2_now, room.m2_after, trial.plan.question.weeks_in_pot)
        if room and room.plants
        else None
    )
    return trial_page(
        "plants_after.html", trial, "Conclude", error, table=table, columns=columns_of(table), names=known.arm_names, room=room,
        moves=put_together(places, trays), typed=typed, form=request.form, fates=[(fate.value, fate.value) for fate in Fate],
        whiches=[(which.value, which.value) for which in plants.Which], arm_choices=[(arm.letter, arm.letter) for arm in trial.arms],
        card=CARD, when=now_or_later(waits, today(), lab().settings.year) if waits else [], here=here, nights=nights[-10:],
        hardened=hardening.together(nights, here), left=plants.not_fit(ended),
        usual_again=today() + timedelta(days=trial.plan.question.second_look_days),
        sold=sold_by_arm(plants.sold(ended)), currency=supplies.prices([row.value for row in all_supplies(db())], today())[1],
        last=sorted((one.end for one in ended if one.end), key=lambda end: -end.id)[:8],
    )  # fmt: skip


@route(chapter, "/trials/<int:trial_id>/plants", Act.READ)
def page(trial: Trial) -> ResponseReturnValue:
    """The plants after the end."""
    return _page(trial)


@route(chapter, "/trials/<int:trial_id>/plants.csv", Act.READ)
def plants_csv(trial: Trial) -> ResponseReturnValue:
    """Where each plant went, one row per cutting."""
    content = plants_file(plants.rows_of(_plants(trial)[1]))
    return download(content, "text/csv; charset=utf-8", f"plants-{trial.code}.csv")


def _cost_page(trial: Trial, error: OrderlyError | None = None) -> tuple[str, int]:
    results = _results(trial)
    if results is None:
        return being_worked_out(trial), 200
    found = results.found
    if found.record.plan.design.stuck:
        raise Refused(_("Nobody counted what was stuck, so what a plant costs can not be told."))
    stuff, currency = _material(trial)
    typed = _costs_typed(trial, request.values) or trial.costs or _from_the_record(trial, found, stuff, currency)
    costs = None
    try:
        costs = costs_typed(found, typed)
    except OrderlyError as refused:
        error = error or refused
    page = trial_page(
        "cost.html", trial, "Conclude", error, asked=cost.ASKED, typed=typed, names=found.record.arm_names, costs=costs, kept=typed == trial.costs,
        spent=time_spent.by_work(_spent(trial)), material=stuff, sold=sold_by_arm(plants.sold(plants.ends_of(db(), trial, found.results))),
        counted=kind_of(counted_as(found)).heading,
    )  # fmt: skip
    return page, 422 if error else 200


def _costs_typed(trial: Trial, form: Form) -> dict[str, str]:
    names = [one.name for one in cost.ASKED] + [
        f"{what}_{arm.letter}" for arm in trial.arms for what in ("minutes", "material")
    ]
    return {name: said for name in names if (said := fields.text(form, name)[:200])}


@route(chapter, "/trials/<int:trial_id>/cost", Act.READ)
def cost_page(trial: Trial) -> ResponseReturnValue:
    """What a plant costs by arm: as kept, as the record has it, or as it stands in the address, to try it out."""
    return _cost_page(trial)


@route(chapter, "/trials/<int:trial_id>/cost", Act.PLAN, "POST")
def keep_costs(trial: Trial) -> ResponseReturnValue:
    """Keep what was typed; Compare and the report show it from then on."""

    def save() -> None:
        results = _results(trial)
        typed = _costs_typed(trial, request.form)
        if results is not None:
            costs_typed(results.found, typed)
        old, trial.costs = trial.costs, typed or None
        if old != trial.costs:
            record(db(), actor(), now(), Action.KEPT_WHAT_A_PLANT_COSTS, trial, old=old, new=typed)

    return answer(save, url_for(".cost_page", trial_id=trial.id), lambda e: _cost_page(trial, e)[0])


#: What a lab pays: the same from trial to trial.
PAID = ("hour", "bench", "currency")


def _usual_prices(trial: Trial) -> dict[str, str]:
    """What the lab pays, as it was last kept with another trial."""
    query = select(Trial.costs).where(Trial.costs.is_not(None), Trial.id != trial.id).order_by(Trial.id.desc()).limit(1)
    last = db().scalar(query) or {}
    return {name: last[name] for name in PAID if name in last}


def _spent(trial: Trial) -> list[time_spent.Spent]:
    return [one.as_spent() for one in spent_on(db(), trial) if not one.withdrawn]


def _material(trial: Trial) -> tuple[Material, str]:
    """What the trial's material costs at the shelf's prices, and the currency."""
    prices, currency = supplies.prices([row.value for row in all_supplies(db())], today())
    plan = trial.plan
    labels = sum(plan.units_of(arm) * len(plan.waves_of(arm)) for arm in plan.treatments.arms)
    return material_of(plan, prices, labels, recipes_known(db())), currency


def _from_the_record(trial: Trial, found: Evidence, stuff: Material, currency: str) -> dict[str, str]:
    """Minutes from what was written down and material from the shelf, for a cutting, by the field that asks for them."""
    stuck = {letter: sum(own.values()) for letter, own in found.reconciliation.items()}
    each = {"minutes": time_spent.for_a_cutting(_spent(trial), stuck), "material": stuff.for_a_cutting(stuck)}
    typed = {
        what if not letter else f"{what}_{letter}": in_full(f"{value:.3g}")
        for what, by_letter in each.items()
        for letter, value in by_letter.items()
        if value
    }
    typed["weeks"] = f"{found.day / 7:.3g}"
    typed |= _usual_prices(trial)
    return typed | ({"currency": currency} if currency and "material" in " ".join(typed) else {})


@route(chapter, "/trials/<int:trial_id>/plants", Act.SCORE, "POST")
def record_ends(trial: Trial) -> ResponseReturnValue:
    """Write where plants went."""

    def save() -> None:
        form, ended = request.form, _plants(trial)[1]
        typed = plants.Typed(
            fields.text(form, "which"), fields.text(form, "fate"), fields.day(form, "day", "day"), fields.text(form, "arm"),
            fields.text(form, "codes"), fields.text(form, "note"), fields.text(form, "rights"),
            fields.optional_number(form, "price", "price of each"), fields.text(form, "currency"),
        )  # fmt: skip
        plants.record_ends(db(), trial, actor(), now(), today(), ended, typed)

    return answer(save, url_for(".page", trial_id=trial.id), lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/together", Act.TEND, "POST")
def trays_together(trial: Trial) -> ResponseReturnValue:
    """Keep that plants were put into fewer trays, as the page lists it."""

    def save() -> None:
        ended, units = _plants(trial)[1], units_with_everything(db(), trial)
        plants.trays_together(db(), trial, actor(), now(), ended, units)

    return answer(save, url_for(".page", trial_id=trial.id) + "#together", lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/plants-again", Act.SCORE, "POST")
def look_again(trial: Trial) -> ResponseReturnValue:
    """When plants that are not fit are looked at again, or that they were."""

    def save() -> None:
        left = plants.not_fit(_plants(trial)[1])
        day = None if request.form.get("looked") == "yes" else fields.day(request.form, "again", "look again on")
        plants.set_day(db(), trial, actor(), now(), today(), day, left)

    return answer(save, url_for(".page", trial_id=trial.id) + "#again", lambda e: _page(trial, e))


@route(chapter, "/trials/<int:trial_id>/night", Act.SCORE, "POST")
def keep_night(trial: Trial) -> ResponseReturnValue:
    """A night of hardening."""

    def save() -> None:
        form, here = request.form, plants.there(_plants(trial)[1])
        nipped = {
            letter: n
            for letter in here
            if (n := fields.optional_whole(form, f"nipped_{letter}", _("nipped of {letter}", letter=letter)))
        }
        night = Night(
            fields.day(form, "night", "night of"),
            form.get("out") == "out",
            fields.optional_number(form, "low_c", "lowest, °C"),
            nipped,
        )
        hardening.keep(db(), trial, actor(), now(), night, here, today())

    return answer(save, url_for(".page", trial_id=trial.id) + "#hardening", lambda e: _page(trial, e))
