"""The shelf of the demo lab: what the station knows of its plants, what stands ready, what it sticks into and uses up."""

from __future__ import annotations

from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from orderly_bench.chapters.shelf import stock_operations as shelf
from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.core.stock.containers import ContainerKept
from orderly_bench.core.stock.kept import Flowering, Grows, MethodCard, RecipeKept, Stage, StockPlant
from orderly_bench.core.stock.supplies import Supply, Unit
from orderly_bench.core.stock.surroundings import Cover, CoverKind, Zone, ZoneKind
from orderly_bench.trial.models import Person

CARDS = (
    MethodCard("Lavandula angustifolia", "soft tip", None, 212, 288, 3, 5, "Vent from week 2, keep the foliage dry."),
    MethodCard("Olea europaea", "semi-hard tip", None, 47, 96, 6, 8, "Closed and warm below; no pull before week 6."),
    MethodCard(
        "Daphne odora", "semi-hard tip", 0.5, None, None, 6, 10, "Roots break easily: leave them be until week 6."
    ),
    MethodCard("Hippophae rhamnoides", "hardwood", 0.7, None, None, 8, 12, "Stick in late winter, buds up."),
)
MEDIA = (
    RecipeKept("pumice", "1 pumice", 60.0),
    RecipeKept("bark fines", "1 bark", 25.0),
    RecipeKept("coarse sand", "1 sand", 12.0),
    RecipeKept("3 pumice : 1 coir", "3 pumice, 1 coir", None),
)
CONTAINERS = {
    "40-cell tray": Container(Shape.CELLS, 5, 8, 60.0, "dark", True, 4.5, "square"),
    "9 cm pot, clear": Container(Shape.POT, 3, 5, 400.0, "clear", True, 9.0, "round"),
    "half-litre jar": Container(Shape.JAR, 1, 1, 500.0, "clear", False, 8.5, "round"),
}

OUTSIDE = {"40-cell tray": (38.0, 24.0)}
COVERS = (
    Cover("clear lid", CoverKind.LID, 12, 12.0, 90.0, "with two vents"), Cover("fleece", CoverKind.FLEECE, 4, None, 80.0, "on nights of frost"),
)  # fmt: skip
ZONES = (
    Zone("the bench", ZoneKind.GLASSHOUSE, 18.0, 24.0, 21.0, 6.0, "shaded 50 %"), Zone("north frame", ZoneKind.FRAME, None, None, None, 2.5, "open sky"),
)  # fmt: skip


def _supplies(at: datetime) -> tuple[Supply, ...]:
    today = at.date()
    return (
        Supply("IBA of 10000 ppm", 60, Unit.MILLILITRES, "24", today - timedelta(days=40), today + timedelta(days=140), 0.4, "EUR", "cool and dark"),
        Supply("IBA of 10000 ppm", 15, Unit.MILLILITRES, "19", today - timedelta(days=400), today - timedelta(days=35), 0.4, "EUR"),
        Supply("pumice", 50, Unit.LITRES, "", None, None, 0.3, "EUR", "2 to 5 mm, dusty: damp it first"),
        Supply("labels", 300, Unit.PIECES, "", None, None, 0.02, "EUR"),
    )  # fmt: skip


def fill_shelf(session: Session, who: Person, at: datetime) -> None:
    """Cards, media, a plant, containers and supplies."""
    for card in CARDS:
        shelf.keep_card(session, who, at, card)
    for medium in MEDIA:
        shelf.keep_medium(session, who, at, medium)
    daphne = StockPlant(
        "D2",
        "Daphne odora",
        "cold frame",
        6,
        "a little chlorosis",
        Stage.SEMI_HARD,
        14,
        Flowering.BUD,
        Grows.POT,
        at.date(),
    )
    shelf.keep_plant(session, who, at, daphne)
    for name, container in CONTAINERS.items():
        shelf.keep_container(session, who, at, ContainerKept(name, container, *OUTSIDE.get(name, ())))
    for cover in COVERS:
        shelf.keep_cover(session, who, at, cover)
    for zone in ZONES:
        shelf.keep_zone(session, who, at, zone)
    for supply in _supplies(at):
        shelf.keep_supply(session, who, at, supply)
