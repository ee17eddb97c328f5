"""How much medium: containers x cell volume, with settling and waste, split by a recipe in parts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan.recipe import Part


@dataclass(frozen=True)
class Filling:
    """So many containers of a volume in mL; by how much the filling settles and how much is wasted, per cent."""

    containers: int
    ml: float
    settling_percent: float = 10.0
    waste_percent: float = 10.0

    @property
    def filled(self) -> float:
        """Litres as they stand once settled."""
        return self.containers * self.ml / 1_000

    @property
    def litres(self) -> float:
        """Litres to mix."""
        return self.filled / (1 - self.settling_percent / 100) * (1 + self.waste_percent / 100)

    @property
    def allowed(self) -> tuple[float, float]:
        """What is allowed for settling and for waste."""
        return self.settling_percent, self.waste_percent


@dataclass(frozen=True)
class MediumNeed:
    """Litres for one level of medium, and of each component; ``cells`` counts containers; ``working`` shows the sum."""

    medium: str
    cells: int
    litres: float
    components: list[tuple[str, float]]
    working: str


def medium_need(medium: str, fillings: Sequence[Filling], recipe: list[Part]) -> MediumNeed:
    """Litres to mix for the containers to be filled: of each kind filled volume / (1 - settling) x (1 + waste).

    Parameters
    ----------
    medium : str
    fillings : sequence of Filling
        Cells, pots or vessels, never cuttings.
    recipe : list of Part

    Notes
    -----
    A mix without a recipe is its own single component. Volumes of components are simple shares;
    mixed particles of different size fill less than their sum, which the waste allowance covers.
    """
    litres = sum(one.litres for one in fillings)
    whole = sum(part.parts for part in recipe)
    components = [(part.component, litres * part.parts / whole) for part in recipe] or [(medium, litres)]
    alike: dict[tuple[float, float], list[Filling]] = {}
    for one in fillings:
        alike.setdefault(one.allowed, []).append(one)
    working = "; ".join(_worked(of, settling, waste) for (settling, waste), of in alike.items())
    if len(alike) > 1:
        working = _("{each}; together {litres:.2f} L", each=working, litres=litres)
    return MediumNeed(medium, sum(one.containers for one in fillings), litres, components, working)


def _worked(fillings: list[Filling], settling: float, waste: float) -> str:
    """The sum of those that settle and waste alike."""
    counted, filled = (
        " + ".join(f"{one.containers} x {one.ml:g} mL" for one in fillings),
        sum(one.filled for one in fillings),
    )
    litres = sum(one.litres for one in fillings)
    if not settling and not waste:
        return _("{counted} = {litres:.2f} L", counted=counted, litres=litres)
    told = N_("{counted} = {filled:.2f} L; / {left:.2f} settling x {more:.2f} waste = {litres:.2f} L")
    return _(told, counted=counted, filled=filled, left=1 - settling / 100, more=1 + waste / 100, litres=litres)
