"""The treatments of a plan: what each arm is in every aspect, and what its cuttings stand in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.measures import Measure
from orderly_bench.core.plan.aspects import SORTS, AspectKind, Status
from orderly_bench.core.plan.part import Page, Part, mapped, plan_field
from orderly_bench.core.plan.separable import Described, Separation, separate
from orderly_bench.core.typed import named, number, one_of, quantity, whole, words_list, yes_or_no
from orderly_bench.core.vocabulary import ONLY_ARM

ARM_JOINER = " + "
MOST_PER_ARM, MOST_PER_UNIT = 2_000, 60
#: Sticking occasions that one trial holds.
MOST_WAVES = 24
#: Rows or columns of one container.
MOST_SIDE = 60
HERE = Page.DESIGN


class Shape(StrEnum):
    """What the cuttings stand in. It decides the unit: a cell or place each, or the whole vessel."""

    CELLS = "tray of cells"
    POT = "pot"
    JAR = "jar"
    TANK = "tank"
    LIDDED_TRAY = "lidded tray"
    WHOLE_TRAY = "whole tray"
    BED = "bed"

    @property
    def alone(self) -> bool:
        """Whether each stands by itself on the bench."""
        return self in (Shape.JAR, Shape.TANK, Shape.LIDDED_TRAY, Shape.WHOLE_TRAY)

    @property
    def vessel(self) -> bool:
        """Whether all cuttings in it share its water and air, so that it is one unit."""
        return self not in (Shape.CELLS, Shape.BED)


@dataclass(frozen=True)
class Container(Part):
    """One kind of container.

    Attributes
    ----------
    rows, columns : int
        Cells of a tray, places of a bed, or how pots stand; 1 x 1 for what stands by itself.
    volume_ml : float
        Of one cell, pot or vessel.
    wall : str
        Clear, dark, or blank when not said.
    drained : bool or None
        None when not said.
    outline : str
        Seen from above: round, square, or blank when not said.
    across_cm : float or None
        Across one place, cm; None where nobody measured: then as a cube of the volume.
    settling_percent, waste_percent : float
        By how much a filling settles, and how much is spilt and left over.
    """

    shape: Shape = plan_field("shape", Shape.CELLS, one_of(Shape), HERE)
    rows: int = plan_field("rows", 4, whole(1, MOST_SIDE), HERE)
    columns: int = plan_field("columns", 8, whole(1, MOST_SIDE), HERE)
    volume_ml: float = plan_field("volume of one, mL", 60.0, quantity(Measure.ML, 1, 100_000), HERE)  #: mL
    wall: str = plan_field("wall", "", named(("", "not said"), ("clear", "clear"), ("dark", "dark")), HERE)
    drained: bool | None = plan_field("drained", None, yes_or_no(), HERE)
    across_cm: float | None = plan_field(
        "across one place, cm", None, quantity(Measure.CM, 0.5, 500, None), HERE
    )  #: cm
    outline: str = plan_field(
        "seen from above", "", named(("", "not said"), ("round", "round"), ("square", "square")), HERE
    )
    settling_percent: float = plan_field("filling settles by, %", 10.0, number(0, 60), HERE, drawn=False)
    waste_percent: float = plan_field("spilt and left over, %", 10.0, number(0, 100), HERE, drawn=False)


@dataclass(frozen=True)
class Level(Part):
    """One value of an aspect; ``id`` is its identity, ``name`` is for showing."""

    id: str
    name: str = plan_field("name", "")
    parts: Mapping[str, str] = mapped()
    container: Container | None = plan_field("container", None)


@dataclass(frozen=True)
class Aspect(Part):
    """One thing by which arms are described; *asked* makes it a factor."""

    id: str
    kind: AspectKind = AspectKind.OTHER
    name: str = plan_field("name", "")
    asked: bool = plan_field("asked", False)
    levels: tuple[Level, ...] = plan_field("", ())

    def level(self, level_id: str) -> Level:
        """A level by its id."""
        return next(level for level in self.levels if level.id == level_id)

    @property
    def property(self) -> bool:
        """A property of the pieces, not assigned to them."""
        return SORTS[self.kind].property


@dataclass(frozen=True)
class ArmPlan(Part):
    """An arm: what it says of each aspect (aspect id to level id; absent is *not said*).

    Attributes
    ----------
    id : str
        The letter on its stake.
    units, per_unit : int or None
        Its own number of units in a wave, and of cuttings in one, where it differs from the design's.
    under_lid : int or None
        Units of this arm alone under a lid of its own, 0 for none; None as the design says for all.
    sites : tuple of str
        Rooting sites of one cutting, such as both ends; blank is one.
    abandoned : str
        Why it was given up; blank when it was not.
    guess : float or None
        What the endpoint is guessed to come to, for the power: a share 0 to 1, or the mean in the endpoint's unit.
    """

    id: str
    says: Mapping[str, str] = mapped()
    control: bool = plan_field("control", False, drawn=False)
    units: int | None = plan_field("units of its own", None, whole(1, MOST_PER_ARM, None), HERE)
    per_unit: int | None = plan_field("cuttings in a unit of its own", None, whole(1, MOST_PER_UNIT, None), HERE)
    under_lid: int | None = plan_field("its units under one lid", None, whole(0, MOST_PER_ARM, None), HERE)
    sites: tuple[str, ...] = plan_field("rooting sites", (), words_list(2, 4, 40), HERE, drawn=False)
    abandoned: str = plan_field("abandoned", "", drawn=False)
    guess: float | None = plan_field("guess", None, drawn=False)


@dataclass(frozen=True)
class SideGroup(Part):
    """Leftovers, a tub beside the bench: described like an arm, never drawn, reported apart."""

    name: str
    says: Mapping[str, str] = mapped()
    note: str = plan_field("note", "")


@dataclass(frozen=True)
class Treatments(Part):
    """The arms and the aspects they are described by."""

    aspects: tuple[Aspect, ...] = plan_field("", ())
    arms: tuple[ArmPlan, ...] = plan_field("", ())
    side_groups: tuple[SideGroup, ...] = plan_field("", ())

    @property
    def asked(self) -> tuple[Aspect, ...]:
        """The factors, in order."""
        return tuple(aspect for aspect in self.aspects if aspect.asked)

    def aspect(self, aspect_id: str) -> Aspect | None:
        """An aspect by its id."""
        return next((aspect for aspect in self.aspects if aspect.id == aspect_id), None)

    def of_kind(self, kind: AspectKind) -> Aspect | None:
        """The first aspect of a kind."""
        return next((aspect for aspect in self.aspects if aspect.kind is kind), None)

    def arm(self, arm_id: str) -> ArmPlan:
        """An arm by its id."""
        return next(arm for arm in self.arms if arm.id == arm_id)

    def value(self, arm: ArmPlan | SideGroup, aspect: Aspect) -> Level | None:
        """What an arm says of an aspect; None when it does not."""
        return aspect.level(arm.says[aspect.id]) if arm.says.get(aspect.id) else None

    def level_names(self, arm: ArmPlan) -> tuple[str, ...]:
        """An arm's levels of the factors, in order."""
        return tuple(level.name if (level := self.value(arm, aspect)) else "" for aspect in self.asked)

    def name(self, arm: ArmPlan) -> str:
        """An arm's name for showing: its levels of the factors; of a rate, which asks none, what it is."""
        return ARM_JOINER.join(self.level_names(arm)) or ONLY_ARM

    def identities(self) -> dict[str, list[str]]:
        """What each arm's letter stands for: its level ids of the factors, in order."""
        return {arm.id: [arm.says.get(aspect.id, "") for aspect in self.asked] for arm in self.arms}

    def status(self, aspect: Aspect) -> Status:
        """Whether an aspect is asked, the same for all, travelling, or not said by some arm."""
        if aspect.asked:
            return Status.ASKED
        told = {arm.says.get(aspect.id, "") for arm in self.arms}
        if len(told - {""}) > 1:
            return Status.TRAVELLING
        return Status.NOT_SAID if "" in told or not told else Status.SAME

    @property
    def kinds_that_differ(self) -> set[AspectKind]:
        """Kinds of aspects in which arms differ, asked or travelling."""
        return {each.kind for each in self.aspects if self.status(each) in (Status.ASKED, Status.TRAVELLING)}

    def held_same(self) -> list[str]:
        """What is the same in every arm, a line each."""
        return [
            f"{aspect.name}: {level.name}"
            for aspect in self.aspects
            if self.arms and self.status(aspect) is Status.SAME and (level := self.value(self.arms[0], aspect))
        ]

    def described(self) -> list[Described]:
        """The arms as the separation takes them: by ids, for names may repeat."""
        return [Described(arm.id, {a.id: arm.says.get(a.id, "") for a in self.aspects}) for arm in self.arms]

    def mixed_up(self) -> dict[str, list[str]]:
        """Asked aspects whose levels can't be told apart, each with what it is mixed up with, by name; none where all can."""
        found = self.separation()
        names = {aspect.id: aspect.name for aspect in self.aspects}
        mixed: dict[str, list[str]] = {}
        for contrast in found.contrasts if found else ():
            if not contrast.separable:
                others = contrast.travels_with or [other for each in contrast.together for other in each]
                known = mixed.setdefault(names[contrast.aspect], [])
                known += [names[other] for other in others if names[other] not in known]
        return mixed

    def separation(self) -> Separation | None:
        """What the arms can tell apart; None while there is nothing to compare."""
        varying = [a.id for a in self.asked if len({arm.says.get(a.id) for arm in self.arms} - {None}) > 1]
        if len(self.arms) < 2 or not varying:
            return None
        try:
            return separate(self.described(), varying)
        except InvalidInput:
            return None
