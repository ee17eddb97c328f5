"""Shelf: stock plants, method cards, media."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass

from flask import Blueprint, render_template, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.shelf import stock_operations as operations
from orderly_bench.chapters.shelf.history import histories
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.question.from_card import in_words
from orderly_bench.core.stock.kept import MethodCard, RecipeKept, Stage, StockPlant
from orderly_bench.core.stock.ways import Way, against_book, next_batch
from orderly_bench.stock.operations import plants_by_code, taxa_with_ways, ways_for
from orderly_bench.trial.access import Act, may
from orderly_bench.trial.audit import Action
from orderly_bench.web import fields
from orderly_bench.web.access import actor, route
from orderly_bench.web.answers import answer
from orderly_bench.web.store import db, now


@dataclass(frozen=True)
class Counted:
    """One way of a card: its trials, how batches varied, and what a book says beside the last."""

    way: str
    trials: list[Way]
    varied: str
    book: str

    @classmethod
    def of(cls, card: MethodCard, way: str, trials: list[Way]) -> Counted:
        """Of a card's way."""
        book = against_book(card.rate, card.rate, trials[-1]) if card.rate is not None and not card.own else ""
        return cls(way, trials, next_batch(trials), book)


chapter = Blueprint("stock", __name__, template_folder="templates")


def _typed(kept: Mapping[str, object]) -> Mapping[str, object]:
    """What the form shows: what was sent, else the entry that is to be put right, else nothing."""
    if request.method == "POST":
        return request.form
    return {
        key: f"{value:g}" if isinstance(value, float) else value for key, value in kept.items() if value is not None
    }


def _plant_asked() -> dict[str, object]:
    code = request.args.get("code", "").strip()
    row = plants_by_code(db(), [code]).get(code.casefold()) if code else None
    return {} if row is None else asdict(row.value) | {"stage": row.stage, "gone": row.gone}


def _card_asked() -> dict[str, object]:
    wanted = request.args.get("taxon"), request.args.get("cutting_type")
    card = next((card for card in operations.cards(db()) if (card.taxon, card.cutting_type) == wanted), None)
    return {} if card is None else asdict(card) | {"rate": None if card.rate is None else 100 * card.rate}


def _medium_asked() -> dict[str, object]:
    wanted = request.args.get("name")
    found = next((one.recipe for one in operations.media(db()) if one.recipe.name == wanted), None)
    return {} if found is None else {"name": found.name, "text": found.text, "litres": found.litres}


def _plants_page(error: OrderlyError | None = None) -> str:
    return render_template(
        "plants.html", error=error, history=histories(db(), (Action.KEPT_A_STOCK_PLANT, Action.DESCRIBED_A_STOCK_PLANT)), groups=operations.plants_by_taxon(db()), typed=_typed(_plant_asked()),
        stages=[(stage.value, stage.value) for stage in Stage], plans=may(actor(), Act.PLAN),
    )  # fmt: skip


@route(chapter, "/plants", Act.READ)
def plants_page() -> ResponseReturnValue:
    """Every stock plant, and what open trials take from it."""
    return _plants_page()


@route(chapter, "/plants", Act.PLAN, "POST")
def keep_plant() -> ResponseReturnValue:
    """Keep a stock plant, or describe the one of that code anew."""
    form = request.form

    def save() -> None:
        plant = StockPlant(
            fields.text(form, "code"),
            fields.text(form, "taxon"),
            fields.text(form, "source"),
            fields.optional_number(form, "age_years", "age, years"),
            fields.text(form, "health"),
            fields.one_of(form, "stage", "stage", Stage),
            fields.optional_whole(form, "most_to_take", "most to take at once"),
        )
        operations.keep_plant(db(), actor(), now(), plant, form.get("gone") == "yes")

    return answer(save, url_for(".plants_page"), _plants_page)


def _counted(card: MethodCard) -> list[Counted]:
    """What was counted here of a card's plant and type, way by way."""
    ways = ways_for(db(), card.taxon).get(card.cutting_type, [])
    names = dict.fromkeys(way.way for way in ways)
    return [Counted.of(card, name, [way for way in ways if way.way == name]) for name in names]


def _cards_page(error: OrderlyError | None = None) -> str:
    cards = [(card, _counted(card)) for card in (*operations.cards(db()), *operations.without_a_card(db()))]
    return render_template(
        "cards.html", error=error, history=histories(db(), (Action.KEPT_A_METHOD_CARD,)), cards=[(card, in_words(card, len(ways)), ways) for card, ways in cards],
        taxa=taxa_with_ways(db()), typed=_typed(_card_asked()),
        plans=may(actor(), Act.PLAN),
    )  # fmt: skip


@route(chapter, "/cards", Act.READ)
def cards_page() -> ResponseReturnValue:
    """How each kind of cutting of each plant is rooted here."""
    return _cards_page()


@route(chapter, "/cards", Act.PLAN, "POST")
def keep_card() -> ResponseReturnValue:
    """Keep a method card, or put the one of its plant and type right."""
    form = request.form

    def save() -> None:
        rate = fields.optional_number(form, "rate", "rate, percent")
        card = MethodCard(
            fields.text(form, "taxon"),
            fields.text(form, "cutting_type"),
            None if rate is None else rate / 100,
            fields.optional_whole(form, "rooted", "rooted here"),
            fields.optional_whole(form, "stuck", "of so many stuck"),
            fields.optional_whole(form, "weeks_least", "weeks to root, least"),
            fields.optional_whole(form, "weeks_most", "weeks to root, most"),
            fields.text(form, "care"),
            fields.text(form, "way"),
        )
        operations.keep_card(db(), actor(), now(), card)

    return answer(save, url_for(".cards_page"), _cards_page)


def _media_page(error: OrderlyError | None = None) -> str:
    return render_template(
        "media.html",
        error=error,
        media=operations.media(db()),
        history=histories(db(), (Action.KEPT_A_MEDIUM,)),
        typed=_typed(_medium_asked()),
        plans=may(actor(), Act.PLAN),
    )


@route(chapter, "/media", Act.READ)
def media_page() -> ResponseReturnValue:
    """Media by recipe: what stands ready, and what locked trials will take."""
    return _media_page()


@route(chapter, "/media", Act.PLAN, "POST")
def keep_medium() -> ResponseReturnValue:
    """Keep a medium with its recipe, and how much of it stands ready."""
    form = request.form
    return answer(
        lambda: operations.keep_medium(
            db(),
            actor(),
            now(),
            RecipeKept(
                fields.text(form, "name"), fields.text(form, "text"), fields.optional_litres(form, "litres", "ready")
            ),
        ),
        url_for(".media_page"),
        _media_page,
    )
