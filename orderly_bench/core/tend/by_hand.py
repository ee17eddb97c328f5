"""What a person reads where the cuttings stand: a thermometer's two figures, moisture by touch, sun, shade, a lamp's height, the cover.

Only like is compared with like: two arms on days on which the same thing was read of both. What nobody read is not known, never the same.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum
from itertools import combinations
from statistics import fmean

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.tend.by_day import Unit
from orderly_bench.core.typed import read_number


class Kind(StrEnum):
    """What is read; each is compared with itself alone."""

    COVER = "cover, from this day on"
    MOISTURE = "moisture of the medium"
    AIR = "air, lowest and highest"
    MEDIUM = "medium, lowest and highest"
    SHADE = "shade, percent"
    SUN = "sun, hours a day"
    LAMP = "lamp above them, cm"
    LIGHT = "light, in words"


#: From dry to soaked; between the second and the third lies what most cuttings want.
MOISTURE = (N_("dry"), N_("nearly dry"), N_("moist"), N_("wet"), N_("soaked"))
WANTED = MOISTURE[1:3]
#: From dark to bright, where nobody has a figure.
LIGHTS = (N_("deep shade"), N_("shade"), N_("bright shade"), N_("half sun"), N_("full sun"))
COVERS = (N_("closed"), N_("vented"), N_("holed"), N_("off"))
#: Units, least and most that can be, and from what on two arms lived apart.
_NUMBERS = {
    Kind.AIR: ("°C", -40.0, 70.0, 1.0), Kind.MEDIUM: ("°C", -20.0, 60.0, 1.0), Kind.SHADE: ("%", 0.0, 100.0, 10.0),
    Kind.SUN: ("h", 0.0, 24.0, 1.0), Kind.LAMP: ("cm", 1.0, 500.0, 10.0),
}  # fmt: skip
#: What is read in classes, from the least on.
_CLASSES = {Kind.MOISTURE: MOISTURE, Kind.LIGHT: LIGHTS}
#: Of two classes, from which on two arms lived apart.
CLASSES_APART = 0.75
#: Share of days in a state of cover from which on two arms were not covered alike.
COVER_APART = 0.10


@dataclass(frozen=True)
class ByHand:
    """One reading.

    Attributes
    ----------
    units : frozenset of int
        Ids of those that stood there.
    state : str
        Of cover, or a class of moisture or light; blank where figures are read.
    low, high : float or None
        Figures in the kind's unit; the same where one was read.
    """

    kind: Kind
    day: date
    units: frozenset[int]
    state: str = ""
    low: float | None = None
    high: float | None = None

    @property
    def words(self) -> str:
        """``14 to 31 °C``, ``wet``."""
        if self.low is None or self.high is None:
            return _(self.state) if self.state else ""
        figures = f"{self.low:g}" if self.low == self.high else _("{low:g} to {high:g}", low=self.low, high=self.high)
        return f"{figures} {_NUMBERS[self.kind][0]}"

    @property
    def middle(self) -> float | None:
        """One figure of it: the middle of two, or the class counted from the least."""
        if self.kind in _CLASSES:
            return float(_CLASSES[self.kind].index(self.state))
        return None if self.low is None or self.high is None else (self.low + self.high) / 2


def read_value(kind: Kind, typed: str) -> tuple[str, float | None, float | None]:
    """State, or the lower and the higher figure, from what a person typed.

    Raises
    ------
    InvalidInput
        A state that is none, no figure, more than two, or one that can't be.

    >>> read_value(Kind.AIR, "31 / 14")
    ('', 14.0, 31.0)
    >>> read_value(Kind.AIR, "50 F")
    ('', 10.0, 10.0)
    """
    states = ({Kind.COVER: COVERS} | _CLASSES).get(kind)
    wanted = " ".join(typed.split()).casefold()
    if states is not None:
        found = next((state for state in states if wanted in (state, _(state).casefold())), None)
        if found is None:
            raise InvalidInput(_(kind.value), _("choose one of: {names}", names=", ".join(states)), typed[:40])
        return found, None, None
    unit, least, most, _step = _NUMBERS[kind]
    fahrenheit = kind in (Kind.AIR, Kind.MEDIUM) and wanted.rstrip().endswith("f")
    for sign in ("°f", "f") if fahrenheit else ():
        wanted = wanted.replace(sign, " ")
    for sign in ("°C", "°c", "%", "cm", "hours", "h"):
        wanted = wanted.replace(sign, " ")
    parts = [
        part for part in wanted.replace(" to ", "/").replace(" and ", "/").replace(";", "/").split("/") if part.strip()
    ]
    if not 1 <= len(parts) <= 2:
        raise InvalidInput(
            _(kind.value), _("type one figure, or the lowest and the highest, such as 14 to 31"), typed[:40]
        )
    figures = sorted(read_number(part.strip(), _(kind.value)) for part in parts)
    figures = [(figure - 32) * 5 / 9 for figure in figures] if fahrenheit else figures
    if not least <= figures[0] <= figures[-1] <= most:
        rule = _("lies between {least:g} and {most:g} {unit}", least=least, most=most, unit=unit)
        raise InvalidInput(_(kind.value), rule, typed[:40])
    return "", figures[0], figures[-1]


def covers_of(unit: Unit, readings: Sequence[ByHand]) -> list[tuple[date, date, str]]:
    """The unit's states of cover as stretches of days, from the first that was written down on."""
    own = sorted((r for r in readings if r.kind is Kind.COVER and unit.id in r.units), key=lambda r: r.day)
    found: list[tuple[date, date, str]] = []
    for i, reading in enumerate(own):
        first = max(reading.day, unit.first)
        last = min(own[i + 1].day - timedelta(days=1) if i + 1 < len(own) else unit.last, unit.last)
        if first <= last:
            found.append((first, last, reading.state))
    return found


