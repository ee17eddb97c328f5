"""What stands over cuttings and around them: covers, and the zones they stand in with what each gives."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.stock.listed import Listed
from orderly_bench.core.typed import Asked, degrees_gained, number, one_of, text, whole

LONGEST_NAME, LONGEST_NOTE = 60, 200


class CoverKind(StrEnum):
    """What a cover is."""

    LID = "lid"
    BAG = "bag"
    JAR = "jar or bottle"
    TENT = "tent"
    FLEECE = "fleece"
    SHADE = "shade cloth"
    GLASS = "sheet of glass"
    OTHER = "other"


@dataclass(frozen=True)
class Cover:
    """A kind of cover.

    Attributes
    ----------
    pieces : int or None
        How many the lab has.
    height_cm : float or None
        Room under it.
    lets_light : float or None
        Share of the light that comes through, per cent.
    """

    name: str
    kind: CoverKind = CoverKind.OTHER
    pieces: int | None = None
    height_cm: float | None = None
    lets_light: float | None = None
    note: str = ""

    @property
    def words(self) -> str:
        """In one line."""
        said = [self.kind.value] if self.kind is not CoverKind.OTHER else []
        said += [_("{n:piece|pieces}", n=self.pieces)] if self.pieces is not None else []
        said += [_("{cm:g} cm high", cm=self.height_cm)] if self.height_cm is not None else []
        said += (
            [_("lets {percent:g} % of the light through", percent=self.lets_light)]
            if self.lets_light is not None
            else []
        )
        return ", ".join([*said, *filter(None, [self.note])])


class ZoneKind(StrEnum):
    """Where a zone lies."""

    GLASSHOUSE = "glasshouse"
    TUNNEL = "tunnel"
    FRAME = "cold frame"
    ROOM = "room"
    CHAMBER = "growth chamber"
    OUTDOORS = "outdoors"
    OTHER = "other"


@dataclass(frozen=True)
class Zone:
    """Part of the place that is kept alike.

    Attributes
    ----------
    low_c, high_c : float or None
        The band its air is kept in.
    bottom_c : float or None
        What warms the medium from below is set to.
    gain : float or None
        Degrees by which it stays above the outside on a cold night, as measured.
    """

    name: str
    kind: ZoneKind = ZoneKind.OTHER
    low_c: float | None = None
    high_c: float | None = None
    bottom_c: float | None = None
    gain: float | None = None
    light: str = ""
    note: str = ""

    @property
    def words(self) -> str:
        """In one line."""
        said = [self.kind.value] if self.kind is not ZoneKind.OTHER else []
        if self.low_c is not None and self.high_c is not None:
            said.append(_("air {low:g} to {high:g} °C", low=self.low_c, high=self.high_c))
        said += [_("{bottom:g} °C from below", bottom=self.bottom_c)] if self.bottom_c is not None else []
        said += (
            [_("{gain:g} degrees above the outside on a cold night", gain=self.gain)] if self.gain is not None else []
        )
        return ", ".join([*said, *filter(None, [self.light, self.note])])


def _check_zone(zone: Zone) -> Zone:
    if (zone.low_c is None) != (zone.high_c is None):
        raise InvalidInput(_("Air, lowest °C"), _("give both ends of the band, or none"))
    if zone.low_c is not None and zone.high_c is not None and zone.low_c >= zone.high_c:
        raise InvalidInput(_("Air, highest °C"), _("must lie above the lowest"), f"{zone.high_c:g}")
    return zone


COVERS = Listed(
    "covers",
    (
        Asked("name", N_("Name"), text(LONGEST_NAME)), Asked("kind", N_("What it is"), one_of(CoverKind)), Asked("pieces", N_("How many"), whole(0, 100_000, None)),
        Asked("height_cm", N_("Room under it, cm"), number(0, 1_000, None)), Asked("lets_light", N_("Light that comes through, %"), number(0, 100, None)),
        Asked("note", N_("Note"), text(LONGEST_NOTE)),
    ),
    ("name",), Cover, lambda cover: cover,
)  # fmt: skip
ZONES = Listed(
    "zones",
    (
        Asked("name", N_("Name"), text(LONGEST_NAME)), Asked("kind", N_("Where it lies"), one_of(ZoneKind)), Asked("low_c", N_("Air, lowest °C"), number(-40, 60, None)),
        Asked("high_c", N_("Air, highest °C"), number(-40, 60, None)), Asked("bottom_c", N_("Warmed from below to, °C"), number(0, 50, None)),
        Asked("gain", N_("Above the outside on a cold night, degrees"), degrees_gained(0, 50)), Asked("light", N_("Light"), text(LONGEST_NAME)), Asked("note", N_("Note"), text(LONGEST_NOTE)),
    ),
    ("name",), Zone, _check_zone,
)  # fmt: skip
