"""Kinds of container as the lab keeps them: what a plan takes from one, its outside, and what is asked about its measures."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import pi

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.measures import Measure
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.plan.part import Page, asked_on, read_part, written_part
from orderly_bench.core.plan.treatments import Container
from orderly_bench.core.stock.listed import Listed
from orderly_bench.core.typed import Asked, quantity, read_those_typed, text

LONGEST_NAME = 80
#: A vessel so many times deeper than across, or flatter than this, is no common one.
DEEP, FLAT = 8.0, 0.15


@dataclass(frozen=True)
class ContainerKept:
    """A kind of container under its name; the outside of a tray in cm, None where nobody measured."""

    name: str
    container: Container
    outside_length_cm: float | None = None
    outside_width_cm: float | None = None

    @property
    def questions(self) -> list[str]:
        """What can hardly be: cells that don't fit the outside, a volume that its size can't hold."""
        return [*self._against_outside(), *self._against_volume()]

    def _against_outside(self) -> list[str]:
        one, length, width = self.container, self.outside_length_cm, self.outside_width_cm
        if one.across_cm is None or length is None or width is None:
            return []
        rows, columns = sorted((one.rows * one.across_cm, one.columns * one.across_cm))
        short, long = sorted((length, width))
        if rows <= short * 1.02 and columns <= long * 1.02:
            return []
        told = N_(
            "{rows} x {columns} cells of {across:g} cm take {b:g} x {a:g} cm, and the tray is {long:g} x {short:g} cm outside. Which of the figures is off?"
        )
        return [_(told, rows=one.rows, columns=one.columns, across=one.across_cm, a=rows, b=columns, long=long, short=short)]  # fmt: skip

    def _against_volume(self) -> list[str]:
        one = self.container
        if one.across_cm is None:
            return []
        area = one.across_cm**2 * (pi / 4 if one.outline == "round" else 1.0)
        depth = one.volume_ml / area
        if FLAT * one.across_cm <= depth <= DEEP * one.across_cm:
            return []
        told = N_(
            "{ml:g} mL in {across:g} cm across would stand {depth:.2g} cm deep. Is the volume of one place, and the size of one?"
        )
        return [_(told, ml=one.volume_ml, across=one.across_cm, depth=depth)]


_OWN = (
    Asked("outside_length_cm", N_("Tray outside, length cm"), quantity(Measure.CM, 1, 1_000, None)),
    Asked("outside_width_cm", N_("Tray outside, width cm"), quantity(Measure.CM, 1, 1_000, None)),
)  # fmt: skip
_NAME = Asked("name", N_("Name"), text(LONGEST_NAME))


class _Containers(Listed[ContainerKept]):
    """A container's own fields are those of the plan."""

    def read(self, typed: Mapping[str, str]) -> ContainerKept:
        """As typed."""
        own = read_those_typed((_NAME, *_OWN), typed, self.needed)
        said = {name: value for name, value in typed.items() if value.strip()}
        return self.check(ContainerKept(container=read_part(Container(), said, Page.DESIGN), **own))

    def as_typed(self, entry: ContainerKept) -> dict[str, str]:
        """The fields as they would be typed."""
        own = {one.name: one.kind.text_of(getattr(entry, one.name)) for one in (_NAME, *_OWN)}
        return own | written_part(entry.container, Page.DESIGN)


def check_container(kept: ContainerKept) -> ContainerKept:
    """A container as it may be kept."""
    if (kept.outside_length_cm is None) != (kept.outside_width_cm is None):
        raise InvalidInput(_("Tray outside"), _("give both, length and width, or none"))
    return kept


CONTAINERS = _Containers(
    "containers", (_NAME, *asked_on(Container, Page.DESIGN), *_OWN), ("name",), ContainerKept, check_container
)
