"""The shelf's stock: kept with an entry in the audit trail, and held against what trials will take of it."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.chapters.shelf.history import as_it_stands, put_down, values_of
from orderly_bench.core.stock import kept, supplies, surroundings
from orderly_bench.core.stock.containers import ContainerKept
from orderly_bench.stock import operations as stock
from orderly_bench.stock.models import (
    MethodCard,
    StockContainer,
    StockCover,
    StockPlant,
    StockRecipe,
    StockZone,
    Supply,
)
from orderly_bench.trial.audit import Action
from orderly_bench.trial.models import Conclusion, Cutting, Person
from orderly_bench.trial.reserved import reserved_by


@dataclass(frozen=True)
class PlantShown:
    """A stock plant, and how many planned cuttings that are not stuck yet wait for it."""

    plant: StockPlant
    waiting: int

    @property
    def over(self) -> bool:
        """Whether more waits than it should give at once."""
        return self.plant.most_to_take is not None and self.waiting > self.plant.most_to_take


@dataclass(frozen=True)
class MediumShown:
    """A medium, and the litres that locked trials with nothing stuck yet will take, each by its code."""

    recipe: StockRecipe
    reserved: float
    by_trial: tuple[tuple[str, float], ...] = ()

    @property
    def short(self) -> bool:
        """Whether more is reserved than there is."""
        return self.recipe.litres is not None and self.reserved > self.recipe.litres


def plants_by_taxon(session: Session) -> list[tuple[str, list[PlantShown]]]:
    """Stock plants by taxon, those nothing is taken from any more last."""
    ended = select(Conclusion.trial_id)
    waiting = select(Cutting.donor_id, func.count()).where(
        Cutting.donor_id.is_not(None), Cutting.status == "planned", Cutting.trial_id.not_in(ended)
    )
    of_plant: Counter[int] = Counter(
        {plant: n for plant, n in session.execute(waiting.group_by(Cutting.donor_id)) if plant}
    )
    groups: dict[str, list[PlantShown]] = {}
    for plant in session.scalars(select(StockPlant).order_by(StockPlant.taxon, StockPlant.gone, StockPlant.code)):
        groups.setdefault(plant.taxon, []).append(PlantShown(plant, of_plant[plant.id]))
    return list(groups.items())


def keep_plant(session: Session, actor: Person, now: datetime, plant: kept.StockPlant) -> StockPlant:
    """Keep a stock plant, or describe the one of that code anew."""
    found = stock.plants_by_code(session, [plant.code]).get(plant.code.strip().casefold())
    before = values_of(found) if found else {}
    made = stock.describe_plant(session, found, plant) if found else stock.keep_plant(session, plant)
    action = Action.DESCRIBED_A_STOCK_PLANT if found else Action.KEPT_A_STOCK_PLANT
    put_down(session, actor, now, (action, made.code), before, made)
    return made


def cards(session: Session) -> list[kept.MethodCard]:
    """Method cards by plant and type."""
    rows = session.scalars(select(MethodCard).order_by(MethodCard.taxon, MethodCard.cutting_type))
    return [card.value for card in rows]


def without_a_card(session: Session) -> list[kept.MethodCard]:
    """Plants and types of which trials counted something and nobody wrote a card: blank ones, to show the counts on."""
    written = {(card.taxon, card.cutting_type) for card in cards(session)}
    return [
        kept.MethodCard(taxon, cutting_type)
        for taxon in stock.taxa_with_ways(session)
        for cutting_type in stock.ways_for(session, taxon)
        if (taxon, cutting_type) not in written
    ]


def keep_card(session: Session, actor: Person, now: datetime, card: kept.MethodCard) -> MethodCard:
    """Keep a method card."""
    of = MethodCard.taxon == card.taxon.strip(), MethodCard.cutting_type == card.cutting_type.strip()
    before = as_it_stands(session, MethodCard, *of)
    made = stock.keep_card(session, card)
    put_down(session, actor, now, (Action.KEPT_A_METHOD_CARD, f"{made.taxon}, {made.cutting_type}"), before, made)
    return made


def media(session: Session) -> list[MediumShown]:
    """Media by name, with what is reserved of each."""
    reserved = reserved_by(session)
    rows = session.scalars(select(StockRecipe).order_by(StockRecipe.name))
    of_row = [(row, reserved.get(row.name.casefold(), {})) for row in rows]
    return [MediumShown(row, sum(trials.values(), 0.0), tuple(sorted(trials.items()))) for row, trials in of_row]


def keep_medium(session: Session, actor: Person, now: datetime, recipe: kept.RecipeKept) -> StockRecipe:
    """Keep a medium with its recipe and what stands ready."""
    before = as_it_stands(session, StockRecipe, StockRecipe.name == recipe.name.strip())
    made = stock.keep_recipe(session, recipe)
    put_down(session, actor, now, (Action.KEPT_A_MEDIUM, made.name), before, made)
    return made


def keep_container(session: Session, actor: Person, now: datetime, container: ContainerKept) -> StockContainer:
    """Keep a kind of container."""
    before = as_it_stands(session, StockContainer, StockContainer.name == container.name.strip())
    made = stock.keep_container(session, container)
    put_down(session, actor, now, (Action.KEPT_A_CONTAINER, made.name), before, made)
    return made


def keep_supply(session: Session, actor: Person, now: datetime, supply: supplies.Supply) -> Supply:
    """Keep a supply."""
    of = Supply.name == supply.name.strip(), Supply.lot == supply.lot.strip()
    before = as_it_stands(session, Supply, *of)
    made = stock.keep_supply(session, supply)
    name = f"{made.name}, {made.lot}" if made.lot else made.name
    put_down(session, actor, now, (Action.KEPT_A_SUPPLY, name), before, made)
    return made


def keep_cover(session: Session, actor: Person, now: datetime, cover: surroundings.Cover) -> StockCover:
    """Keep a kind of cover."""
    before = as_it_stands(session, StockCover, StockCover.name == cover.name.strip())
    made = stock.keep_cover(session, cover)
    put_down(session, actor, now, (Action.KEPT_A_COVER, made.name), before, made)
    return made


def keep_zone(session: Session, actor: Person, now: datetime, zone: surroundings.Zone) -> StockZone:
    """Keep a zone."""
    before = as_it_stands(session, StockZone, StockZone.name == zone.name.strip())
    made = stock.keep_zone(session, zone)
    put_down(session, actor, now, (Action.KEPT_A_ZONE, made.name), before, made)
    return made
