"""What became of the plants after the end: fates, room before and after potting, trays that can be put together."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.prepare.medium import Filling, medium_need


class Fate(StrEnum):
    """Where a plant went."""

    KEPT = "kept"
    POTTED = "potted on"
    PLANTED = "planted"
    GIVEN = "given"
    SOLD = "sold"
    DISCARDED = "discarded"
    DEAD = "dead"


#: Leaves the lab: rights and movement rules first.
LEAVES = (Fate.GIVEN, Fate.SOLD)
MOST_POT_MM, MOST_POT_ML = 1_000.0, 100_000.0
MOST_PRICE = 1_000_000.0


@dataclass(frozen=True)
class Place:
    """A plant still standing in a cell: its code, tray, row and column."""

    code: str
    tray: int
    row: int
    column: int


@dataclass(frozen=True)
class Tray:
    """A tray of cells: its number, rows and columns, and cm across one cell."""

    number: int
    rows: int
    columns: int
    across_cm: float

    @property
    def cells(self) -> int:
        """How many."""
        return self.rows * self.columns

    @property
    def m2(self) -> float:
        """Room it takes on the bench."""
        return self.cells * self.across_cm**2 / 1e4


@dataclass(frozen=True)
class Room:
    """Room and mix for plants that are potted on, one to a pot.

    Attributes
    ----------
    m2_now, m2_together, m2_after : float
        Trays as they stand, the fewest that hold all, square pots edge to edge.
    litres : float
        Of mix, with settling and waste.
    """

    plants: int
    m2_now: float
    trays_now: int
    trays_together: int
    m2_together: float
    m2_after: float
    litres: float
    working: tuple[str, ...]


@dataclass(frozen=True)
class NotFit:
    """Plants that stand and can't be potted on yet, by their codes.

    Attributes
    ----------
    unfit : tuple of str
        Rooted, and judged not fit to pot on.
    bare : tuple of str
        Alive without roots. A rooted one that nobody judged is in neither.
    """

    unfit: tuple[str, ...]
    bare: tuple[str, ...]

    @property
    def words(self) -> str:
        """``3 rooted and not fit to pot on, 2 alive without roots``; blank where there is none."""
        parts = (
            _("{n} rooted and not fit to pot on", n=str(len(self.unfit))) if self.unfit else "",
            _("{n} alive without roots", n=str(len(self.bare))) if self.bare else "",
        )
        return ", ".join(part for part in parts if part)


def check_again(day: date, today: date) -> None:
    """A day on which plants are looked at again lies ahead.

    Raises
    ------
    InvalidInput
        Over, or more than a year away.
    """
    if not 0 <= (day - today).days <= 366:
        raise InvalidInput("look again on", _("must lie between today and a year from now"), dated(day))


def check_fate(fate: str, rights: str) -> Fate:
    """A fate as it may be kept; what leaves the lab needs an answer about rights and movement rules.

    Raises
    ------
    InvalidInput
        Not a fate, or *given* or *sold* without that answer.
    """
    if fate not in list(Fate):
        raise InvalidInput("what became of it", _("choose one of: {names}", names=", ".join(Fate)), fate)
    made = Fate(fate)
    if made in LEAVES and not rights.strip():
        rule = _(
            "say what was looked up: may it be propagated and passed on, is it free of quarantine, may it move where it goes"
        )
        raise InvalidInput("rights and movement rules", rule, made.value)
    return made


def check_price(fate: Fate, price: float | None) -> None:
    """What a plant was sold for; zero is a price, and what was not sold has none.

    Raises
    ------
    InvalidInput
        A price of what was not sold, or one that can't be.
    """
    if price is None:
        return
    if fate is not Fate.SOLD:
        raise InvalidInput("price of each", _("only what was sold has one; leave it blank"), fate.value)
    if not 0 <= price <= MOST_PRICE:
        raise InvalidInput("price of each", _("must be between 0 and {most:g}", most=MOST_PRICE), price)


@dataclass(frozen=True)
class Sold:
    """A plant that was sold: its arm's letter, the price of it in a currency, None where nobody said."""

    letter: str
    price: float | None
    currency: str


def sold_by_arm(sold: Iterable[Sold]) -> list[str]:
    """What the sold plants brought, a line by arm and currency: how many, from what to what, together, and how many without a price."""
    of: dict[tuple[str, str], list[float | None]] = {}
    for one in sold:
        of.setdefault((one.letter, one.currency if one.price is not None else ""), []).append(one.price)
    return [_brought(letter, currency, prices) for (letter, currency), prices in sorted(of.items())]


