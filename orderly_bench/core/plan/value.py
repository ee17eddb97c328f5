"""The plan: one frozen value with everything that decides what is done.

A field stands here and nowhere else: form, page, text, digest and difference are made from it. ``words`` in a field's
metadata is what a person calls it.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum
from typing import Any

from orderly_bench.core.design.separable import Described, Separation, separate
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.plan.aspects import SORTS, AspectKind, Status
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.vocabulary import LayoutKind

ARM_JOINER = " + "
#: What the one arm of a rate is called.
ONLY_ARM = "all cuttings"


def said(words: str, default: Any) -> Any:
    """A field that a person calls ``words``."""
    return field(default=default, metadata={"words": words})


class TrialKind(StrEnum):
    """A test carries a verdict; a look never does; a rate is one arm, to plan by."""

    TEST = "test"
    LOOK = "look"
    RATE = "rate"


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
class Container:
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
    across_cm : float or None
        Across one place, cm; None where nobody measured: then as a cube of the volume.
    """

    shape: Shape = said("shape", Shape.CELLS)
    rows: int = said("rows", 4)
    columns: int = said("columns", 8)
    volume_ml: float = said("volume, mL", 60.0)  #: mL
    wall: str = said("wall", "")
    drained: bool | None = said("drained", None)
    across_cm: float | None = said("across one place, cm", None)  #: cm


class Headline(StrEnum):
    """What the verdict speaks of, said beforehand."""

    FACTORS = "each factor, over the others"
    PAIRS = "pairs of arms"
    CONTROL = "each arm against the control"


@dataclass(frozen=True)
class KnownRate:
    """What was counted here before: so many rooted of so many stuck."""

    number: int
    rooted: int = said("rooted", 0)
    stuck: int = said("stuck", 0)
    source: str = said("counted in", "")


@dataclass(frozen=True)
class BookRate:
    """What is written elsewhere, in percent, and by whom; never pooled with what was counted here."""

    number: int
    low: float = said("from, %", 0.0)
    high: float = said("to, %", 0.0)
    author: str = said("written by", "")


@dataclass(frozen=True)
class Exploratory:
    """An endpoint beside the primary one, named beforehand; it suggests and does not decide.

    Attributes
    ----------
    day : int or None
        Day after sticking; None is the primary's.
    margin : float or None
        As typed, in the endpoint's own unit; None for none.
    """

    name: str
    day: int | None = said("day", None)
    margin: float | None = said("margin", None)


@dataclass(frozen=True)
class Question:
    """What is asked and how it is judged.

    Attributes
    ----------
    response : Response
        The primary endpoint; every other response is exploratory.
    margin_own : float or None
        The margin in the endpoint's own unit, where that is no share.
    dead_from_day : int or None
        Earliest day after sticking on which anything may be called dead; confirmed ``second_look_days`` later.
    anyway : str
        Why a test that can't convince, or can't tell its factor apart, was locked all the same; blank when it was not.
    """

    kind: TrialKind = said("kind of trial", TrialKind.TEST)
    botanical_name: str = said("botanical name", "")
    cultivar: str = said("cultivar", "")
    source: str = said("source of the plants", "")
    sentence: str = said("question", "")
    why: str = said("why it matters", "")
    endpoint_day: int = said("endpoint day", 42)  #: days after sticking
    margin_points: float = said("margin, points", 15.0)  #: percentage points
    alpha: float = said("alpha", 0.05)
    stop_rule: str = said("stop rule", "")
    fit_least_roots: int = said("fit to pot on, least roots", 3)
    fit_least_mm: float = said("fit to pot on, least length in mm", 10.0)  #: mm
    blind: bool = said("scoring blind", True)
    headline: Headline = said("the verdict speaks of", Headline.FACTORS)
    max_t: bool = said("against the control adjusted by the joint redraw", False)
    not_worse: bool = said("whether a cheaper way is not worse is asked", False)
    planned_looks: tuple[int, ...] = said("arms compared before the end, on day", ())  #: days after sticking
    response: Response = said("endpoint", Response.ROOTED)
    margin_own: float | None = said("margin, in the endpoint's unit", None)
    who_looks: str = said("who looks", "")
    dead_from_day: int | None = said("called dead from day", None)  #: days after sticking
    second_look_days: int = said("second look after days", 7)  #: days
    wanted_plants: int | None = said("plants wanted", None)
    wanted_by: date | None = said("wanted by", None)
    others: tuple[Exploratory, ...] = said("beside it", ())
    known: tuple[KnownRate, ...] = said("known here", ())
    book: tuple[BookRate, ...] = said("written elsewhere", ())
    anyway: str = said("locked all the same", "")

    @property
    def taxon(self) -> str:
        """Botanical name with its cultivar."""
        return f"{self.botanical_name} '{self.cultivar}'" if self.cultivar else self.botanical_name


