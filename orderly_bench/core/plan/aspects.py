"""Aspects: the things by which an arm is described, in the trade's words."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class AspectKind(StrEnum):
    """What an arm has one value of; *other* is any aspect the researcher names."""

    MEDIUM = "medium"
    HORMONE = "hormone"
    TAXON = "taxon or cultivar"
    CUTTING_TYPE = "cutting type"
    MEDIUM_STATE = "state of the medium"
    SEASON = "season"
    CONTAINER = "container"
    COVER = "cover"
    SHARED_COVER = "pots under one cover"
    BOTTOM_HEAT = "bottom heat"
    LIGHT = "light"
    HOLDING = "drying or holding"
    WATER_DIP = "water dip"
    WOUNDING = "wounding"
    BASE = "base and hole"
    EARLIER_ROOTS = "earlier roots"
    WATER = "water"
    DONOR = "donor or batch"
    PERSON = "who sticks"
    PLACE = "where it stands"
    OTHER = "other"


#: What goes on a whole tray or cover by its nature.
ON_TRAYS = (AspectKind.BOTTOM_HEAT, AspectKind.COVER, AspectKind.LIGHT)


@dataclass(frozen=True)
class Sort:
    """What is told of one kind of aspect.

    Attributes
    ----------
    parts : tuple of str
        What makes up a value, beside its name.
    property : bool
        It is a property of the pieces and can't be assigned to them: places are drawn, so p speaks of these pieces.
    such_as : str
        An example for the person who types.
    blanks : tuple of str
        Values that show what a treatment adds: without it, or with all but its active part.
    """

    parts: tuple[str, ...] = ()
    property: bool = False
    such_as: str = ""
    blanks: tuple[str, ...] = ()


SORTS: dict[AspectKind, Sort] = {
    AspectKind.MEDIUM: Sort(such_as="3 pumice : 1 coir"),
    AspectKind.HORMONE: Sort(
        ("active", "salt or acid", "form", "strength", "carrier", "way of applying", "seconds"),
        such_as="IBA 3000 ppm talc, dipped; or none",
        blanks=("none", "carrier alone"),
    ),
    AspectKind.TAXON: Sort(property=True, such_as="'Headland'"),
    AspectKind.CUTTING_TYPE: Sort(
        ("wood", "place on the stem", "nodes", "leaf left", "length"), True, "semi-hard tip, 8 cm"
    ),
    AspectKind.MEDIUM_STATE: Sort(("new or reused", "wetness", "feed"), such_as="new, moist, no feed"),
    AspectKind.SEASON: Sort(property=True, such_as="spring"),
    AspectKind.CONTAINER: Sort(such_as="60 mL cells, dark, drained"),
    AspectKind.COVER: Sort(("cover", "vents"), such_as="clear lid, vents shut"),
    AspectKind.SHARED_COVER: Sort(such_as="six pots under one lid"),
    AspectKind.BOTTOM_HEAT: Sort(such_as="20 °C", blanks=("none",)),
    AspectKind.LIGHT: Sort(such_as="50 % shade"),
    AspectKind.HOLDING: Sort(such_as="stuck at once; or dried two days on purpose"),
    AspectKind.WATER_DIP: Sort(such_as="none"),
    AspectKind.WOUNDING: Sort(such_as="one side, 2 cm", blanks=("none",)),
    AspectKind.BASE: Sort(("base cut", "hole first or pushed", "depth"), such_as="below a node, hole first, 3 cm"),
    AspectKind.EARLIER_ROOTS: Sort(such_as="none"),
    AspectKind.WATER: Sort(("source", "aeration"), such_as="rain water"),
    AspectKind.DONOR: Sort(property=True, such_as="stock bed 2"),
    AspectKind.PERSON: Sort(such_as="one person, all arms"),
    AspectKind.PLACE: Sort(such_as="north bench"),
    AspectKind.OTHER: Sort(),
}


class Status(StrEnum):
    """What an aspect is in a trial."""

    ASKED = "asked"
    SAME = "the same"
    TRAVELLING = "travelling"
    NOT_SAID = "not said"
