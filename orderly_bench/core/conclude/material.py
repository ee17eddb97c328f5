"""What a trial's material costs, from the prices on the shelf: what every cutting takes, and what an arm's own medium adds."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.prepare.needs import ALL, NO_RECIPES, MediumOfPlan, media_of
from orderly_bench.core.prepare.ready import Needed, shopping


@dataclass(frozen=True)
class Priced:
    """A line of material: what and how much, what a unit costs, and the arms that take it; none named: all."""

    what: str
    amount: float
    unit: str
    price: float
    letters: tuple[str, ...] = ()

    @property
    def cost(self) -> float:
        """Of all of it."""
        return self.amount * self.price


@dataclass(frozen=True)
class Material:
    """What has a price, and what has none."""

    priced: tuple[Priced, ...]
    without: tuple[str, ...]

    def for_a_cutting(self, stuck: Mapping[str, int]) -> dict[str, float]:
        """Money a cutting: under blank what all take, under an arm's letter what its own medium adds."""
        everyone, found = sum(stuck.values()), {"": 0.0}
        for line in self.priced:
            among = sum(stuck.get(letter, 0) for letter in line.letters) if line.letters else everyone
            for letter in line.letters or ("",):
                if among:
                    found[letter] = found.get(letter, 0.0) + line.cost / among
        return found


def material_of(
    plan: Plan, prices: Mapping[tuple[str, str], float], labels: int, known: Mapping[str, str] = NO_RECIPES
) -> Material:
    """The containers' media, labels, containers and hormone of a plan at what they cost; a reused container has no price.

    Parameters
    ----------
    prices : mapping of (str, str) to float
        Of one unit, by name in small letters and unit, as ``supplies.prices`` gives them.
    labels : int
    """
    media = media_of(plan, known)
    own = {line.what for one in media for line in _parts(one)}
    lines = [(line, _arms_of(plan, one)) for one in media for line in _parts(one)]
    rest = shopping(plan, dict.fromkeys((one.need.medium.casefold() for one in media), 1e9), {}, labels, known=known)
    lines += [(line, ()) for line in rest if line.what not in own]
    found, without = [], []
    for line, letters in lines:
        price = prices.get((line.what.casefold(), line.unit))
        if price is None:
            without.append(line.what)
        else:
            found.append(Priced(line.what, line.amount, line.unit, price, letters))
    return Material(tuple(found), tuple(dict.fromkeys(without)))


def _parts(medium: MediumOfPlan) -> list[Needed]:
    return [Needed(part, litres, "L", medium.need.medium) for part, litres in medium.need.components]


def _arms_of(plan: Plan, medium: MediumOfPlan) -> tuple[str, ...]:
    aspect = plan.treatments.of_kind(AspectKind.MEDIUM)
    if medium.id == ALL or aspect is None:
        return ()
    return tuple(arm.id for arm in plan.treatments.arms if arm.says.get(aspect.id) == medium.id)
