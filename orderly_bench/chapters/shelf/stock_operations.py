"""The shelf's stock: kept with an entry in the audit trail, and held against what trials will take of it."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.core.plan.treatments import Container
from orderly_bench.core.stock import kept, supplies
from orderly_bench.stock import operations as stock
from orderly_bench.stock.models import MethodCard, StockContainer, StockPlant, StockRecipe, Supply
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Conclusion, Cutting, Person
from orderly_bench.trial.reserved import litres_reserved


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
    """A medium, and the litres that locked trials with nothing stuck yet will take."""

    recipe: StockRecipe
    reserved: float

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


def keep_plant(session: Session, actor: Person, now: datetime, plant: kept.StockPlant, gone: bool) -> StockPlant:
    """Keep a stock plant, or describe the one of that code anew."""
    found = stock.plants_by_code(session, [plant.code]).get(plant.code.strip().casefold())
    made = stock.describe_plant(session, found, plant) if found else stock.keep_plant(session, plant)
    made.gone = gone
    session.flush()
    new = {"plant": made.code, "taxon": made.taxon, "most_to_take": made.most_to_take, "gone": made.gone}
    record(session, actor, now, Action.DESCRIBED_A_STOCK_PLANT if found else Action.KEPT_A_STOCK_PLANT, new=new)
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
    made = stock.keep_card(session, card)
    record(session, actor, now, Action.KEPT_A_METHOD_CARD, new={"taxon": made.taxon, "cutting_type": made.cutting_type})
    return made


def media(session: Session) -> list[MediumShown]:
    """Media by name, with what is reserved of each."""
    reserved = litres_reserved(session)
    rows = session.scalars(select(StockRecipe).order_by(StockRecipe.name))
    return [MediumShown(row, reserved.get(row.name.casefold(), 0.0)) for row in rows]


def keep_medium(session: Session, actor: Person, now: datetime, recipe: kept.RecipeKept) -> StockRecipe:
    """Keep a medium with its recipe and what stands ready."""
    made = stock.keep_recipe(session, recipe)
    record(session, actor, now, Action.KEPT_A_MEDIUM, new={"medium": made.name, "litres": made.litres})
    return made


def keep_container(session: Session, actor: Person, now: datetime, name: str, container: Container) -> StockContainer:
    """Keep a kind of container."""
    made = stock.keep_container(session, name, container)
    record(session, actor, now, Action.KEPT_A_CONTAINER, new={"container": made.name, "volume_ml": made.volume_ml})
    return made


def keep_supply(session: Session, actor: Person, now: datetime, supply: supplies.Supply) -> Supply:
    """Keep a supply."""
    made = stock.keep_supply(session, supply)
    record(session, actor, now, Action.KEPT_A_SUPPLY, new={"supply": made.name, "lot": made.lot, "amount": made.amount})
    return made