@dataclass(frozen=True)
class Level:
    """One value of an aspect; ``id`` is its identity, ``name`` is for showing."""

    id: str
    name: str = said("name", "")
    parts: dict[str, str] = field(default_factory=dict, metadata={"words": ""})
    container: Container | None = said("container", None)


@dataclass(frozen=True)
class Aspect:
    """One thing by which arms are described; *asked* makes it a factor."""

    id: str
    kind: AspectKind = AspectKind.OTHER
    name: str = said("name", "")
    asked: bool = said("asked", False)
    levels: tuple[Level, ...] = said("", ())

    def level(self, level_id: str) -> Level:
        """A level by its id."""
        return next(level for level in self.levels if level.id == level_id)

    @property
    def property(self) -> bool:
        """A property of the pieces, not assigned to them."""
        return SORTS[self.kind].property


@dataclass(frozen=True)
class ArmPlan:
    """An arm: what it says of each aspect (aspect id to level id; absent is *not said*).

    Attributes
    ----------
    id : str
        The letter on its stake.
    units, per_unit : int or None
        Its own number of units in a wave, and of cuttings in one, where it differs from the design's.
    sites : tuple of str
        Rooting sites of one cutting, such as both ends; blank is one.
    abandoned : str
        Why it was given up; blank when it was not.
    guess : float or None
        What the endpoint is guessed to come to, for the power: a share 0 to 1, or the mean in the endpoint's unit.
    """

    id: str
    says: dict[str, str] = field(default_factory=dict, metadata={"words": ""})
    control: bool = said("control", False)
    units: int | None = said("units of its own", None)
    per_unit: int | None = said("cuttings in a unit of its own", None)
    sites: tuple[str, ...] = said("rooting sites", ())
    abandoned: str = said("abandoned", "")
    guess: float | None = said("guess", None)


@dataclass(frozen=True)
class SideGroup:
    """Leftovers, a tub beside the bench: described like an arm, never drawn, reported apart."""

    name: str
    says: dict[str, str] = field(default_factory=dict, metadata={"words": ""})
    note: str = said("note", "")


@dataclass(frozen=True)
class Treatments:
    """The arms and the aspects they are described by."""

    aspects: tuple[Aspect, ...] = said("", ())
    arms: tuple[ArmPlan, ...] = said("", ())
    side_groups: tuple[SideGroup, ...] = said("", ())

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

    def separation(self) -> Separation | None:
        """What the arms can tell apart; None while there is nothing to compare."""
        varying = [a.id for a in self.asked if len({arm.says.get(a.id) for arm in self.arms} - {None}) > 1]
        if len(self.arms) < 2 or not varying:
            return None
        try:
            return separate(self.described(), varying)
        except InvalidInput:
            return None


class BlocksAre(StrEnum):
    """What a block holds together."""

    PLACES = "places on the bench"
    DONORS = "stock plants"
    DAYS = "sticking days"
    PEOPLE = "people who stick"


@dataclass(frozen=True)
class Pieces:
    """Pieces that are ready: of one donor and grade, and if it matters of one stem and place on it.

    ``wave`` is the wave they are ready for; 0: so many in every wave.
    """

    number: int
    donor: str = said("donor", "")
    grade: str = said("grade", "")
    how_many: int = said("pieces", 0)
    stem: str = said("stem", "")
    place: str = said("place on the stem", "")
    wave: int = said("for wave", 0)


@dataclass(frozen=True)
class Design:
    """How many, and how they are laid out. Numbers are those of each wave.

    ``blocks`` counts whole plots in a split-plot; ``whole_aspect`` is the id of the aspect on them; with ``one_vessel`` each
    whole plot is one pot or jar that its units share; ``under_lid`` neighbouring places share a lid, 0 where none do;
    ``block_names`` are those of plants, days or people, where blocks are such.
    """

    layout: LayoutKind = said("layout", LayoutKind.COMPLETELY_RANDOMISED)
    cuttings_per_arm: int = said("cuttings per arm", 24)
    cuttings_per_unit: int = said("cuttings in one unit", 1)
    blocks: int = said("blocks", 1)
    block_size: int = said("units in a block", 0)
    whole_aspect: str = said("aspect on whole plots", "")
    one_vessel: bool = said("whole plots are single vessels", False)
    under_lid: int = said("places under one lid", 0)
    blocks_are: BlocksAre = said("blocks are", BlocksAre.PLACES)
    block_names: tuple[str, ...] = said("names of the blocks", ())
    gradient: str = said("gradient", "")
    bench: str = said("bench", "Bench 1")
    container: Container = said("container", Container())
    assumed_rates: tuple[float, float] | None = said("assumed rates", None)
    assumed_icc: float | None = said("assumed ICC", None)
    pieces: tuple[Pieces, ...] = said("pieces", ())
    leftovers: bool = said("what is over is stuck beside the trial", False)
    gradient_ways: int = said("gradient, ways", 0)
    pieces_by: str = said("pieces of one stem", "")
    alike_at_most: int = said("alike at most", 0)
    hours: float | None = said("hours to stick in", None)  #: hours
    pace_per_hour: float = said("cuttings stuck in an hour", 60.0)  #: cuttings an hour


