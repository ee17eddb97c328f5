"""Design: arms, numbers, the drawn bench, the lock."""

from __future__ import annotations

import secrets
from dataclasses import replace

from flask import Blueprint, render_template, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.design import locking, margin, operations, views
from orderly_bench.chapters.design.curves import Curve, curve_of, curves
from orderly_bench.chapters.design.forms import AMENDMENTS, read_amendment
from orderly_bench.chapters.design.material import of_units
from orderly_bench.chapters.design.moving import in_words, moving_of, place_of, with_links
from orderly_bench.chapters.design.seen import Seen, drawn, runs_out
from orderly_bench.core.errors import InvalidInput, OrderlyError, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.part import Page, unticked, written_part
from orderly_bench.core.plan.treatments import Shape
from orderly_bench.core.plan.value import CameToArms
from orderly_bench.core.rehearse.outcomes import GUESSED
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.typed import read_choice
from orderly_bench.formats import design_csv as design_csv_format
from orderly_bench.formats.design_csv import write_design
from orderly_bench.record.gather import version_records
from orderly_bench.record.keep import likeness_before
from orderly_bench.stock.operations import all_containers, bench_named, litres_ready, plants_of, recipes_known
from orderly_bench.trial import load
from orderly_bench.trial.access import Act, may
from orderly_bench.trial.amending import amend as amend_plan
from orderly_bench.trial.blindness import arms_hidden, note_served
from orderly_bench.trial.draft import refuse_when_locked
from orderly_bench.trial.models import Trial
from orderly_bench.trial.moves import move_units, moves_of
from orderly_bench.trial.reserved import litres_reserved
from orderly_bench.trial.versions import with_draw
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.pages import trial_page
from orderly_bench.web.pdf import download
from orderly_bench.web.store import db, lab, now, today

chapter = Blueprint("design", __name__, template_folder="templates")
MOST_SEED = 2**31


def _stock(trial: Trial) -> margin.Stock:
    """What the stock has for a plan that may still change."""
    if trial.locked_at is not None:
        return margin.Stock([], None)
    plan = trial.plan
    bench = bench_named(db(), plan.design.bench)
    plants = plants_of(db(), [p.donor for p in plan.design.pieces], plan.question.taxon, plan.question.botanical_name)
    return margin.Stock(
        [plant.value for plant in plants],
        bench.value if bench else None,
        litres_ready(db()),
        litres_reserved(db()),
        recipes_known(db()),
    )


def _likeness(trial: Trial) -> views.Likeness | None:
    """What the lab's own earlier trials say of cuttings that share a container, where this one has any."""
    if trial.locked_at is not None or trial.plan.design.cuttings_per_unit < 2:
        return None
    return views.likeness_of(likeness_before(db(), trial), trial.plan.question.botanical_name)


def _page(trial: Trial, typed: operations.Form | None = None, error: OrderlyError | None = None) -> str:
    values = operations.as_typed(trial.plan)
    likeness = _likeness(trial)
    if likeness is not None and not values["assumed_icc"]:
        values["assumed_icc"] = f"{likeness.icc:.2f}"
    if typed is not None and "cuttings_per_arm" in typed:
        values = unticked(values, typed)
    note_served(db(), trial, actor(), now())
    hidden = arms_hidden(db(), trial, actor())
    plan = trial.plan
    units = load.units_with_everything(db(), trial)
    material = of_units(trial, units)
    work = margin.margin_for(trial, values, _stock(trial))
    trays = views.map_of(trial, units, hidden, material.donors)
    movable = trial.locked_at is None and may(actor(), Act.PLAN) and bool(units)
    moving = moving_of(units, request.values.get("moving", ""), request.values.get("to", "")) if movable else None
    return trial_page(
        "design.html",
        trial,
        "Design",
        error,
        values=values,
        typed=request.form,
        work=work,
        likeness=likeness,
        seasons=views.seasons_of(plan),
        calendar=views.said_of_waves(plan, lab().settings.hemisphere, today()),
        wave_numbers=views.wave_numbers(values),
        came_choices=[(one.value, one.value) for one in CameToArms],
        on_shelf=[(one.name, written_part(one.value, Page.DESIGN)) for one in all_containers(db())]
        if not trial.draws
        else [],
        year=views.year_strip(plan, lab().settings.hemisphere),
        own_shapes=[("", _("as the rest")), *((shape.value, shape.value) for shape in Shape)],
        versions=version_records(db(), trial) if trial.locked_at else (),
        amendments=list(AMENDMENTS.items()),
        arm_choices=[(arm.letter, f"{arm.letter}: {arm.name}") for arm in trial.arms],
        level_choices=[
            (f"{a.id}|{level.id}", f"{a.name}: {level.name}") for a in plan.treatments.aspects for level in a.levels
        ],
        redraws=margin.REDRAWS,
        whole_factors=[(factor.id, factor.name) for factor in plan.treatments.asked],
        trays=with_links(trays, units, moving) if movable else trays,
        moving=moving,
        place_words=in_words,
        place_of=place_of,
        moves=moves_of(trial) if trial.locked_at is None else [],
        balance=[] if hidden or not units else material.balance,
        lids=[] if hidden else views.lid_words(units),
        unit_words=views.unit_words(plan),
        stands=views.stands_words(trial, units),
        guessed=_(GUESSED[kind_of(plan.question.response).scale]),
        title=views.title_of(plan),
        freezes=views.freezes(plan),
    )


