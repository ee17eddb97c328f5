"""What a lab's trials start from."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from enum import StrEnum
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.measures import UnitSystem
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan.question import HELD_HOURS, LEAST_MM, LEAST_ROOTS, MARGIN_POINTS
from orderly_bench.core.typed import DayOrder
from orderly_bench.core.year import YearHere, read_day_of_year


class Hemisphere(StrEnum):
    """Which months a season has."""

    NORTH = "north"
    SOUTH = "south"


SEASONS = ("winter", "spring", "summer", "autumn")


def season_of(day: date, hemisphere: Hemisphere) -> str:
    """Meteorological season of a day: whole months, winter from December in the north and from June in the south.

    >>> season_of(date(2026, 1, 15), Hemisphere.SOUTH)
    'summer'
    """
    return SEASONS[(day.month % 12 // 3 + (2 if hemisphere is Hemisphere.SOUTH else 0)) % 4]


@dataclass(frozen=True)
class LabSettings:
    """Settings of a lab; a new trial starts from them and keeps its own.

    Attributes
    ----------
    usual_margin : float
        Percentage points.
    fit_least_roots, fit_least_mm
        Fit to pot on: at least so many roots, the longest at least so many millimetres.
    held_most_hours : float
        Pieces held longer than this between taking and sticking are doubted.
    last_frost, first_frost, hot_from, hot_to : str
        Days of the year, such as ``05-15``; blank while nobody said them.
    day_order : DayOrder
        How 5/7/2026 is read.
    """

    name: str
    time_zone: str
    hemisphere: Hemisphere = Hemisphere.NORTH
    units: UnitSystem = UnitSystem.METRIC
    alpha: float = 0.05
    usual_margin: float = 15.0
    fit_least_roots: int = 3
    fit_least_mm: float = 10.0
    held_most_hours: float = 12.0
    last_frost: str = ""
    first_frost: str = ""
    hot_from: str = ""
    hot_to: str = ""
    day_order: DayOrder = DayOrder.ASK

    @property
    def year(self) -> YearHere:
        """What the place says of its year."""
        return YearHere(self.last_frost, self.first_frost, self.hot_from, self.hot_to)


def check_settings(settings: LabSettings) -> LabSettings:
    """Settings as they may be kept, the name trimmed.

    Raises
    ------
    InvalidInput
        Names the setting and the rule it breaks.
    """
    name = " ".join(settings.name.split())
    if not 1 <= len(name) <= 120:
        raise InvalidInput("name of the lab", _("type one, within 120 characters"), name[:20] or "nothing")
    try:
        ZoneInfo(settings.time_zone)
    except (ZoneInfoNotFoundError, ValueError):
        raise InvalidInput(
            "time zone", _("write it as Europe/London or Australia/Hobart"), settings.time_zone
        ) from None
    if not 0.0001 <= settings.alpha <= 0.2:
        raise InvalidInput("alpha", _("must be between 0.0001 and 0.2; 0.05 is usual"), settings.alpha)
    MARGIN_POINTS.check(settings.usual_margin, N_("margin, points"))
    LEAST_ROOTS.check(settings.fit_least_roots, N_("fit to pot on, least roots"))
    LEAST_MM.check(settings.fit_least_mm, N_("fit to pot on, least length in mm"))
    HELD_HOURS.check(settings.held_most_hours, N_("held between taking and sticking, hours at most"))
    return LabSettings(
        name, settings.time_zone, settings.hemisphere, settings.units, settings.alpha, settings.usual_margin,
        settings.fit_least_roots, settings.fit_least_mm, settings.held_most_hours, *_days_of_year(settings), settings.day_order,
    )  # fmt: skip


def _days_of_year(settings: LabSettings) -> tuple[str, str, str, str]:
    hot = (
        read_day_of_year(settings.hot_from, _("hot weeks, from")),
        read_day_of_year(settings.hot_to, _("hot weeks, to")),
    )
    if bool(hot[0]) is not bool(hot[1]):
        raise InvalidInput(_("hot weeks"), _("say their first day and their last, or neither"))
    return (
        read_day_of_year(settings.last_frost, _("last frost of spring")),
        read_day_of_year(settings.first_frost, _("first frost of autumn")),
        *hot,
    )
