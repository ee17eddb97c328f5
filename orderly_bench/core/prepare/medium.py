"""How much medium: containers x cell volume, with settling and waste, split by a recipe in parts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from orderly_bench.core.messages.words import tell
from orderly_bench.core.plan.recipe import Part

SETTLING = 0.10
WASTE = 0.10
MOST_CELL_ML = 100_000


@dataclass(frozen=True)
class MediumNeed:
    """Litres for one level of medium, and of each component; ``cells`` counts containers; ``working`` shows the sum."""

    medium: str
    cells: int
    litres: float
    components: list[tuple[str, float]]
    working: str


def medium_need(medium: str, containers: Sequence[tuple[int, float]], recipe: list[Part]) -> MediumNeed:
    """Litres to mix for the containers to be filled: filled volume / (1 - settling) x (1 + waste).

    Parameters
    ----------
    medium : str
    containers : sequence of (int, float)
        How many of each volume in millilitres: cells, pots or vessels, never cuttings.
    recipe : list of Part

    Notes
    -----
    A mix without a recipe is its own single component. Volumes of components are simple shares;
    mixed particles of different size fill less than their sum, which the waste allowance covers.
    """
    filled = sum(number * volume_ml for number, volume_ml in containers) / 1_000
    litres = filled / (1 - SETTLING) * (1 + WASTE)
    whole = sum(part.parts for part in recipe)
    components = [(part.component, litres * part.parts / whole) for part in recipe] or [(medium, litres)]
    counted = " + ".join(f"{number} x {volume_ml:g} mL" for number, volume_ml in containers)
    working = tell(
        "{counted} = {filled:.2f} L; / 0.90 settling x 1.10 waste = {litres:.2f} L",
        counted=counted,
        filled=filled,
        litres=litres,
    )
    return MediumNeed(medium, sum(number for number, _ in containers), litres, components, working)
