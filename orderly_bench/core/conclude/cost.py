"""What a plant costs, arm by arm: work, material and bench over what was stuck, shared by what came of it; with its range.

Cost of a plant is cost of a cutting / share that came of it; the range takes the ends of that share's 95 % interval, so it is the uncertainty of the
rate alone. Beside it stands the bought plant: below cost of a cutting / price of a bought one, buying is cheaper.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from math import ceil

from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.methods.rates import Interval
from orderly_bench.core.typed import Asked, number, read_those_typed, text

CM2_PER_M2 = 1e4
MINUTES_AN_HOUR = 60
_MONEY = number(0, 1_000_000)
ASKED = (
    Asked("hour", N_("An hour of work costs"), _MONEY),
    Asked("minutes", N_("Minutes for a cutting, all arms"), number(0, 10_000)),
    Asked("material", N_("Material for a cutting, all arms"), _MONEY),
    Asked("bench", N_("A square metre of bench for a week"), _MONEY),
    Asked("weeks", N_("Weeks on the bench"), number(0, 520)),
    Asked("bought", N_("A bought plant costs"), _MONEY),
    Asked("bought_from", N_("bought where, on which day"), text(80)),
    Asked("currency", N_("Currency"), text(8)),
)


@dataclass(frozen=True)
class Prices:
    """What is asked for all arms; money in one currency, None where nobody said."""

    hour: float | None = None
    minutes: float | None = None
    material: float | None = None
    bench: float | None = None
    weeks: float | None = None
    bought: float | None = None
    bought_from: str = ""
    currency: str = ""


@dataclass(frozen=True)
class Own:
    """What an arm takes beyond what all take: minutes and material of a cutting."""

    minutes: float = 0.0
    material: float = 0.0


@dataclass(frozen=True)
class Came:
    """What came of an arm: k of n, and the 95 % interval of its share; None from one unit."""

    letter: str
    k: int
    n: int
    interval: Interval | None
    cm2: float  #: room of one cutting


@dataclass(frozen=True)
class ArmCost:
    """What a cutting of an arm takes: minutes, material, money, and room in m2 x weeks; k of n came of it.

    What a plant takes is that by the share that came of it; its range is by the ends of the share's interval.
    """

    letter: str
    k: int
    n: int
    minutes: float
    material: float
    cutting: float
    m2_weeks: float
    interval: Interval | None

    def of_plant(self, of_cutting: float) -> tuple[float, float | None, float | None] | None:
        """What a plant takes, with its range: None where none came of it; no range from one unit, no upper end where none may come."""
        if not self.k:
            return None
        low = of_cutting / self.interval.high if self.interval else None
        high = of_cutting / self.interval.low if self.interval and self.interval.low > 0 else None
        return of_cutting * self.n / self.k, low, high

    @property
    def plant(self) -> tuple[float, float | None, float | None] | None:
        """Money for a plant, with its range."""
        return self.of_plant(self.cutting)

    @property
    def cells(self) -> list[str]:
        """For a table of a plant's costs: money, minutes, material, m2 x weeks; each with its range, blank where it takes nothing."""
        money, work, stuff, room = self.cutting, self.minutes, self.material, self.m2_weeks
        return [
            self._told(value, form) for value, form in ((money, ".2f"), (work, ".3g"), (stuff, ".2f"), (room, ".2g"))
        ]

    def _told(self, of_cutting: float, form: str) -> str:
        found = self.of_plant(of_cutting)
        if found is None:
            return _("none of {n} came of it", n=str(self.n))
        if not of_cutting:
            return ""
        value, low, high = (None if one is None else format(one, form) for one in found)
        if low is None:
            return _("{value}, no range from one unit", value=value)
        if high is None:
            return _("{value}, {low} or more", value=value, low=low)
        return _("{value}, {low} to {high}", value=value, low=low, high=high)


def read_prices(typed: Mapping[str, str]) -> Prices:
    """As typed, by name of the field; blank is not said, and counts as nothing.

    Raises
    ------
    InvalidInput
        Names the field and the rule.
    """
    return Prices(**read_those_typed(ASKED, typed))


