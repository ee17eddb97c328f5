"""The plan: one frozen value with everything that decides what is done.

A field stands here and nowhere else: form, page, text, digest and difference are made from it. ``words`` in a field's
metadata is what a person calls it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date
from enum import StrEnum

from orderly_bench.core.layouts.planned import Numbers
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.care_lines import CareRule, read_care, write_care
from orderly_bench.core.plan.part import Page, Part, drawn_of, mapped, plan_field
from orderly_bench.core.plan.piece_lines import Pieces, read_pieces, write_pieces
from orderly_bench.core.plan.question import Headline, Question
from orderly_bench.core.plan.treatments import MOST_PER_ARM, MOST_PER_UNIT, ArmPlan, Container, Treatments
from orderly_bench.core.typed import day, lines, named, number, one_of, text, ticked, whole
from orderly_bench.core.vocabulary import LayoutKind

HERE = Page.DESIGN
MOST_BLOCKS, MOST_IN_BLOCK, MOST_UNDER_LID = 200, 24, 400


class BlocksAre(StrEnum):
    """What a block holds together."""

    PLACES = "places on the bench"
    DONORS = "stock plants"
    DAYS = "sticking days"
    PEOPLE = "people who stick"


class CameToArms(StrEnum):
    """How pieces came to their arms; only a draw lets the p speak of what the arms did."""

    DRAWN = "drawn by lot"
    AS_THEY_CAME = "as they came"
    BY_SIDE = "by side"
    BEST_TO_ONE = "best to one"
    LEFT_OVER = "left over"
    NOT_KNOWN = "not known"


def _read_names(typed: str) -> tuple[str, ...]:
    return tuple(" ".join(line.split()) for line in typed.splitlines() if line.strip())


#: Ways in which the bench differs, and what is taken with the piece.
WAYS = named((0, "no way"), (1, "one way"), (2, "two ways"))
TOGETHER = named(("", "no"), ("stem", "by stem"), ("place", "by place on the stem"))


@dataclass(frozen=True)
class Design(Part):
    """How many, and how they are laid out. Numbers are those of each wave.

    ``blocks`` counts whole plots in a split-plot; ``whole_aspect`` is the id of the aspect on them; with ``one_vessel`` each
    whole plot, block, or the whole trial where there are none, is one pot or jar that its units share; ``under_lid`` neighbouring places share a lid, 0 where none do;
    ``block_names`` are those of plants, days or people, where blocks are such.
    """

    layout: LayoutKind = plan_field("layout", LayoutKind.COMPLETELY_RANDOMISED, one_of(LayoutKind), HERE)
    cuttings_per_arm: int = plan_field("cuttings per arm", 24, whole(1, MOST_PER_ARM), HERE)
    cuttings_per_unit: int = plan_field("cuttings in one unit", 1, whole(1, MOST_PER_UNIT), HERE)
    blocks: int = plan_field("blocks", 1, whole(1, MOST_BLOCKS), HERE)
    block_size: int = plan_field("units in a block", 0, whole(2, MOST_IN_BLOCK, 0), HERE)
    whole_aspect: str = plan_field("aspect on whole plots", "", text(80), HERE)
    one_vessel: bool = plan_field("units of a whole plot or block share one vessel", False, ticked(), HERE)
    under_lid: int = plan_field("places under one lid", 0, whole(2, MOST_UNDER_LID, 0), HERE)
    blocks_are: BlocksAre = plan_field("blocks are", BlocksAre.PLACES, one_of(BlocksAre), HERE)
    block_names: tuple[str, ...] = plan_field("names of the blocks", (), lines(_read_names, "\n".join), HERE)
    gradient: str = plan_field("gradient", "", text(120), HERE, drawn=False)
    bench: str = plan_field("bench", "Bench 1", text(80, "Bench 1"), HERE, drawn=False)
    container: Container = plan_field("container", Container())
    assumed_rates: tuple[float, float] | None = plan_field("assumed rates", None, drawn=False)
    assumed_icc: float | None = plan_field("assumed ICC", None, number(0, 0.999, None), HERE, drawn=False)
    pieces: tuple[Pieces, ...] = plan_field("pieces", (), lines(read_pieces, write_pieces), HERE, drawn=False)
    leftovers: bool = plan_field("what is over is stuck beside the trial", False, ticked(), HERE, drawn=False)
    gradient_ways: int = plan_field("gradient, ways", 0, WAYS, HERE, drawn=False)
    pieces_by: str = plan_field("pieces of one stem", "", TOGETHER, HERE, drawn=False)
    trays_get: str = plan_field("whole trays get", "", text(80), HERE, drawn=False)
    alike_at_most: int = plan_field("alike at most", 0, whole(2, 24, 0), HERE, drawn=False)
    hours: float | None = plan_field("hours to stick in", None, number(0, 1_000, None), HERE, drawn=False)  #: hours
    came_to_arms: CameToArms = plan_field(
        "how pieces came to their arms", CameToArms.DRAWN, one_of(CameToArms), drawn=False
    )
    stuck: str = plan_field("stuck in each arm, where nobody counted", "", drawn=False)
    pace_per_hour: float = plan_field("cuttings stuck in an hour", 60.0, number(1, 2_000), HERE, drawn=False)

    @property
    def numbers(self) -> Numbers:
        """How many, as its layout asks for them."""
        return Numbers(self.cuttings_per_arm, self.cuttings_per_unit, self.blocks, self.block_size)

    def with_numbers(self, numbers: Numbers) -> Design:
        """The same with other numbers."""
        return replace(
            self, cuttings_per_arm=numbers.per_arm, cuttings_per_unit=numbers.per_unit, blocks=numbers.blocks,
            block_size=numbers.block_size,
        )  # fmt: skip


@dataclass(frozen=True)
class PlannedWave(Part):
    """A sticking occasion; ``season`` is the id of the season's level that owns it, blank when season is not asked."""

    number: int
    planned_for: date | None = plan_field("planned for", None, day(), HERE, drawn=False)
    season: str = plan_field("season", "", text(80), HERE)