@dataclass(frozen=True)
class PlannedWave:
    """A sticking occasion; ``season`` is the id of the season's level that owns it, blank when season is not asked."""

    number: int
    planned_for: date | None = said("planned for", None)
    season: str = said("season", "")


@dataclass(frozen=True)
class CheckWindow:
    """Days either side within which the check of a day is on its day, where that is not the usual."""

    number: int
    either_side: int = said("days either side", 2)  #: days


@dataclass(frozen=True)
class Schedule:
    """When it is stuck, looked at and tended; days are days after sticking of each lot."""

    check_days: tuple[int, ...] = said("checks on day", (14, 28))  #: days after sticking
    care_task: str = said("care", "")
    care_every_days: int = said("care, every so many days", 0)
    waves: tuple[PlannedWave, ...] = said("wave", (PlannedWave(1),))
    windows: tuple[CheckWindow, ...] = said("window", ())


@dataclass(frozen=True)
class Preparation:
    """What stands ready. ``recipes``: id of a level of medium, or ``all``, to parts and components."""

    recipes: dict[str, str] = field(default_factory=dict, metadata={"words": "recipe"})


@dataclass(frozen=True)
class DrawMade:
    """A draw: all are kept, the newest is in force; every one after the first has a reason."""

    number: int
    seed: int = said("seed", 0)
    reason: str = said("reason", "")
    result: tuple[str, ...] = said("result", ())


@dataclass(frozen=True)
class DrawnUnit:
    """A unit as drawn: its code, arm, wave, place and groups."""

    code: str
    arm: str = said("arm", "")
    wave: int = said("wave", 1)
    tray: int = said("tray", 1)
    row: int = said("row", 1)
    column: int = said("column", 1)
    spot: int = said("spot", 1)
    cuttings: int = said("cuttings", 1)
    groups: dict[str, str] = field(default_factory=dict, metadata={"words": "group"})
    pieces: tuple[int, ...] = said("from the pieces of line", ())


@dataclass(frozen=True)
class Plan:
    """Everything that decides what is done."""

    code: str
    question: Question = said("", Question())
    treatments: Treatments = said("", Treatments())
    design: Design = said("", Design())
    schedule: Schedule = said("", Schedule())
    preparation: Preparation = said("", Preparation())
    draws: tuple[DrawMade, ...] = said("draw", ())
    units: tuple[DrawnUnit, ...] = said("unit", ())
    departures: tuple[str, ...] = said("", ())

    def container_of(self, arm: ArmPlan) -> Container:
        """What an arm's cuttings stand in: its value of the container aspect, else the design's."""
        aspect = self.treatments.of_kind(AspectKind.CONTAINER)
        level = self.treatments.value(arm, aspect) if aspect else None
        return level.container if level and level.container else self.design.container

    def per_unit(self, arm: ArmPlan) -> int:
        """Cuttings in one unit of an arm."""
        return arm.per_unit or self.design.cuttings_per_unit

    def units_of(self, arm: ArmPlan) -> int:
        """Units of an arm in one wave."""
        return arm.units or self.design.cuttings_per_arm // self.design.cuttings_per_unit

    def waves_of(self, arm: ArmPlan) -> tuple[PlannedWave, ...]:
        """The waves in which an arm is stuck: those of its season where season is asked, else all."""
        season = self.treatments.of_kind(AspectKind.SEASON)
        if season is None or not season.asked:
            return self.schedule.waves
        return tuple(wave for wave in self.schedule.waves if wave.season in ("", arm.says.get(season.id)))

    @property
    def cuttings(self) -> int:
        """Cuttings over all arms and waves."""
        return sum(self.units_of(a) * self.per_unit(a) * len(self.waves_of(a)) for a in self.treatments.arms)

    @property
    def fits_of_rule(self) -> tuple[int, float]:
        """The lab's rule for fit to pot on: least roots and least length in mm."""
        return self.question.fit_least_roots, self.question.fit_least_mm