def _brought(letter: str, currency: str, prices: Sequence[float | None]) -> str:
    paid = sorted(price for price in prices if price is not None)
    if not paid:
        return _("{letter}: {n} sold, at no price that was written down", letter=letter, n=str(len(prices)))
    least, most = (f"{price:.2f}" for price in (paid[0], paid[-1]))
    each = least if least == most else _("{least} to {most}", least=least, most=most)
    open_ = len(prices) - len(paid)
    line = _(
        "{letter}: {n} sold at {each} each, {sum:.2f} {currency}",
        letter=letter, n=str(len(paid)), each=each, sum=sum(paid), currency=currency,
    ).rstrip()  # fmt: skip
    return _("{line}; of {n} more the price is not known", line=line, n=str(open_)) if open_ else line


def room_for(places: Sequence[Place], trays: Sequence[Tray], pot_mm: float, pot_ml: float) -> Room:
    """Room before and after, and litres of mix, for the plants that still stand.

    Raises
    ------
    InvalidInput
        A pot that can't be.
    """
    if not 10 <= pot_mm <= MOST_POT_MM:
        raise InvalidInput("across a pot, mm", _("must be between 10 and {most:g}", most=MOST_POT_MM), pot_mm)
    if not 1 <= pot_ml <= MOST_POT_ML:
        raise InvalidInput("volume of a pot, mL", _("must be between 1 and {most:g}", most=MOST_POT_ML), pot_ml)
    used = {place.tray for place in places}
    now = [tray for tray in trays if tray.number in used]
    fewest = _fewest(len(places), now)
    after = len(places) * pot_mm**2 / 1e6
    mix = medium_need("mix", [Filling(len(places), pot_ml)], [])
    working = (
        _("{n:tray|trays} now: {m2:.3g} m2", n=len(now), m2=sum(tray.m2 for tray in now)),
        _("{n} x {mm:g} x {mm:g} mm = {m2:.3g} m2, pots edge to edge", n=str(len(places)), mm=pot_mm, m2=after),
        mix.working,
    )
    return Room(
        len(places),
        sum(t.m2 for t in now),
        len(now),
        len(fewest),
        sum(t.m2 for t in fewest),
        after,
        mix.litres,
        working,
    )


def _fewest(plants: int, trays: Sequence[Tray]) -> list[Tray]:
    """The fewest trays that hold so many, the largest first."""
    found: list[Tray] = []
    for tray in sorted(trays, key=lambda t: (-t.cells, t.number)):
        if sum(t.cells for t in found) >= plants:
            break
        found.append(tray)
    return found


def put_together(places: Sequence[Place], trays: Sequence[Tray]) -> list[tuple[Place, Place]]:
    """Which plant goes where so that the fewest trays are used: from the trays given up into free cells of those that stay.

    Those that stay are the largest, then the fullest, so that as few as can be are moved; order is that of the bench.
    """
    of_tray: dict[int, list[Place]] = {}
    for place in places:
        of_tray.setdefault(place.tray, []).append(place)
    used = [tray for tray in trays if tray.number in of_tray]
    keep = len(_fewest(len(places), used))
    order = sorted(used, key=lambda t: (-t.cells, -len(of_tray[t.number]), t.number))
    stay, go = order[:keep], {tray.number for tray in order[keep:]}
    taken = {(p.tray, p.row, p.column) for p in places}
    free = (
        (tray.number, row, column)
        for tray in sorted(stay, key=lambda t: t.number)
        for row in range(1, tray.rows + 1)
        for column in range(1, tray.columns + 1)
        if (tray.number, row, column) not in taken
    )
    moving = sorted((p for p in places if p.tray in go), key=lambda p: (p.tray, p.row, p.column))
    return [(place, Place(place.code, *to)) for place, to in zip(moving, free, strict=False)]


def fates_by_arm(letters: Sequence[str], ended: Iterable[tuple[str, Fate | None]]) -> Mapping[str, Mapping[str, int]]:
    """By arm's letter and fate how many; blank is *no end yet*. Every arm's counts add up to its cuttings."""
    found: dict[str, dict[str, int]] = {letter: {} for letter in letters}
    for letter, fate in ended:
        name = fate.value if fate else ""
        found[letter][name] = found[letter].get(name, 0) + 1
    return found


def columns_of(table: Mapping[str, Mapping[str, int]]) -> list[tuple[str, str]]:
    """Fates that occur, with their words, in their order; what has no end yet last."""
    used = {name for row in table.values() for name in row}
    columns: list[tuple[str, str]] = [(str(fate.value), _(fate.value)) for fate in Fate if fate.value in used]
    return [*columns, ("", _("no end yet"))] if "" in used else columns