@route(chapter, "/trials/<int:trial_id>/design", Act.READ)
def design_page(trial: Trial) -> ResponseReturnValue:
    """The design."""
    return _page(trial)


@route(chapter, "/trials/<int:trial_id>/design", Act.PLAN, "POST")
def save_design(trial: Trial) -> ResponseReturnValue:
    """Keep the design."""

    act = request.form.get("act", "")

    def save() -> None:
        version = fields.whole(request.form, "version", "version of the plan")
        form = request.form if act != "propose" else operations.proposed(trial.plan, request.form)
        if act.startswith("way:"):
            work = margin.margin_for(trial, request.form, _stock(trial))
            offered = [*work.ways, *work.convincing, *([work.season_way] if work.season_way else [])]
            way = next((w for w in offered if w.key == act.removeprefix("way:")), None)
            if way is None:
                raise Refused(_("That way is not open any more; look again at what fits."))
            operations.save_way(db(), trial, actor(), now(), version, way.plan)
            return
        operations.save_design(db(), trial, actor(), now(), version, form)
        if act == "draw" and not trial.draws:
            operations.draw(db(), trial, actor(), now(), secrets.randbelow(MOST_SEED))

    return answer(save, url_for(".design_page", trial_id=trial.id), lambda e: _page(trial, request.form, e))


@route(chapter, "/trials/<int:trial_id>/design/working", Act.PLAN, "POST")
def design_working(trial: Trial) -> ResponseReturnValue:
    """The margin, as it is typed. Writes nothing."""
    work = margin.margin_for(trial, request.form, _stock(trial))
    return render_template(
        "_design_working.html",
        work=work,
        redraws=margin.REDRAWS,
        trial=trial,
        may=lambda act: may(actor(), Act[act]),
        error=None,
    )


@route(chapter, "/trials/<int:trial_id>/design/curve", Act.READ)
def design_curve(trial: Trial) -> ResponseReturnValue:
    """Would it be seen? The power curve of the design as it is kept, as far as it is worked out."""
    return _curve(trial, operations.as_typed(trial.plan))


@route(chapter, "/trials/<int:trial_id>/design/curve", Act.PLAN, "POST")
def typed_curve(trial: Trial) -> ResponseReturnValue:
    """The same of the design as it is typed; an earlier one of the same person is dropped."""
    return _curve(trial, request.form)


def _curve(trial: Trial, values: operations.Form) -> ResponseReturnValue:
    work = margin.margin_for(trial, values, _stock(trial))
    if work.plan is None:
        return render_template("_curve.html", seen=Seen("", [], work.problem), curve=None, trial=trial)
    curve = curve_of(trial, work.plan, runs_out(work.fits))
    return _shown(trial, curves().ask(actor().id, curve), -1)


@route(chapter, "/trials/<int:trial_id>/design/curve/<digest>", Act.READ)
def curve_pass(trial: Trial, digest: str) -> ResponseReturnValue:
    """The next pass of a curve that was asked for, or how far it is; one that was dropped is asked for anew at a click.

    Not by itself: two pages of one person would drop each other's for ever. Of what another server was asked for the page asks here too.
    """
    curve = curves().of(trial.id, digest)
    if curve is None and (request.args.get("again") or not curves().dropped(trial.id, digest)):
        return "", 204, {"HX-Trigger": "curve-again"}
    if curve is None:
        return render_template("_curve_stopped.html", trial=trial, digest=digest)
    return _shown(trial, curve, fields.optional_whole(request.args, "have", "pass") or 0)


