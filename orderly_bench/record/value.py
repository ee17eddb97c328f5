"""The record of a trial: plain frozen values, nothing of the database in them."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date, datetime
from functools import cached_property

from orderly_bench.core.plan.value import Plan
from orderly_bench.core.score.undrawn import UndrawnCount
from orderly_bench.core.stick.came import UNSAID, Came
from orderly_bench.core.stick.piece_measures import Noted, OverArms, PieceMeasure, measures_noted, over_arms
from orderly_bench.core.stick.tally import Status
from orderly_bench.core.tend.by_day import Log
from orderly_bench.core.tend.by_hand import ByHand
from orderly_bench.core.tend.care import CareDay
from orderly_bench.core.tend.schedule import DayZero
from orderly_bench.core.vocabulary import Roots, Score

#: A cutting's id and the number of its rooting site.
Site = tuple[int, int]


@dataclass(frozen=True)
class VersionRecord:
    """A version of the plan: when, by whom, why, and what it changed, in words."""

    number: int
    at: datetime
    person: str
    why: str
    changed: tuple[str, ...]


@dataclass(frozen=True)
class UnitRecord:
    """A unit: its arm's letter, wave, groups by kind, where it stands, how many cuttings it was planned for."""

    id: int
    code: str
    arm: str
    wave: int
    groups: dict[str, str]
    tray: int
    row: int
    column: int
    planned: int
    sampled: int | None = None  #: the check it was drawn for and lifted for good

    def group(self, kind: str) -> str | None:
        """Its group of one kind."""
        return self.groups.get(kind)


@dataclass(frozen=True)
class TrayRecord:
    """A grid of positions on the bench."""

    number: int
    rows: int
    columns: int


@dataclass(frozen=True)
class LotRecord:
    """A lot with its day 0 and how it was held; ``held_hours`` None when not said."""

    id: int
    name: str
    wave: int
    day_zero: DayZero
    held: str
    held_hours: float | None
    on_purpose: bool
    came: Came = UNSAID


@dataclass(frozen=True)
class Origin:
    """Where a cutting comes from: donor, stem, place on it, grade; blank where not said."""

    donor: str = ""
    stem: str = ""
    place: str = ""
    grade: str = ""


@dataclass(frozen=True)
class CuttingRecord:
    """A planned place and what became of it; ``replaces`` is the id of the early loss it stands in for.

    ``noted`` holds what was measured as it went in, by name of the measure.
    """

    id: int
    code: str
    unit: UnitRecord
    status: Status
    not_stuck_reason: str | None
    lot: LotRecord | None
    replaces: int | None
    sites: tuple[str, ...]
    origin: Origin
    noted: dict[str, str] = field(default_factory=dict)
    stuck_by: str = ""  #: who noted it as stuck

    @property
    def counted(self) -> bool:
        """Whether it is in the denominators: stuck, and no replacement."""
        return self.status is Status.STUCK and self.replaces is None


@dataclass(frozen=True)
class Kept:
    """A standing score with who made it."""

    score: Score
    person: str
    blind: bool
    at: datetime
    revision: int
    id: int
    day: date  #: on which it was looked at; of a check over two days each score its own


@dataclass(frozen=True)
class CheckRecord:
    """A check of a lot and its standing scores by cutting and site."""

    id: int
    lot: int
    planned_das: int
    window_days: int
    endpoint: bool
    way: str
    day: date | None
    opened: bool
    closed_at: datetime | None
    scores: dict[Site, Kept]
    why: str = ""  #: why on a day outside its window
    twice: tuple[tuple[int, Roots, int | None], ...] = ()  #: cutting, roots and number as a second scorer saw them
    on_table: str = ""  #: a count on the table that differed from the scores, and why
    about: bool = False  #: the day of looking is not sure
    sample: int | None = None  #: units of each arm drawn and lifted for good

    @property
    def closed(self) -> bool:
        """Whether it was brought to its end."""
        return self.closed_at is not None

    def looks_at(self, unit: UnitRecord) -> bool:
        """Whether it looks at a unit: at its own sample alone, where one was drawn."""
        return self.sample is None or unit.sampled == self.id