@dataclass(frozen=True)
class CheckWindow(Part):
    """Days either side within which the check of a day is on its day, where that is not the usual."""

    number: int
    either_side: int = plan_field("days either side", 2, whole(0, 60))  #: days


@dataclass(frozen=True)
class Schedule(Part):
    """When it is stuck, looked at and tended; days are days after sticking of each lot."""

    check_days: tuple[int, ...] = plan_field("checks on day", (14, 28))  #: days after sticking
    care_task: str = plan_field("care", "", text(120), Page.QUESTION)
    care_every_days: int = plan_field("care, every so many days", 0, whole(0, 90), Page.QUESTION)
    care_rules: tuple[CareRule, ...] = plan_field("more care", (), lines(read_care, write_care), Page.QUESTION)
    waves: tuple[PlannedWave, ...] = plan_field("wave", (PlannedWave(1),))
    windows: tuple[CheckWindow, ...] = plan_field("window", ())


@dataclass(frozen=True)
class Preparation(Part):
    """What stands ready. ``recipes``: id of a level of medium, or ``all``, to parts and components."""

    recipes: Mapping[str, str] = mapped("recipe")


@dataclass(frozen=True)
class DrawMade(Part):
    """A draw: all are kept, the newest is in force; every one after the first has a reason."""

    number: int
    seed: int = plan_field("seed", 0)
    reason: str = plan_field("reason", "")
    result: tuple[str, ...] = plan_field("result", ())


@dataclass(frozen=True)
class DrawnUnit(Part):
    """A unit as drawn: its code, arm, wave, place and groups."""

    code: str
    arm: str = plan_field("arm", "")
    wave: int = plan_field("wave", 1)
    tray: int = plan_field("tray", 1)
    row: int = plan_field("row", 1)
    column: int = plan_field("column", 1)
    spot: int = plan_field("spot", 1)
    cuttings: int = plan_field("cuttings", 1)
    groups: Mapping[str, str] = mapped("group")
    pieces: tuple[int, ...] = plan_field("from the pieces of line", ())


@dataclass(frozen=True)
class Plan(Part):
    """Everything that decides what is done."""

    code: str
    question: Question = plan_field("", Question())
    treatments: Treatments = plan_field("", Treatments())
    design: Design = plan_field("", Design())
    schedule: Schedule = plan_field("", Schedule())
    preparation: Preparation = plan_field("", Preparation())
    draws: tuple[DrawMade, ...] = plan_field("draw", ())
    units: tuple[DrawnUnit, ...] = plan_field("unit", ())
    departures: tuple[str, ...] = plan_field("", ())

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

    def cuttings_of(self, arm: ArmPlan) -> int:
        """Cuttings of an arm in one wave."""
        return self.units_of(arm) * self.per_unit(arm)

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
    def speaks_of(self) -> Headline:
        """What the verdict speaks of: of arms in pairs where one factor alone is asked, for it has no others to be taken over."""
        asked = self.question.headline
        return Headline.PAIRS if asked is Headline.FACTORS and len(self.treatments.asked) < 2 else asked

    @property
    def cuttings(self) -> int:
        """Cuttings over all arms and waves."""
        return sum(self.cuttings_of(a) * len(self.waves_of(a)) for a in self.treatments.arms)

    @property
    def fits_of_rule(self) -> tuple[int, float]:
        """The lab's rule for fit to pot on: least roots and least length in mm."""
        return self.question.fit_least_roots, self.question.fit_least_mm

    def what_is_drawn(self) -> object:
        """Every part of the plan that a draw rests on."""
        asked = self.treatments.asked
        arms = tuple(
            (drawn_of(arm), tuple(arm.says.get(aspect.id) for aspect in asked), drawn_of(self.container_of(arm)))
            for arm in self.treatments.arms
        )
        return drawn_of(self.design), arms, tuple(map(drawn_of, self.schedule.waves))
