"""Shelf: stock plants, method cards, media."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.chapters.shelf import stock_operations as operations
from orderly_bench.chapters.shelf.list_pages import keep_entry, list_page
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.question.from_card import in_words
from orderly_bench.core.stock.kept import MethodCard
from orderly_bench.core.stock.ways import Way, against_book, next_batch
from orderly_bench.stock.operations import taxa_with_ways, ways_for
from orderly_bench.trial.access import Act
from orderly_bench.web.access import route
from orderly_bench.web.answers import answer
from orderly_bench.web.store import db


@dataclass(frozen=True)
class Counted:
    """One way of a card: its trials, how batches varied, and what a book says beside the last."""

    way: str
    trials: list[Way]
    varied: str
    book: str

    @property
    def batches(self) -> str:
        """Its batches that may feed *how many to stick*, as the sum takes them; blank where none may."""
        return ", ".join(way.as_batch.split(" ")[0] for way in self.trials if way.as_batch)

    @classmethod
    def of(cls, card: MethodCard, way: str, trials: list[Way]) -> Counted:
        """Of a card's way."""
        book = against_book(card.rate, card.rate, trials[-1]) if card.rate is not None and not card.own else ""
        return cls(way, trials, next_batch(trials), book)


chapter = Blueprint("stock", __name__, template_folder="templates")


def _plants_page(error: OrderlyError | None = None) -> str:
    return list_page("plants", error, groups=operations.plants_by_taxon(db()))


@route(chapter, "/plants", Act.READ)
def plants_page() -> ResponseReturnValue:
    """Every stock plant, and what open trials take from it."""
    return _plants_page()


@route(chapter, "/plants", Act.PLAN, "POST")
def keep_plant() -> ResponseReturnValue:
    """Keep a stock plant, or describe the one of that code anew."""
    return answer(lambda: keep_entry("plants"), url_for(".plants_page"), _plants_page)


def _counted(card: MethodCard) -> list[Counted]:
    """What was counted here of a card's plant and type, way by way."""
    ways = ways_for(db(), card.taxon).get(card.cutting_type, [])
    names = dict.fromkeys(way.way for way in ways)
    return [Counted.of(card, name, [way for way in ways if way.way == name]) for name in names]


def _cards_page(error: OrderlyError | None = None) -> str:
    cards = [(card, _counted(card)) for card in (*operations.cards(db()), *operations.without_a_card(db()))]
    shown = [(card, in_words(card, len(ways)), ways) for card, ways in cards]
    return list_page("cards", error, cards=shown, taxa=taxa_with_ways(db()))


@route(chapter, "/cards", Act.READ)
def cards_page() -> ResponseReturnValue:
    """How each kind of cutting of each plant is rooted here."""
    return _cards_page()


@route(chapter, "/cards", Act.PLAN, "POST")
def keep_card() -> ResponseReturnValue:
    """Keep a method card, or put the one of its plant and type right."""
    return answer(lambda: keep_entry("cards"), url_for(".cards_page"), _cards_page)


def _media_page(error: OrderlyError | None = None) -> str:
    return list_page("media", error, media=operations.media(db()))


@route(chapter, "/media", Act.READ)
def media_page() -> ResponseReturnValue:
    """Media by recipe: what stands ready, and what locked trials will take."""
    return _media_page()


@route(chapter, "/media", Act.PLAN, "POST")
def keep_medium() -> ResponseReturnValue:
    """Keep a medium with its recipe, and how much of it stands ready."""
    return answer(lambda: keep_entry("media"), url_for(".media_page"), _media_page)