def cover_days(units: Sequence[Unit], readings: Sequence[ByHand]) -> dict[str, dict[str, float]]:
    """By arm, days in each state of cover, in one of its units on average; only of units of which it was written down."""
    found: dict[str, dict[str, float]] = {}
    for arm in dict.fromkeys(unit.arm for unit in units):
        stretches = [covers_of(unit, readings) for unit in units if unit.arm == arm]
        known = [each for each in stretches if each]
        if known:
            found[arm] = {
                state: sum((last - first).days + 1 for each in known for first, last, s in each if s == state)
                / len(known)
                for state in COVERS
            }
    return found


def apart_by_hand(units: Sequence[Unit], readings: Sequence[ByHand], by_plan: Collection[Kind] = ()) -> list[str]:
    """What arms did not have alike, with figures, in words; what differs by plan is left out.

    Parameters
    ----------
    units : sequence of Unit
        With their arm and their days.
    by_plan : collection of Kind
        What the plan means to differ.
    """
    found = []
    for kind in Kind:
        if kind in by_plan:
            continue
        told = _cover_apart(units, readings) if kind is Kind.COVER else _figures_apart(kind, units, readings)
        found += [told] if told else []
    return found


def _by_day(kind: Kind, units: Sequence[Unit], readings: Sequence[ByHand]) -> dict[str, dict[date, float]]:
    """By arm and day, the mean of what was read of its units."""
    arm_of = {unit.id: unit.arm for unit in units}
    days = {unit.id: (unit.first, unit.last) for unit in units}
    values: dict[str, dict[date, list[float]]] = {}
    for reading in readings:
        if reading.kind is not kind or reading.middle is None:
            continue
        for arm in {arm_of[u] for u in reading.units if u in arm_of and days[u][0] <= reading.day <= days[u][1]}:
            values.setdefault(arm, {}).setdefault(reading.day, []).append(reading.middle)
    return {arm: {day: fmean(found) for day, found in by.items()} for arm, by in values.items()}


def _figures_apart(kind: Kind, units: Sequence[Unit], readings: Sequence[ByHand]) -> str:
    by = _by_day(kind, units, readings)
    worst: tuple[float, str] = (0.0, "")
    for a, b in combinations(sorted(by), 2):
        both = sorted(by[a].keys() & by[b].keys())
        if not both:
            continue
        first, second = fmean(by[a][day] for day in both), fmean(by[b][day] for day in both)
        far = CLASSES_APART if kind in _CLASSES else _NUMBERS[kind][3]
        if abs(first - second) >= far and abs(first - second) / far > worst[0]:
            worst = (abs(first - second) / far, _told(kind, (a, first), (b, second), len(both)))
    return worst[1]


def _told(kind: Kind, a: tuple[str, float], b: tuple[str, float], days: int) -> str:
    what = _(kind.value)
    if kind in _CLASSES:
        figures = [_(_CLASSES[kind][round(value)]) for _day, value in (a, b)]
    else:
        figures = [f"{value:.0f} {_NUMBERS[kind][0]}" for _, value in (a, b)]
    return _(
        "{what}: {a} {first}, {b} {second} on {days:day|days} on which both were read",
        what=what, a=a[0], first=figures[0], b=b[0], second=figures[1], days=days,
    )  # fmt: skip


def _cover_apart(units: Sequence[Unit], readings: Sequence[ByHand]) -> str:
    by = cover_days(units, readings)
    length = {arm: fmean(u.days for u in units if u.arm == arm) for arm in by}
    worst: tuple[float, str] = (0.0, "")
    for a, b in combinations(sorted(by), 2):
        for state in COVERS:
            gap = abs(by[a][state] / max(1.0, length[a]) - by[b][state] / max(1.0, length[b]))
            if gap >= COVER_APART and gap > worst[0]:
                worst = (
                    gap,
                    _(
                        "cover {state} on {first:.0f} of {of:.0f} days in {a}, on {second:.0f} of {of2:.0f} in {b}",
                        state=_(state), first=by[a][state], of=length[a], a=a, second=by[b][state], of2=length[b], b=b,
                    ),
                )  # fmt: skip
    return worst[1]


def moisture_told(units: Sequence[Unit], readings: Sequence[ByHand]) -> dict[str, str]:
    """By arm: ``moist or nearly dry on 5 of 7 days read; wet on 2``."""
    by = _by_day(Kind.MOISTURE, units, readings)
    found = {}
    for arm in sorted(by):
        classes = [MOISTURE[round(value)] for value in by[arm].values()]
        inside = sum(state in WANTED for state in classes)
        words = _("moist or nearly dry on {inside} of {n:day|days} read", inside=inside, n=len(classes))
        outside = [(state, classes.count(state)) for state in MOISTURE if state not in WANTED and state in classes]
        found[arm] = "; ".join([words, *(_("{state} on {n}", state=_(state), n=str(n)) for state, n in outside)])
    return found
