"""What stands where on a bench, to scale: the room a tray takes, and the first free room for it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _

#: Across a place nobody measured and whose volume nobody said, cm.
GUESSED_CM = 5.0
#: Benches nobody measured are drawn this large, cm.
BENCH_CM = (300.0, 120.0)
#: Edges may touch.
TOUCH = 1e-6


def across(across_cm: float | None, volume_ml: float | None) -> float:
    """Across one place, cm: as measured; else the side of a cube of its volume (1 mL is 1 cm3)."""
    if across_cm is not None:
        return across_cm
    return float(volume_ml) ** (1 / 3) if volume_ml else GUESSED_CM


@dataclass(frozen=True)
class Footprint:
    """Room that a tray, pot or vessel takes, cm: along the bench and across it."""

    length_cm: float
    width_cm: float


def footprint(rows: int, columns: int, across_cm: float) -> Footprint:
    """Of ``rows`` by ``columns`` places; columns run along the bench."""
    return Footprint(columns * across_cm, rows * across_cm)


@dataclass(frozen=True)
class Standing:
    """A footprint at its place: its left near corner, cm from the left near corner of the bench."""

    x_cm: float
    y_cm: float
    size: Footprint

    @property
    def right(self) -> float:
        """Its far end along the bench, cm."""
        return self.x_cm + self.size.length_cm

    @property
    def far(self) -> float:
        """Its far end across the bench, cm."""
        return self.y_cm + self.size.width_cm

    def overlaps(self, other: Standing) -> bool:
        """Whether the two take the same room; touching edges do not."""
        return (
            self.x_cm < other.right - TOUCH
            and other.x_cm < self.right - TOUCH
            and self.y_cm < other.far - TOUCH
            and other.y_cm < self.far - TOUCH
        )


def check_standing(bench: Footprint, there: Iterable[tuple[str, Standing]], wanted: Standing) -> Standing:
    """A place as it may be taken.

    Parameters
    ----------
    bench : Footprint
    there : iterable of (str, Standing)
        What stands on the bench already, with its name.
    wanted : Standing

    Raises
    ------
    InvalidInput
        Over the edge, or on something that stands there.
    """
    if (
        wanted.x_cm < 0
        or wanted.y_cm < 0
        or wanted.right > bench.length_cm + TOUCH
        or wanted.far > bench.width_cm + TOUCH
    ):
        rule = _(
            "must lie on the bench of {length_cm:g} x {width_cm:g} cm",
            length_cm=bench.length_cm,
            width_cm=bench.width_cm,
        )
        raise InvalidInput(
            "place",
            rule,
            _(
                "{x_cm:g} to {right:g} by {y_cm:g} to {far:g} cm",
                x_cm=wanted.x_cm,
                right=wanted.right,
                y_cm=wanted.y_cm,
                far=wanted.far,
            ),
        )
    for name, other in there:
        if wanted.overlaps(other):
            raise InvalidInput(
                "place", _("is taken by {name}; take another", name=name), f"{wanted.x_cm:g}, {wanted.y_cm:g} cm"
            )
    return wanted


def find_room(bench: Footprint, there: Sequence[Standing], wanted: Sequence[Footprint]) -> list[Standing]:
    """First free room for each, in the order given: along the bench first, then across it.

    Raises
    ------
    InvalidInput
        Says which one found no room, and that nothing was placed.
    """
    taken, found = list(there), []
    for number, size in enumerate(wanted, start=1):
        xs = sorted({0.0, *(one.right for one in taken)})
        ys = sorted({0.0, *(one.far for one in taken)})
        free = next((place for y in ys for x in xs if _fits(bench, taken, place := Standing(x, y, size))), None)
        if free is None:
            rule = _(
                "has no room for {length_cm:.0f} x {width_cm:.0f} cm, number {number} of {n}; take a larger bench, or measure this one",
                length_cm=size.length_cm,
                width_cm=size.width_cm,
                number=number,
                n=len(wanted),
            )
            raise InvalidInput("bench", rule, f"{bench.length_cm:g} x {bench.width_cm:g} cm")
        taken.append(free)
        found.append(free)
    return found


def _fits(bench: Footprint, taken: Iterable[Standing], place: Standing) -> bool:
    inside = place.right <= bench.length_cm + TOUCH and place.far <= bench.width_cm + TOUCH
    return inside and not any(place.overlaps(other) for other in taken)