def _shown(trial: Trial, curve: Curve, have: int) -> ResponseReturnValue:
    """The curve where there is more of it than the page has, else how far the next pass is."""
    if curve.found is None or curve.found.step <= have:
        return render_template("_curve_progress.html", curve=curve, have=have, trial=trial)
    seen = drawn(curve.plan, curve.found, curve.ends)
    page = render_template("_curve.html", seen=seen, curve=curve, have=curve.found.step, trial=trial)
    return page, {"HX-Retarget": "#curve", "HX-Reswap": "innerHTML"}


@route(chapter, "/trials/<int:trial_id>/draw", Act.PLAN, "POST")
def draw(trial: Trial) -> ResponseReturnValue:
    """Draw, or with a reason redraw, the layout."""
    return answer(
        lambda: operations.draw(
            db(), trial, actor(), now(), secrets.randbelow(MOST_SEED), fields.text(request.form, "reason")
        ),
        url_for(".design_page", trial_id=trial.id) + "#bench",
        lambda e: _page(trial, None, e),
    )


@route(chapter, "/trials/<int:trial_id>/design/move", Act.PLAN, "POST")
def move(trial: Trial) -> ResponseReturnValue:
    """Let a unit stand elsewhere; the draw stays on record as it fell."""

    def save() -> None:
        refuse_when_locked(trial)
        moving = moving_of(
            load.units_with_everything(db(), trial), request.form.get("moving", ""), request.form.get("to", "")
        )
        if moving is None or moving.to is None:
            raise InvalidInput("move", _("choose a unit on the bench, then the place it goes to"))
        move_units(db(), trial, actor(), now(), {moving.unit: moving.to}, fields.text(request.form, "why"))

    return answer(save, url_for(".design_page", trial_id=trial.id) + "#bench", lambda e: _page(trial, None, e))


@route(chapter, "/trials/<int:trial_id>/design.csv", Act.READ)
def design_csv(trial: Trial) -> ResponseReturnValue:
    """The drawn design, a row a cutting."""
    _refuse_hidden(trial)
    load.units_with_everything(db(), trial)
    plan = with_draw(trial, trial.plan)
    if trial.locked_at is None:
        plan = replace(
            plan, units=tuple(replace(u, cuttings=plan.per_unit(plan.treatments.arm(u.arm))) for u in plan.units)
        )
    return download(write_design(plan), "text/csv", f"design-{trial.code}.csv")


@route(chapter, "/trials/<int:trial_id>/plan.yaml", Act.READ)
def plan_text(trial: Trial) -> ResponseReturnValue:
    """The plan's own text, of which the digest is taken."""
    _refuse_hidden(trial)
    return download(trial.plan_text, "application/yaml", f"plan-{trial.code}.yaml")


def _refuse_hidden(trial: Trial) -> None:
    note_served(db(), trial, actor(), now())
    if arms_hidden(db(), trial, actor()):
        raise Refused(
            _("Arms are hidden while you score blind; the plan and the design open when the endpoint check is closed.")
        )


@route(chapter, "/trials/<int:trial_id>/design/import", Act.PLAN, "POST")
def import_design(trial: Trial) -> ResponseReturnValue:
    """Take a design that was drawn elsewhere."""
    _name, data = fields.file(request.files, "file")

    def save() -> None:
        if data is None:
            raise InvalidInput("file", _("choose the CSV file of the design"))
        units = design_csv_format.read_design(data)
        came = fields.text(request.form, "came_to_arms") or CameToArms.DRAWN.value
        came = read_choice(came, _("how pieces came to their arms"), CameToArms)
        operations.import_design(db(), trial, actor(), now(), units, fields.text(request.form, "reason"), came)

    return answer(save, url_for(".design_page", trial_id=trial.id) + "#bench", lambda e: _page(trial, None, e))


@route(chapter, "/trials/<int:trial_id>/lock", Act.PLAN, "POST")
def lock(trial: Trial) -> ResponseReturnValue:
    """Freeze the plan."""
    return answer(
        lambda: locking.lock_plan(db(), trial, actor(), now(), fields.text(request.form, "anyway")),
        url_for("prepare.prepare_page", trial_id=trial.id),
        lambda e: _page(trial, None, e),
    )


@route(chapter, "/trials/<int:trial_id>/amend", Act.PLAN, "POST")
def amend(trial: Trial) -> ResponseReturnValue:
    """Record an amendment."""

    def save() -> None:
        change = read_amendment(request.form, trial.plan)
        amend_plan(db(), trial, actor(), now(), change, fields.text(request.form, "reason"))

    return answer(
        save,
        url_for(".design_page", trial_id=trial.id) + "#amendments",
        lambda e: _page(trial, None, e),
    )
