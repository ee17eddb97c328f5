"""A unit that is being moved on the drawn bench, before the lock: which, and where to."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from orderly_bench.core.design.codes import spaced
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial.models import Unit
from orderly_bench.web.bench_map import Cell, TrayView

#: Tray, row and place in the row.
Place = tuple[int, int, int]
TO = re.compile(r"([0-9]{1,4})\.([0-9]{1,4})\.([0-9]{1,4})")


@dataclass(frozen=True)
class Moving:
    """The unit that was chosen, the place that was chosen for it, and who stands there now."""

    unit: Unit
    to: Place | None
    there: Unit | None

    @property
    def sent(self) -> str:
        """The place as a form sends it; blank where none is chosen yet."""
        return ".".join(map(str, self.to)) if self.to else ""


def in_words(place: Place) -> str:
    """``tray 1, row 2, place 3``."""
    return _("tray {tray}, row {row}, place {spot}", tray=place[0], row=place[1], spot=place[2])


def place_of(unit: Unit) -> Place:
    """Where a unit stands."""
    at = unit.place
    return at.tray.number, at.row, at.column


def read_place(text: str) -> Place | None:
    """A place as it was sent; None where it is none."""
    found = TO.fullmatch(text)
    return (int(found[1]), int(found[2]), int(found[3])) if found else None


def moving_of(units: Sequence[Unit], code: str, to: str) -> Moving | None:
    """What is being moved; None where nothing is."""
    unit = next((u for u in units if u.code == code), None)
    if unit is None:
        return None
    wanted = read_place(to)
    if wanted == place_of(unit):
        wanted = None
    return Moving(unit, wanted, next((u for u in units if place_of(u) == wanted), None))


def with_links(trays: list[TrayView], units: Sequence[Unit], moving: Moving | None) -> list[TrayView]:
    """The bench with a link in every cell: to choose a unit, then the place it goes to."""
    codes = {unit.id: unit.code for unit in units}

    def linked(tray: int, cell: Cell) -> Cell:
        if moving is None:
            label = _("{label}. Move it", label=cell.label)
            return replace(cell, href=f"?moving={codes[cell.id]}#move", label=label) if cell.id in codes else cell
        if cell.id == moving.unit.id:
            return replace(cell, href="?#bench", label=_("{label}. Leave it where it is", label=cell.label))
        label = (
            _("{label}, row {row} column {column}", label=cell.label, row=cell.row, column=cell.column)
            if cell.id is None
            else cell.label
        )
        href = f"?moving={moving.unit.code}&to={tray}.{cell.row}.{cell.column}#move"
        return replace(
            cell, href=href, label=_("{label}. Move {spaced} here", label=label, spaced=spaced(moving.unit.code))
        )

    return [replace(tray, cells=[linked(tray.number, cell) for cell in tray.cells]) for tray in trays]
