"""Every list of the shelf in one place: what is asked of its entries, where they are, and how one is kept."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.shelf import operations as benches
from orderly_bench.chapters.shelf import stock_operations as things
from orderly_bench.core.stock import genera, kept, supplies, surroundings
from orderly_bench.core.stock.containers import CONTAINERS
from orderly_bench.core.stock.listed import Listed
from orderly_bench.stock import operations as stock
from orderly_bench.stock.models import StockBench, StockPlant, StockRecipe
from orderly_bench.trial.audit import Action
from orderly_bench.trial.models import Person

Keep = Callable[[Session, Person, datetime, Any], object]


@dataclass(frozen=True)
class ShelfList:
    """One list: its fields, its entries as the core knows them, how one is kept, and what the audit trail calls that."""

    listed: Listed[Any]
    entries: Callable[[Session], list[Any]]
    keep: Keep
    actions: tuple[Action, ...]

    @property
    def page(self) -> str:
        """The endpoint of its page."""
        home = {"benches": "shelf", "genera": "shelf", "plants": "stock", "cards": "stock", "media": "stock"}
        return f"{home.get(self.listed.name, 'things')}.{self.listed.name}_page"


def _values(query: Any) -> Callable[[Session], list[Any]]:
    return lambda session: [row.value for row in session.scalars(query)]


LISTS = {
    one.listed.name: one
    for one in (
        ShelfList(kept.BENCHES, _values(select(StockBench).order_by(StockBench.name)), benches.keep, (Action.KEPT_A_BENCH,)),
        ShelfList(
            kept.PLANTS, _values(select(StockPlant).order_by(StockPlant.taxon, StockPlant.code)), things.keep_plant,
            (Action.KEPT_A_STOCK_PLANT, Action.DESCRIBED_A_STOCK_PLANT),
        ),
        ShelfList(kept.CARDS, things.cards, things.keep_card, (Action.KEPT_A_METHOD_CARD,)),
        ShelfList(kept.MEDIA, _values(select(StockRecipe).order_by(StockRecipe.name)), things.keep_medium, (Action.KEPT_A_MEDIUM,)),
        ShelfList(CONTAINERS, lambda session: [row.kept for row in stock.all_containers(session)], things.keep_container, (Action.KEPT_A_CONTAINER,)),
        ShelfList(surroundings.COVERS, lambda session: [row.value for row in stock.all_covers(session)], things.keep_cover, (Action.KEPT_A_COVER,)),
        ShelfList(surroundings.ZONES, lambda session: [row.value for row in stock.all_zones(session)], things.keep_zone, (Action.KEPT_A_ZONE,)),
        ShelfList(supplies.SUPPLIES, lambda session: [row.value for row in stock.all_supplies(session)], things.keep_supply, (Action.KEPT_A_SUPPLY,)),
        ShelfList(genera.GENERA, stock.genus_notes, benches.keep_genus, (Action.NOTED_A_GENUS,)),
    )
}  # fmt: skip