@dataclass(frozen=True)
class IncidentRecord:
    """Something that happened, with the ids of the units touched."""

    kind: str
    first_day: date
    last_day: date
    note: str
    units: frozenset[int]


@dataclass(frozen=True)
class LookRecord:
    """An interim look; ``of_day`` is the day it was planned for, None where it was not."""

    at: datetime
    person: str
    reason: str
    of_day: int | None = None


@dataclass(frozen=True)
class PredictionRecord:
    """The prediction that stands: arm letters best first; ``late`` says so when it was made after sticking."""

    ranking: tuple[str, ...]
    person: str
    at: datetime
    why: str
    late: str


@dataclass(frozen=True)
class NoteRecord:
    """A dated line; ``code`` is that of its unit, or names its tray or arm; blank for the trial."""

    day: date
    text: str
    code: str
    person: str
    sighting: bool = False


@dataclass(frozen=True)
class MoveRecord:
    """A unit that was moved."""

    code: str
    at: datetime
    reason: str


@dataclass(frozen=True)
class ChangeRecord:
    """A unit that got another arm's treatment from a day on: the arm's letter, and why."""

    unit: int
    arm: str
    day: date
    reason: str


@dataclass(frozen=True)
class TrialRecord:
    """Everything that is known of a trial.

    Attributes
    ----------
    first_plan, plan : Plan
        As locked (version 1) and in force.
    holds : bool
        Whether what is stored is what was locked.
    late : str
        Says so when the plan was locked after sticking; blank otherwise.
    locked_on : date or None
        By the lab's days.
    short : str
        What was short when all was called ready, and why; blank otherwise.
    changes : tuple of ChangeRecord
        Units that got another arm's treatment, in the order of writing.
    beside : tuple of UndrawnCount
        Groups that were not drawn, by day.
    notes : tuple of NoteRecord
        By their day.
    by_hand : tuple of ByHand
        What people read where units stood.
    logs : tuple of Log
        What was read where units stood, in the order of writing.
    care : tuple of (date, tuple of CareDay)
        Care jobs of each wave that is stuck, with its first day 0.
    died_later : tuple of (int, date)
        Ids of cuttings that died after the endpoint, as was written of the plants, with the day.
    """

    code: str
    first_plan: Plan
    plan: Plan
    digest: str
    versions: tuple[VersionRecord, ...]
    holds: bool
    late: str
    locked_on: date | None
    short: str
    trays: tuple[TrayRecord, ...]
    units: tuple[UnitRecord, ...]
    cuttings: tuple[CuttingRecord, ...]
    lots: tuple[LotRecord, ...]
    checks: tuple[CheckRecord, ...]
    incidents: tuple[IncidentRecord, ...]
    changes: tuple[ChangeRecord, ...]
    looks: tuple[LookRecord, ...]
    moves: tuple[MoveRecord, ...]
    prediction: PredictionRecord | None
    undrawn: tuple[UndrawnCount, ...] = ()
    notes: tuple[NoteRecord, ...] = ()
    logs: tuple[Log, ...] = ()
    by_hand: tuple[ByHand, ...] = ()
    care: tuple[tuple[date, tuple[CareDay, ...]], ...] = ()
    died_later: tuple[tuple[int, date], ...] = ()

    @cached_property
    def arm_names(self) -> dict[str, str]:
        """Names of the arms by letter, in order."""
        return {arm.id: self.plan.treatments.name(arm) for arm in self.plan.treatments.arms}

    @cached_property
    def end(self) -> datetime | None:
        """When the last lot's endpoint check was closed; None while one is not. What befalls plants later is no part of what was counted."""
        closed = {check.lot: check.closed_at for check in self.checks if check.endpoint}
        found = [closed.get(lot) for lot in {cutting.lot.id for cutting in self.counted if cutting.lot is not None}]
        moments = [moment for moment in found if moment is not None]
        return max(moments) if moments and len(moments) == len(found) else None

    @cached_property
    def last_seen(self) -> date | None:
        """The last day on which the endpoint was scored."""
        return max(
            (kept.day for check in self.checks if check.endpoint for kept in check.scores.values()), default=None
        )

    def by_the_end(self, day: date) -> bool:
        """Whether a day lies before the end or on it; the endpoint's own day is the last."""
        return self.end is None or self.last_seen is None or day <= self.last_seen

    @property
    def looks_unplanned(self) -> list[LookRecord]:
        """Looks that spent what nobody counted."""
        return [] if self.shared_days else list(self.looks)

    @cached_property
    def shared_days(self) -> tuple[int, ...]:
        """The days of planned looks that alpha is shared over; none where anybody looked otherwise.

        Who has looked can look again at every later check, so that each of these must have been planned too.
        """
        if not self.looks or any(look.of_day is None for look in self.looks):
            return ()
        first = min(look.of_day for look in self.looks if look.of_day is not None)
        end = self.plan.question.endpoint_day
        done = {check.planned_das for check in self.checks if check.opened and first <= check.planned_das < end}
        return tuple(sorted(done)) if done <= set(self.first_plan.question.planned_looks) else ()

    @property
    def incidents_until_end(self) -> list[IncidentRecord]:
        """Those that could touch what was counted."""
        return [one for one in self.incidents if self.by_the_end(one.first_day)]

    @property
    def changes_until_end(self) -> list[ChangeRecord]:
        """Those that could touch what was counted."""
        return [one for one in self.changes if self.by_the_end(one.day)]

    @property
    def moves_until_end(self) -> list[MoveRecord]:
        """Those that could touch what was counted."""
        return [one for one in self.moves if self.end is None or one.at <= self.end]

    @property
    def moved_together(self) -> list[tuple[date, str, list[str]]]:
        """Days on which units were moved, with the reason and the codes, in the order of writing."""
        found: dict[tuple[datetime, str], list[str]] = {}
        for move in self.moves:
            found.setdefault((move.at, move.reason), []).append(move.code)
        return [(at.date(), reason, codes) for (at, reason), codes in found.items()]

    @cached_property
    def given(self) -> dict[int, str]:
        """Unit id to the letter of the arm whose treatment it last got, where that is another than its own; until the end."""
        own = {unit.id: unit.arm for unit in self.units}
        last = {change.unit: change.arm for change in self.changes_until_end}
        return {unit: arm for unit, arm in last.items() if own.get(unit) != arm}

    @cached_property
    def noted(self) -> list[PieceMeasure]:
        """What was noted of at least one cutting as it went in."""
        return measures_noted(cutting.noted for cutting in self.cuttings)

    @cached_property
    def starts(self) -> list[PieceMeasure]:
        """The same, but for what belongs to the arms by plan: to be held against them."""
        return [one for one in self.noted if one.of not in self.plan.treatments.kinds_that_differ]

    @cached_property
    def several_to_a_unit(self) -> bool:
        """Whether some units hold several cuttings."""
        return any(unit.planned > 1 for unit in self.units)

    @cached_property
    def donors_said(self) -> bool:
        """Whether it was said of any cutting which plant it is from."""
        return any(cutting.origin.donor for cutting in self.cuttings)

    @cached_property
    def grades_said(self) -> bool:
        """Whether any cutting was graded."""
        return any(cutting.origin.grade for cutting in self.cuttings)

    @cached_property
    def as_stuck(self) -> list[OverArms]:
        """What was noted of the counted cuttings as they went in, over the arms, the most uneven first."""
        noted = [Noted(cutting.unit.arm, cutting.noted) for cutting in self.counted]
        return over_arms(noted, list(self.arm_names), self.plan.treatments.kinds_that_differ)

    @cached_property
    def counted(self) -> list[CuttingRecord]:
        """The cuttings of every denominator, in bench order."""
        return [cutting for cutting in self.cuttings if cutting.counted]

    def lot(self, lot_id: int) -> LotRecord:
        """A lot by its id."""
        return next(lot for lot in self.lots if lot.id == lot_id)
