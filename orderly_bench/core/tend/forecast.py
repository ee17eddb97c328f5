"""Nights to come: what a forecast leaves inside, cover and heat added, and whether that is frost or heat."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.typed import Asked, day, degrees_gained, number, read_those_typed, text

#: °C in the shade from which leafy pieces without roots suffer, inside.
HOT_C = 32.0
#: Nights ahead that are told.
AHEAD = 3


def as_fahrenheit(celsius: float) -> float:
    """°F.

    >>> as_fahrenheit(0.0), as_fahrenheit(-40.0)
    (32.0, -40.0)
    """
    return celsius * 9 / 5 + 32


@dataclass(frozen=True)
class Night:
    """A day's forecast, °C: lowest, highest (None: not said), what cover and heat add to the lowest, and who said it."""

    day: date
    low: float
    high: float | None = None
    gains: float = 0.0
    source: str = ""

    @property
    def inside(self) -> float:
        """Lowest inside, °C."""
        return round(self.low + self.gains, 9)

    @property
    def frost(self) -> bool:
        """Whether it freezes inside."""
        return self.inside <= 0

    @property
    def hot(self) -> bool:
        """Whether it is too hot for pieces without roots."""
        return self.high is not None and self.high >= HOT_C

    @property
    def words(self) -> str:
        """In one line, both units."""
        both = _("{c:.1f} °C ({f:.0f} °F)", c=self.inside, f=as_fahrenheit(self.inside))
        told = _(
            "{day}: {low:g} °C forecast, {gains:g} gained, {both} inside",
            day=dated(self.day),
            low=self.low,
            gains=self.gains,
            both=both,
        )
        if self.frost:
            told = _("{told}: frost inside; cover, heat, or bring them in", told=told)
        if self.hot and self.high is not None:
            told = _("{told}; {high:g} °C by day: shade and vent", told=told, high=self.high)
        return told.replace("-", "−")


ASKED = (
    Asked("day", N_("Night of"), day()),
    Asked("low", N_("Lowest forecast"), number(-90, 150)),
    Asked("high", N_("Highest by day"), number(-90, 150, None)),
    Asked("gains", N_("Gained by cover and heat"), degrees_gained(0, 90)),
    Asked("source", N_("Who says so"), text(80)),
)


def read_night(typed: Mapping[str, str], fahrenheit: bool) -> Night:
    """As typed; all of it in °F where that is said.

    Raises
    ------
    InvalidInput
        Names the field and the rule.
    """
    values = read_those_typed(ASKED, typed, ("day", "low"))
    if fahrenheit:
        values |= {name: round((values[name] - 32) * 5 / 9, 2) for name in ("low", "high") if name in values}
        values |= {"gains": round(values["gains"] * 5 / 9, 2)} if "gains" in values else {}
    night = Night(**{"gains": 0.0, **values})
    if not -60 <= night.low <= 50 or (night.high is not None and not night.low <= night.high <= 60):
        raise InvalidInput(
            ASKED[1].words, _("lies beyond any weather, or above the highest; is the unit right?"), typed.get("low")
        )
    return night


def warned(nights: Sequence[Night], today: date) -> list[Night]:
    """Nights of frost or days of heat that lie just ahead, the soonest first."""
    soon = [one for one in nights if 0 <= (one.day - today).days <= AHEAD and (one.frost or one.hot)]
    return sorted(soon, key=lambda one: one.day)
