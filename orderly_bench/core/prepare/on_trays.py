"""Which trays get what goes on a whole tray: heat, a cover, a lamp, as they were drawn."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.aspects import ON_TRAYS
from orderly_bench.core.plan.treatments import Aspect
from orderly_bench.core.plan.value import Plan


@dataclass(frozen=True)
class OnTrays:
    """One level of what goes on whole trays, and their numbers."""

    aspect: str
    level: str
    trays: tuple[int, ...]

    @property
    def words(self) -> str:
        """``bottom heat: 24 °C``."""
        return _("{aspect}: {level}", aspect=_(self.aspect), level=self.level)

    @property
    def where(self) -> str:
        """Their trays, in words."""
        numbers = all_of([str(number) for number in self.trays])
        return _("{n:~tray|trays} {numbers}", n=len(self.trays), numbers=numbers)


def goes_on_trays(plan: Plan) -> list[Aspect]:
    """What is asked and goes on whole trays, by its nature or because the design says so."""
    said = (plan.design.whole_aspect, plan.design.trays_get)
    return [one for one in plan.treatments.asked if one.kind in ON_TRAYS or one.id in said]


def on_trays(plan: Plan, arms_in: Mapping[int, Collection[str]]) -> list[OnTrays]:
    """Every level with its trays; nothing of what some tray holds several levels of, or an arm does not say.

    Parameters
    ----------
    arms_in : mapping of int to collection of str
        The letters of the arms in each tray, by its number.
    """
    found = []
    for aspect in goes_on_trays(plan):
        levels = {
            tray: {plan.treatments.value(plan.treatments.arm(letter), aspect) for letter in letters}
            for tray, letters in sorted(arms_in.items())
        }
        if all(len(own) == 1 and None not in own for own in levels.values()):
            trays: dict[str, list[int]] = {}
            for tray, own in levels.items():
                for level in filter(None, own):
                    trays.setdefault(level.name, []).append(tray)
            found += [OnTrays(aspect.name, level, tuple(numbers)) for level, numbers in trays.items()]
    return found
