"""What lies on the scoring bench: every rooting site of a check's lot in bench order, with what is kept, in two queries."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from sqlalchemy import and_, func, select
from sqlalchemy.orm import Session, aliased

from orderly_bench.core import vocabulary as words
from orderly_bench.core.score.progress import Progress, progress
from orderly_bench.core.stick.tally import Status
from orderly_bench.core.vocabulary import FINAL_STATES, Score
from orderly_bench.trial.models import (
    Arm,
    CheckVisit,
    Cutting,
    Person,
    Placement,
    PlannedCheck,
    ScoreRecord,
    Tray,
    Unit,
)

#: A cutting's id and the number of its rooting site.
Site = tuple[int, int]
KEPT = (
    ScoreRecord.id, ScoreRecord.site, ScoreRecord.revision, ScoreRecord.state, ScoreRecord.roots, ScoreRecord.root_number,
    ScoreRecord.longest_root_mm, ScoreRecord.callus, ScoreRecord.top, ScoreRecord.failure, ScoreRecord.fit, ScoreRecord.known_by,
    ScoreRecord.note, ScoreRecord.root_class, ScoreRecord.quality, ScoreRecord.foliage,
)  # fmt: skip


@dataclass(frozen=True)
class Kept:
    """A standing score: its id, revision and scorer with what was scored."""

    id: int
    revision: int
    person: str
    score: Score


@dataclass(frozen=True)
class Spot:
    """A rooting site on the bench; ``kept`` is its score at this check, ``carried`` an earlier final one."""

    cutting: int
    site: int
    site_name: str
    unit: int
    code: str
    tray: int
    row: int
    column: int
    kept: Kept | None
    carried: Score | None

    @property
    def key(self) -> Site:
        """Its identity."""
        return self.cutting, self.site

    @property
    def known(self) -> Score | None:
        """What is known of it at this check."""
        return self.kept.score if self.kept else self.carried

    @property
    def place(self) -> str:
        """Where it stands, and which of several rooting sites it is."""
        where = f"tray {self.tray}, row {self.row}, cell {self.column}"
        return f"{where}, {self.site_name}" if self.site_name else where


@dataclass(frozen=True)
class CheckProgress:
    """A check with its spots in bench order and the tally over them."""

    check: CheckVisit
    spots: list[Spot]
    tally: Progress

    @property
    def order(self) -> list[Site]:
        """Everything to be scored, in bench order."""
        return [spot.key for spot in self.spots]

    @property
    def accounted(self) -> set[Site]:
        """Sites with a kept or a carried score."""
        return {spot.key for spot in self.spots if spot.known is not None}

    def spot(self, key: Site) -> Spot:
        """A spot by its identity."""
        return next(spot for spot in self.spots if spot.key == key)


def _score(row: tuple[Any, ...]) -> Score:
    state, roots, number, longest, callus, top, failure, fit, known_by, note, root_class, quality, foliage = row
    return Score(
        words.State(state), words.Roots(roots), number, longest, callus, words.Top(top) if top else None,
        words.FailureSign(failure) if failure else None, words.Fit(fit), words.KnownBy(known_by), note, root_class, quality, foliage,
    )  # fmt: skip


def progress_of(session: Session, check: CheckVisit) -> CheckProgress:
    """How far a check is: its lot's stuck cuttings in bench order."""
    arms = {arm.id: arm.sites or ("",) for arm in check.trial.plan.treatments.arms}
    carried = carried_into(session, check)
    other = aliased(Cutting)
    in_unit = select(func.count()).where(other.unit_id == Unit.id).correlate(Unit).scalar_subquery()
    query = (
        select(Cutting.id, Cutting.number, Unit.id, Unit.code, in_unit, Arm.letter, Tray.number, Placement.row, Placement.column, Person.name, *KEPT)
        .join(Unit, Cutting.unit_id == Unit.id)
        .join(Arm, Unit.arm_id == Arm.id)
        .join(Placement, and_(Placement.unit_id == Unit.id, Placement.current == 1))
        .join(Tray, Placement.tray_id == Tray.id)
        .outerjoin(
            ScoreRecord,
            and_(ScoreRecord.cutting_id == Cutting.id, ScoreRecord.check_id == check.id, ScoreRecord.current == 1),
        )
        .outerjoin(Person, ScoreRecord.person_id == Person.id)
        .where(Cutting.lot_id == check.lot_id, Cutting.status == Status.STUCK.value)
        .order_by(Unit.bench_order, Cutting.number)
    )  # fmt: skip
    spots: list[Spot] = []
    found: dict[int, tuple[tuple[Any, ...], dict[int, Kept]]] = {}
    for row in session.execute(query):
        place, person, (kept_id, site, revision, *scored) = tuple(row[:9]), row[9], row[10:]
        kept = found.setdefault(place[0], (place, {}))[1]
        if kept_id is not None:
            kept[site] = Kept(kept_id, revision, person, _score(tuple(scored)))
    for (cutting, number, unit, code, count, letter, tray, at, column), kept in found.values():
        full = code if count == 1 else f"{code}-{number}"
        for site, name in enumerate(arms[letter], start=1):
            before = carried.get((cutting, site))
            spots.append(Spot(cutting, site, name, unit, full, tray, at, column, kept.get(site), before))
    seen = {spot.key for spot in spots if spot.kept is not None}
    return CheckProgress(check, spots, progress([spot.key for spot in spots], seen, set(carried)))


def carried_into(session: Session, check: CheckVisit) -> dict[Site, Score]:
    """By site, the latest earlier score of this lot with a final state: it carries forward to this check."""
    _, site, _, *scored = KEPT
    query = (
        select(ScoreRecord.cutting_id, site, *scored)
        .join(CheckVisit, ScoreRecord.check_id == CheckVisit.id)
        .join(PlannedCheck, CheckVisit.planned_id == PlannedCheck.id)
        .where(
            CheckVisit.lot_id == check.lot_id,
            CheckVisit.opened_at.is_not(None),
            PlannedCheck.planned_das < check.planned_das,
            ScoreRecord.current == 1,
            ScoreRecord.state.in_([state.value for state in FINAL_STATES]),
        )
        .order_by(PlannedCheck.planned_das)
    )
    return {(row[0], row[1]): _score(tuple(row[2:])) for row in session.execute(query)}
