"""Away: who covers, what would go undone, and a page to hand over."""

from __future__ import annotations

from flask import Blueprint, render_template, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.tend.away import uncovered
from orderly_bench.stock.operations import all_cards
from orderly_bench.trial import away, load
from orderly_bench.trial.access import Act, Role, may
from orderly_bench.trial.models import Away, Person
from orderly_bench.trial.people import active_people
from orderly_bench.trial.walk import trials_with_facts, under_way
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.due import due_of_many
from orderly_bench.web.store import db, now, today

chapter = Blueprint("away", __name__, template_folder="templates")


def _page(error: OrderlyError | None = None) -> str:
    trials = [trial for trial, _ in trials_with_facts(db(), under_way(), today())]
    care = away.care_of_trials(db(), trials, actor().role == Role.SCORER)
    gone = [
        (one, [] if one.cover_id else uncovered(care, max(one.first_day, today()), one.last_day))
        for one in away.away_now(db(), today())
    ]
    others = [(p.id, p.name) for p in active_people(db()) if p.id != actor().id and may(p, Act.TEND)]
    return render_template(
        "away.html", error=error, gone=gone, others=others, typed=request.form, today=today(), mine=actor().id
    )


@route(chapter, "/away", Act.READ)
def page() -> ResponseReturnValue:
    """Who is away, and what nobody covers."""
    return _page()


@route(chapter, "/away", Act.TEND, "POST")
def say() -> ResponseReturnValue:
    """Keep one's own days away."""

    def save() -> None:
        form = request.form
        number = fields.sent_number(form.get("cover", "")) if form.get("cover") else None
        cover = load.by_id(db(), Person, number or 0, "person") if form.get("cover") else None
        first, last = fields.day(form, "first_day", "first day away"), fields.day(form, "last_day", "last day away")
        away.say_away(db(), actor(), now(), first, last, cover, fields.text(form, "away_note"))

    return answer(save, url_for(".page"), _page)


@route(chapter, "/away/withdraw", Act.TEND, "POST")
def withdraw() -> ResponseReturnValue:
    """Take one's own days away back."""

    def save() -> None:
        one = load.by_id(db(), Away, fields.sent_number(request.form.get("away_id", "")) or 0, "absence")
        away.take_back(db(), actor(), now(), one)

    return answer(save, url_for(".page"), _page)


@route(chapter, "/away/<int:away_id>", Act.READ)
def handover(away_id: int) -> ResponseReturnValue:
    """What falls into the days of one who is away, day by day, to hand over."""
    one = load.by_id(db(), Away, away_id, "absence")
    trials = [trial for trial, _ in trials_with_facts(db(), under_way(), today())]
    blind = [trial.id for trial in trials] if actor().role == Role.SCORER else []
    lines = [line for line in due_of_many(db(), trials, today(), blind) if one.first_day <= line.due <= one.last_day]
    lines.sort(key=lambda line: (line.due, line.trial.code))
    plants = {line.trial.plan.question.botanical_name for line in lines}
    cards = [card for card in all_cards(db()) if card.taxon in plants and card.care]
    return render_template("handover.html", one=one, lines=lines, cards=cards)
