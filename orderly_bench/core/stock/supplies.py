"""What is used up: hormones, parts of mixes, covers, labels; by lot, with dates, price and how much is left."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.stock.listed import Listed
from orderly_bench.core.typed import Asked, day, number, one_of, text


class Unit(StrEnum):
    """What an amount is counted in."""

    PIECES = "pieces"
    LITRES = "L"
    MILLILITRES = "mL"
    GRAMS = "g"
    KILOGRAMS = "kg"


@dataclass(frozen=True)
class Supply:
    """A lot of something: how much is left, when it was opened, until when it is good, what a unit of it costs."""

    name: str
    amount: float
    unit: Unit = Unit.PIECES
    lot: str = ""
    opened: date | None = None
    use_by: date | None = None
    price: float | None = None
    currency: str = ""
    note: str = ""

    def past(self, today: date) -> bool:
        """Whether its day is over."""
        return self.use_by is not None and self.use_by < today

    def words(self, today: date) -> str:
        """In one line."""
        parts = [_("{amount:g} {unit}", amount=self.amount, unit=self.unit.value)]
        parts += [_("lot {lot}", lot=self.lot)] if self.lot else []
        parts += [_("opened {day}", day=dated(self.opened))] if self.opened else []
        parts += [_("use by {day}", day=dated(self.use_by))] if self.use_by else []
        parts += (
            [_("{price:g} {currency} a unit", price=self.price, currency=self.currency).replace("  ", " ")]
            if self.price is not None
            else []
        )
        if self.past(today):
            parts.append(_("past its day: don't use it for a trial"))
        return ", ".join(parts)


_ASKED = (
    Asked("name", N_("What"), text(120)),
    Asked("amount", N_("How much is left"), number(0, 1_000_000)),
    Asked("unit", N_("in"), one_of(Unit)),
    Asked("lot", N_("Lot"), text(40)),
    Asked("opened", N_("Opened"), day()),
    Asked("use_by", N_("Use by"), day()),
    Asked("price", N_("Price of one unit"), number(0, 1_000_000, None)),
    Asked("currency", N_("Currency"), text(8)),
    Asked("note", N_("Note"), text(200)),
)


def check_supply(supply: Supply) -> Supply:
    """A supply as it may be kept."""
    if not supply.name.strip():
        raise InvalidInput(_ASKED[0].words, _("must be given"))
    if supply.opened is not None and supply.use_by is not None and supply.opened > supply.use_by:
        raise InvalidInput(_("Use by"), _("lies before it was opened"), dated(supply.use_by))
    return supply


SUPPLIES = Listed("supplies", _ASKED, ("name", "amount"), Supply, check_supply)


def first_out(supply: Supply) -> tuple[date, date, str]:
    """What is to be used first comes first: the earliest day, then what is open."""
    return supply.use_by or date.max, supply.opened or date.max, supply.lot


def on_shelf(supplies: Iterable[Supply], today: date) -> dict[tuple[str, str], float]:
    """How much is left by name in small letters and unit (pieces: blank); nothing that is past its day. mL count as L and g as kg too."""
    found: dict[tuple[str, str], float] = {}
    for supply in supplies:
        if supply.past(today):
            continue
        name = supply.name.strip().casefold()
        for unit, factor in _ALIKE[supply.unit]:
            found[name, unit] = found.get((name, unit), 0.0) + supply.amount * factor
    return found


def prices(supplies: Iterable[Supply], today: date) -> tuple[dict[tuple[str, str], float], str]:
    """What one unit costs by name in small letters and unit, of the lot that is used first, and the currency.

    The currency is blank where none is said; where there are several, only what is in the most common one counts.
    """
    priced = [one for one in sorted(supplies, key=first_out) if one.price is not None and not one.past(today)]
    common = Counter(one.currency.strip() for one in priced).most_common(1)
    currency = common[0][0] if common else ""
    found: dict[tuple[str, str], float] = {}
    for one in priced:
        if one.currency.strip() == currency and one.price is not None:
            for unit, factor in _ALIKE[one.unit]:
                found.setdefault((one.name.strip().casefold(), unit), one.price / factor)
    return found, currency


_ALIKE: dict[Unit, tuple[tuple[str, float], ...]] = {
    Unit.PIECES: (("", 1.0),),
    Unit.LITRES: (("L", 1.0), ("mL", 1000.0)),
    Unit.MILLILITRES: (("mL", 1.0), ("L", 0.001)),
    Unit.GRAMS: (("g", 1.0), ("kg", 0.001)),
    Unit.KILOGRAMS: (("kg", 1.0), ("g", 1000.0)),
}
