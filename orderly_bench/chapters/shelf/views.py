"""A bench as it stands, to scale."""

from __future__ import annotations

from dataclasses import dataclass

from orderly_bench.chapters.shelf.operations import OnBench
from orderly_bench.core.design.standing import Footprint
from orderly_bench.core.messages.translation import gettext as _

#: A bench is as long as so many lines of its writing are high, whatever its size.
LINES_LONG = 95


@dataclass(frozen=True)
class Piece:
    """A tray on the map; lengths in cm, ``lines`` the path of its inner lines."""

    id: int
    number: int
    trial: int
    code: str
    x: float
    y: float
    length: float
    width: float
    lines: str
    label: str
    fill: int


@dataclass(frozen=True)
class BenchMap:
    """The bench and what stands on it, cm; ``marks`` a line every half metre along it, ``type_cm`` the size of writing."""

    length: float
    width: float
    pieces: list[Piece]
    marks: list[int]
    used: int
    type_cm: float

    @property
    def view_box(self) -> str:
        """What the drawing shows: the bench with room for the writing under it."""
        return f"-1 -1 {self.length + 2:g} {self.width + 2 + 2 * self.type_cm:g}"

    @property
    def tick_cm(self) -> float:
        """Length of a mark."""
        return self.type_cm / 2


def map_of(room: Footprint, there: list[OnBench]) -> BenchMap:
    """Everything on a bench to scale. Trials are told apart by their code, and by one of two shades in turn."""
    trials = list(dict.fromkeys(one.trial.id for one in there))
    taken = sum(one.at.size.length_cm * one.at.size.width_cm for one in there)
    return BenchMap(
        room.length_cm,
        room.width_cm,
        [_piece(one, trials.index(one.trial.id) % 2) for one in there],
        list(range(0, int(room.length_cm) + 1, 50)),
        round(100 * taken / (room.length_cm * room.width_cm)),
        round(room.length_cm / LINES_LONG, 2),
    )


def _piece(one: OnBench, fill: int) -> Piece:
    at, tray = one.at, one.tray
    wide, deep = at.size.length_cm / tray.columns, at.size.width_cm / tray.rows
    lines = [f"M{at.x_cm + wide * n:.2f} {at.y_cm:.2f}V{at.far:.2f}" for n in range(1, tray.columns)]
    lines += [f"M{at.x_cm:.2f} {at.y_cm + deep * n:.2f}H{at.right:.2f}" for n in range(1, tray.rows)]
    label = _(
        "{code} tray {number}, {length_cm:.0f} by {width_cm:.0f} cm, {x_cm:g} cm along and {y_cm:g} cm across",
        code=one.trial.code,
        number=tray.number,
        length_cm=at.size.length_cm,
        width_cm=at.size.width_cm,
        x_cm=at.x_cm,
        y_cm=at.y_cm,
    )
    return Piece(
        tray.id, tray.number, one.trial.id, one.trial.code, at.x_cm, at.y_cm, at.size.length_cm, at.size.width_cm,
        "".join(lines), label, fill,
    )  # fmt: skip
