"""Design: arms, numbers, the drawn bench, the lock."""

from __future__ import annotations

import secrets

from flask import Blueprint, render_template, request, url_for
from flask.typing import ResponseReturnValue
from werkzeug.datastructures import MultiDict

from orderly_bench.chapters.design import locking, operations, views
from orderly_bench.chapters.design.forms import AMENDMENTS, read_amendment, read_design
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.plan.value import Headline, Shape
from orderly_bench.core.vocabulary import LayoutKind
from orderly_bench.record.gather import version_records
from orderly_bench.trial import load
from orderly_bench.trial.access import Act
from orderly_bench.trial.blindness import arms_hidden
from orderly_bench.trial.models import Trial
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.pages import trial_page
from orderly_bench.web.store import db, lab, now

chapter = Blueprint("design", __name__, template_folder="templates")
MOST_SEED = 2**31


def _page(trial: Trial, typed: MultiDict[str, str] | None = None, error: OrderlyError | None = None) -> str:
    values = views.typed_values(trial)
    if typed is not None and "cuttings_per_arm" in typed:
        values.setlist("arms", [])
        values.setlist("own", [])
        for box in ("one_vessel", "not_worse", "max_t"):
            values[box] = ""
        for key, given in typed.lists():
            values.setlist(key, given)
    hidden = arms_hidden(db(), trial, actor())
    plan = trial.plan
    units = load.units_with_everything(db(), trial)
    return trial_page(
        "design.html",
        trial,
        "Design",
        error,
        values=values,
        typed=request.form,
        work=views.margin_for(trial, values),
        possible=[(key, " + ".join(names)) for key, names in operations.possible_arms(plan.treatments).items()]
        if plan.treatments.asked
        else [],
        keys={arm: operations.key_of(tuple(levels)) for arm, levels in plan.treatments.identities().items()},
        seasons=views.seasons_of(plan),
        calendar=views.calendar_seasons(plan, lab().settings.hemisphere),
        shapes=[(shape.value, shape.value) for shape in Shape],
        own_shapes=[("", "as the rest"), *((shape.value, shape.value) for shape in Shape)],
        versions=version_records(db(), trial) if trial.locked_at else (),
        amendments=list(AMENDMENTS.items()),
        arm_choices=[(arm.letter, f"{arm.letter}: {arm.name}") for arm in trial.arms],
        level_choices=[
            (f"{a.id}|{level.id}", f"{a.name}: {level.name}") for a in plan.treatments.aspects for level in a.levels
        ],
        redraws=views.REDRAWS,
        headlines=[(kind.value, kind.value) for kind in Headline],
        layouts=[(kind.value, kind.value) for kind in LayoutKind],
        whole_factors=[(factor.id, factor.name) for factor in plan.treatments.asked],
        trays=views.map_of(trial, units, hidden),
        lids=[] if hidden else views.lid_words(units),
        unit_words=views.unit_words(plan),
    )


@route(chapter, "/trials/<int:trial_id>/design", Act.READ)
def design_page(trial: Trial) -> ResponseReturnValue:
    """The design."""
    return _page(trial)


@route(chapter, "/trials/<int:trial_id>/design", Act.PLAN, "POST")
def save_design(trial: Trial) -> ResponseReturnValue:
    """Keep the design."""

    def save() -> None:
        version = fields.whole(request.form, "version", "version of the plan")
        operations.save_design(db(), trial, actor(), now(), version, read_design(request.form))

    return answer(save, url_for(".design_page", trial_id=trial.id), lambda e: _page(trial, request.form, e))


@route(chapter, "/trials/<int:trial_id>/design/working", Act.PLAN, "POST")
def design_working(trial: Trial) -> ResponseReturnValue:
    """The margin, as it is typed. Writes nothing."""
    return render_template(
        "_design_margin.html", work=views.margin_for(trial, request.form), redraws=views.REDRAWS, trial=trial
    )


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


@route(chapter, "/trials/<int:trial_id>/lock", Act.PLAN, "POST")
def lock(trial: Trial) -> ResponseReturnValue:
    """Freeze the plan."""
    return answer(
        lambda: locking.lock_plan(db(), trial, actor(), now()),
        url_for("prepare.prepare_page", trial_id=trial.id),
        lambda e: _page(trial, None, e),
    )


@route(chapter, "/trials/<int:trial_id>/amend", Act.PLAN, "POST")
def amend(trial: Trial) -> ResponseReturnValue:
    """Record an amendment."""

    def save() -> None:
        change = read_amendment(request.form, trial.plan)
        locking.amend(db(), trial, actor(), now(), change, fields.text(request.form, "reason"))

    return answer(
        save,
        url_for(".design_page", trial_id=trial.id) + "#amendments",
        lambda e: _page(trial, None, e),
    )
