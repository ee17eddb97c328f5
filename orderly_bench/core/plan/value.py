"""The plan: one frozen value with everything that decides what is done.

A field stands here and nowhere else: form, page, text, digest and difference are made from it. ``words`` in a field's
metadata is what a person calls it.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum

from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.question import Question
from orderly_bench.core.plan.said import said
from orderly_bench.core.plan.treatments import (
    ArmPlan,
    Container,
    Treatments,
)
from orderly_bench.core.vocabulary import LayoutKind


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
    trays_get: str = said("whole trays get", "")
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

    @property
    def seasons_in_waves(self) -> bool:
        """Whether season is asked and waves belong to its levels, so that waves are its units."""
        season = self.treatments.of_kind(AspectKind.SEASON)
        return season is not None and season.asked and any(wave.season for wave in self.schedule.waves)

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
