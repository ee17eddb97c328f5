"""What a shelf may begin with: common containers, covers and media; a start to be put right, nothing of it is the lab's until kept."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from orderly_bench.core.plan.treatments import Container, Shape
from orderly_bench.core.stock.containers import ContainerKept
from orderly_bench.core.stock.kept import RecipeKept
from orderly_bench.core.stock.surroundings import Cover, CoverKind, Zone, ZoneKind

#: By the name of the list.
USUAL: Mapping[str, tuple[Any, ...]] = {
    "containers": (
        ContainerKept("tray of 40 cells", Container(Shape.CELLS, 5, 8, 60.0, "dark", True, 4.5, "square")),
        ContainerKept("tray of 84 cells", Container(Shape.CELLS, 7, 12, 25.0, "dark", True, 3.2, "square")),
        ContainerKept("pot 9 cm, round", Container(Shape.POT, 3, 5, 350.0, "dark", True, 9.0, "round")),
        ContainerKept("pot 11 cm, round", Container(Shape.POT, 3, 4, 650.0, "dark", True, 11.0, "round")),
        ContainerKept("half-litre jar", Container(Shape.JAR, 1, 1, 500.0, "clear", False, 8.5, "round")),
    ),
    "covers": (
        Cover("clear lid", CoverKind.LID, lets_light=90.0),
        Cover("plastic bag", CoverKind.BAG, lets_light=90.0),
        Cover("fleece", CoverKind.FLEECE, lets_light=80.0),
        Cover("shade cloth, half", CoverKind.SHADE, lets_light=50.0),
    ),
    "zones": (
        Zone("mist bench", ZoneKind.GLASSHOUSE, 18.0, 24.0, 21.0),
        Zone("cold frame", ZoneKind.FRAME),
        Zone("open ground", ZoneKind.OUTDOORS),
    ),
    "media": (
        RecipeKept("perlite", "1 perlite"),
        RecipeKept("pumice", "1 pumice"),
        RecipeKept("coarse sand", "1 sand"),
        RecipeKept("perlite and peat, half and half", "1 perlite, 1 peat"),
        RecipeKept("bark and coir 2 to 1", "2 bark, 1 coir"),
    ),
}