def read_own(typed: Mapping[str, str], letters: Sequence[str]) -> dict[str, Own]:
    """What arms take beyond the others: fields ``minutes_A`` and ``material_A``.

    Raises
    ------
    InvalidInput
        Names the arm, the field and the rule.
    """
    found = {}
    for letter in letters:
        asked = [
            Asked(f"minutes_{letter}", _("minutes more in {letter}", letter=letter), number(0, 10_000)),
            Asked(f"material_{letter}", _("material more in {letter}", letter=letter), _MONEY),
        ]
        values = read_those_typed(asked, typed)
        found[letter] = Own(values.get(asked[0].name, 0.0), values.get(asked[1].name, 0.0))
    return found


def cost_of(came: Came, prices: Prices, own: Own) -> ArmCost:
    """The costs of one arm."""
    minutes = (prices.minutes or 0.0) + own.minutes
    material = (prices.material or 0.0) + own.material
    room = came.cm2 / CM2_PER_M2 * (prices.weeks or 0.0)
    cutting = minutes / MINUTES_AN_HOUR * (prices.hour or 0.0) + material + room * (prices.bench or 0.0)
    return ArmCost(came.letter, came.k, came.n, minutes, material, cutting, room, came.interval)


@dataclass(frozen=True)
class Costs:
    """What a plant takes, arm by arm, and what that says."""

    arms: tuple[ArmCost, ...]
    prices: Prices
    lines: tuple[str, ...]


def costs_of(came: Sequence[Came], typed: Mapping[str, str], wanted_by: date | None, weeks_in_pot: int) -> Costs:
    """From what came of each arm and what was typed, by name of the field.

    Raises
    ------
    InvalidInput
        Names the field and the rule.
    """
    prices, own = read_prices(typed), read_own(typed, [one.letter for one in came])
    arms = [cost_of(one, prices, own[one.letter]) for one in came]
    lines = [*cost_notes(arms, prices), *stop_losses(arms, prices, wanted_by, weeks_in_pot)]
    return Costs(tuple(arms), prices, tuple(lines))


def cost_notes(costs: Sequence[ArmCost], prices: Prices) -> list[str]:
    """What the costs say together: what was not said, where buying is cheaper, and that ranges overlap."""
    lines = []
    missing = [_(one.words) for one in ASKED[:5] if getattr(prices, one.name) is None]
    if missing:
        lines.append(_("Not said, so counted as nothing: {what}", what=", ".join(missing)))
    if prices.bought:
        for one in costs:
            even = one.cutting / prices.bought
            if even >= 1:
                lines.append(_("{letter}: a cutting costs more than a bought plant", letter=one.letter))
            else:
                lines.append(
                    _(
                        "{letter}: cheaper than bought as long as more than {even:.0f} of 100 come of it",
                        letter=one.letter,
                        even=100 * even,
                    )
                )
    ranged = [(one.letter, *one.plant) for one in costs if one.plant and None not in one.plant]
    if len(ranged) > 1:
        cheapest, *_rest, high = min(ranged, key=lambda one: one[1])
        close = [letter for letter, _, low, _ in ranged if letter != cheapest and (low or 0.0) <= (high or 0.0)]
        if close:
            lines.append(
                _("The range of {cheapest} meets that of {others}: which is cheaper is not settled by this trial", cheapest=cheapest, others=", ".join(close))
            )  # fmt: skip
    return lines


def stop_losses(costs: Sequence[ArmCost], prices: Prices, wanted_by: date | None, weeks_in_pot: int) -> list[str]:
    """When to stop and buy: the fewest that must have come of the next lot of as many, and the last day on which that is worth asking.

    Buying is cheaper once cost of a cutting x stuck / came of it is above the price of a bought plant. None without that price.
    """
    if not prices.bought:
        return []
    by = _(" by {day}", day=dated(wanted_by - timedelta(weeks=weeks_in_pot))) if wanted_by else ""
    lines = []
    for one in costs:
        least = ceil(one.cutting * one.n / prices.bought)
        if 0 < least <= one.n:
            told = N_("{letter}: of {n} stuck at least {least} must have come of it{by}; with fewer, stop and buy")
            lines.append(_(told, letter=one.letter, n=str(one.n), least=str(least), by=by))
    return lines
