"""Question: list trials, start one, ask its question, predict."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any
from zoneinfo import ZoneInfo

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from sqlalchemy import select

from orderly_bench.chapters.question import operations, views
from orderly_bench.chapters.question.forms import changed, read_table
from orderly_bench.chapters.question.search import STATES, page_of, read_search
from orderly_bench.core.errors import InvalidInput, OrderlyError
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.part import unticked
from orderly_bench.core.plan.table import Table, starting_at, table_of, table_of_arms
from orderly_bench.core.question.again import Otherwise
from orderly_bench.core.question.care_offered import care_offered
from orderly_bench.core.question.from_card import in_words
from orderly_bench.core.question.starts import STARTS, start_of
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.stock.genera import genus_of
from orderly_bench.core.stock.ways import Way
from orderly_bench.evidence.rows import shares_by_arm
from orderly_bench.formats.arms_csv import read_arms
from orderly_bench.record.gather import gather, standing_prediction
from orderly_bench.stock.models import MethodCard
from orderly_bench.stock.operations import all_cards, lessons_for, note_on, ways_for, weeks_expected
from orderly_bench.trial import load
from orderly_bench.trial.access import Act, may
from orderly_bench.trial.blindness import endpoint_closed
from orderly_bench.trial.draft import refuse_when_locked
from orderly_bench.trial.models import Trial
from orderly_bench.trial.walk import trials_with_facts
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer, status_of
from orderly_bench.web.pages import trial_page
from orderly_bench.web.store import db, lab, now, today

chapter = Blueprint("question", __name__, template_folder="templates")
#: Ways of one cutting type that the margin names.
MOST_WAYS = 4
#: Trials listed at once.
ON_A_PAGE = 50


@route(chapter, "/trials", Act.READ)
def trials() -> ResponseReturnValue:
    """All trials of the lab, newest first."""
    return _trials_page()


def _trials_page(error: OrderlyError | None = None, typed: str = "") -> str:
    page = max(1, fields.sent_number(request.args.get("page", "")) or 1)
    search = read_search(request.args)
    ids, total = page_of(db(), search, page, ON_A_PAGE)
    if not ids and page > 1:
        page = 1
        ids, total = page_of(db(), search, page, ON_A_PAGE)
    query = select(Trial).where(Trial.id.in_(ids)).order_by(Trial.id.desc())
    pages = -(-total // ON_A_PAGE)
    return render_template(
        "trials.html", rows=trials_with_facts(db(), query, today()), error=error, typed=typed, may_plan=may(actor(), Act.PLAN), page=page,
        pages=pages, newer=page - 1, older=page + 1 if page < pages else 0, total=total, search=search, states=STATES,
    )  # fmt: skip


@route(chapter, "/trials", Act.PLAN, "POST")
def start_trial() -> ResponseReturnValue:
    """Start a trial from a plant's name."""
    name = request.form.get("botanical_name", "")
    try:
        trial = operations.create_trial(db(), actor(), now(), name)
        if (start := start_of(request.form.get("start", ""))) is not None:
            table = starting_at(views.table_for(trial), start.kind, start.name, start.levels)
            operations.save_question(db(), trial, actor(), now(), trial.version, operations.as_typed(trial.plan), table)
    except OrderlyError as error:
        return _trials_page(error, name), 422
    return redirect(url_for(".question_page", trial_id=trial.id), 303)


def _here(cards: list[MethodCard]) -> views.Here:
    return views.Here(weeks_expected(cards), lab().settings.year, today())


def _page(
    trial: Trial, typed: Mapping[str, str] | None = None, error: OrderlyError | None = None, table: Table | None = None
) -> str:
    values = unticked(views.values_of(trial), typed or {}) | {"version": str(trial.version)}
    shown = table or _typed_table(typed) or views.table_for(trial)
    lines = views.line_views(shown)
    predictions = operations.predictions_of(db(), trial)
    stuck = [lot.day_zero for lot in trial.lots]
    form = views.as_form(values, shown)
    every_card = all_cards(db())
    own_cards = [card for card in every_card if card.taxon.casefold() == values["botanical_name"].strip().casefold()]
    return trial_page(
        "question.html",
        trial,
        "Question",
        error,
        values=values,
        table=shown,
        lines=lines,
        work=views.margin_for(form, trial.plan, _here(own_cards)),
        kinds=[(kind.value, kind.value) for kind in AspectKind],
        endpoints=views.endpoints(),
        gap=views.margin_gap(values),
        anew=False,
        others=views.others_for(values["response"]),
        folded=views.folded(values),
        care_offered=care_offered(trial.plan),
        starts=STARTS,
        earlier=operations.earlier_trials(db(), trial) if trial.locked_at is None else [],
        cards=[(card.id, f"{card.taxon}, {card.cutting_type}") for card in every_card],
        **_known_of(values["botanical_name"], own_cards),
        unsaved=typed is not None and error is None,
        predictions=predictions,
        standing=standing_prediction(db(), trial, ZoneInfo(lab().time_zone), stuck),
    )


def _known_of(taxon: str, cards: list[MethodCard]) -> dict[str, Any]:
    """What the lab knows of a plant, for the margin."""
    return {
        "own_cards": [(card, in_words(card.value)) for card in cards],
        "counted": _counted(taxon),
        "genus": note_on(db(), taxon),
        "genus_named": genus_of(taxon),
        "lessons": lessons_for(db(), taxon),
    }


def _counted(taxon: str) -> list[tuple[str, list[Way], int]]:
    """What was counted here of a plant, by cutting type: the newest ways, and how many more there are."""
    if not taxon.strip():
        return []
    of_type = ways_for(db(), taxon)
    return [(kind, ways[::-1][:MOST_WAYS], max(0, len(ways) - MOST_WAYS)) for kind, ways in of_type.items()]


def _typed_table(typed: Mapping[str, str] | None) -> Table | None:
    try:
        return read_table(typed) if typed is not None and "arms" in typed else None
    except OrderlyError:
        return None


@route(chapter, "/trials/<int:trial_id>/question", Act.READ)
def question_page(trial: Trial) -> ResponseReturnValue:
    """The question."""
    return _page(trial)


@route(chapter, "/trials/<int:trial_id>/question", Act.PLAN, "POST")
def save_question(trial: Trial) -> ResponseReturnValue:
    """Keep the question."""

    act = request.form.get("act", "")
    table: Table | None = None
    if act:
        try:
            made = changed(read_table(request.form), act)
        except OrderlyError as error:
            return _page(trial, request.form, error), status_of(error)
        table = made.table
        if not made.keeps:
            return _page(trial, request.form, None, table)

    def save() -> None:
        version = fields.whole(request.form, "version", "version of the plan")
        arms = read_table(request.form) if table is None else table
        operations.save_question(db(), trial, actor(), now(), version, request.form, arms)

    return answer(save, url_for(".question_page", trial_id=trial.id), lambda e: _page(trial, request.form, e, table))


@route(chapter, "/trials/<int:trial_id>/question/bring", Act.PLAN, "POST")
def bring_arms(trial: Trial) -> ResponseReturnValue:
    """Arms of an earlier trial, or of a CSV, put into the table; nothing is saved yet."""
    try:
        refuse_when_locked(trial)
        _name, data = fields.file(request.files, "file")
        if data is not None:
            table = table_of_arms(read_arms(data))
        elif request.form.get("from_card"):
            number = fields.whole(request.form, "from_card", "method card")
            card = load.by_id(db(), MethodCard, number, "method card").value
            values, table = views.begun_from(trial, card, ways_for(db(), card.taxon).get(card.cutting_type, []))
            return _page(trial, values, None, table)
        elif request.form.get("from_trial"):
            number = fields.whole(request.form, "from_trial", "earlier trial")
            table = table_of(load.by_id(db(), Trial, number, "trial").plan.treatments)
        else:
            raise InvalidInput("arms", _("choose an earlier trial, or a CSV with a row an arm"))
    except OrderlyError as error:
        db().rollback()
        return _page(trial, None, error), status_of(error)
    return _page(trial, views.values_of(trial), None, table)


@route(chapter, "/trials/<int:trial_id>/again", Act.PLAN, "POST")
def begin_again(trial: Trial) -> ResponseReturnValue:
    """The next trial from this one; what its arms came to is taken along once its end is closed."""
    more = fields.optional_whole(request.form, "more_units", _("more units")) or 0
    told = kind_of(trial.plan.question.response).yes_no and endpoint_closed(db(), trial)
    rates = shares_by_arm(gather(db(), trial)) if told else {}
    second, missing = (request.form.get(name) == "yes" for name in ("second_waves", "missing_arm"))
    other = Otherwise(more, fields.text(request.form, "plant"), second, missing)
    made = operations.begin_again(db(), trial, actor(), now(), other, rates)
    return redirect(url_for(".question_page", trial_id=made.id), 303)


@route(chapter, "/trials/<int:trial_id>/away", Act.PLAN, "POST")
def put_away(trial: Trial) -> ResponseReturnValue:
    """Into the archive, or out of it."""
    operations.put_away(db(), trial, actor(), now(), request.form.get("away") == "yes")
    return redirect(url_for(".question_page", trial_id=trial.id), 303)


@route(chapter, "/trials/<int:trial_id>/question/working", Act.PLAN, "POST")
def question_working(trial: Trial) -> ResponseReturnValue:
    """The margin, as it is typed. Writes nothing."""
    taxon = request.form.get("botanical_name", "")
    cards = all_cards(db(), taxon) if taxon.strip() else []
    gap = views.margin_gap(request.form)
    other = request.form.get("margin_scale", gap.scale) != gap.scale
    anew = render_template("_margin_gap.html", gap=gap, anew=True) if other else ""
    return anew + render_template(
        "_question_margin.html",
        work=views.margin_for(request.form, trial.plan, _here(cards)),
        trial=trial,
        may=lambda act: may(actor(), Act[act]),
        **_known_of(taxon, cards),
    )


@route(chapter, "/trials/<int:trial_id>/prediction", Act.PLAN, "POST")
def predict(trial: Trial) -> ResponseReturnValue:
    """Keep a ranked prediction."""
    ranking = [request.form.get(f"rank_{i}", "") for i in range(1, len(trial.arms) + 1)]
    if request.form.get("opinion") == "none":
        ranking = []
    return answer(
        lambda: operations.record_prediction(db(), trial, actor(), now(), ranking, request.form.get("why", "")),
        url_for(".question_page", trial_id=trial.id) + "#prediction",
        lambda e: _page(trial, None, e),
    )
