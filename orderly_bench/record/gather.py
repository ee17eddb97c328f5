"""Gather a trial into its record, in a handful of queries."""

from __future__ import annotations

from datetime import date, datetime
from zoneinfo import ZoneInfo

from sqlalchemy import literal, select
from sqlalchemy.orm import Session, joinedload, selectinload, undefer
from sqlalchemy.orm.attributes import set_committed_value

from orderly_bench.core.conclude.plants import Fate
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.difference import difference
from orderly_bench.core.plan.text import from_text
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.score.undrawn import UndrawnCount
from orderly_bench.core.stick.came import read_came
from orderly_bench.core.stick.tally import Status
from orderly_bench.core.tend.retrospective import in_words
from orderly_bench.core.tend.schedule import DayZero
from orderly_bench.core.vocabulary import Roots
from orderly_bench.record.value import (
    ChangeRecord,
    CheckRecord,
    CuttingRecord,
    IncidentRecord,
    Kept,
    LookRecord,
    LotRecord,
    MoveRecord,
    NoteRecord,
    Origin,
    PredictionRecord,
    TrayRecord,
    TrialRecord,
    UnitRecord,
    VersionRecord,
)
from orderly_bench.stock.models import StockPlant
from orderly_bench.trial.by_hand import readings_of
from orderly_bench.trial.care import care_of
from orderly_bench.trial.conditions import logs_of
from orderly_bench.trial.load import units_with_everything
from orderly_bench.trial.models import (
    CheckVisit,
    Cutting,
    Incident,
    InterimLook,
    Lab,
    Lot,
    Note,
    Person,
    PlantEnd,
    PlanVersion,
    Prediction,
    ScoreRecord,
    SecondScore,
    SideCount,
    TrayStanding,
    TreatmentChange,
    Trial,
    Unit,
)
from orderly_bench.trial.notes import notes_of
from orderly_bench.trial.versions import plan_holds


def gather(session: Session, trial: Trial) -> TrialRecord:
    """The record as it stands now."""
    versions = _versions(session, trial)
    zone = ZoneInfo(session.scalars(select(Lab)).one().time_zone)
    stuck = [lot.day_zero for lot in trial.lots]
    units = units_with_everything(session, trial)
    first = from_text(versions[0].text) if versions else trial.plan
    lots = {lot.id: _lot(lot) for lot in trial.lots}
    donors, people = _donors_and_people(session)
    unit_records = {unit.id: _unit(unit) for unit in units}
    cuttings = tuple(
        CuttingRecord(
            c.id, c.code, unit_records[unit.id], Status(c.status), c.not_stuck_reason, lots.get(c.lot_id or 0), c.replaces_id, c.sites,
            _origin(c, donors), c.measures, people.get(c.stuck_by_id or 0, ""),
        )
        for unit in units
        for c in unit.cuttings
    )  # fmt: skip
    written = notes_of(session, trial)
    locked_on = trial.locked_at.astimezone(zone).date() if trial.locked_at else None
    return TrialRecord(
        code=trial.code,
        first_plan=first,
        plan=trial.plan,
        digest=trial.digest or "",
        versions=_version_records(versions),
        holds=plan_holds(trial),
        late=in_words(_("the plan was locked"), locked_on, stuck) if locked_on else "",
        locked_on=locked_on,
        short=trial.prepared_anyway,
        trays=tuple(TrayRecord(tray.number, tray.rows, tray.columns) for tray in trial.trays),
        units=tuple(unit_records.values()),
        cuttings=cuttings,
        lots=tuple(lots.values()),
        checks=_checks(session, trial),
        incidents=_incidents(session, trial),
        changes=_changes(session, trial),
        looks=_looked(session, trial, written),
        moves=(
            *(MoveRecord(u.code, p.from_at, p.reason) for u in units for p in u.placements[1:]),
            *_moved_with_trays(session, trial, units),
        ),
        prediction=standing_prediction(session, trial, zone, stuck),
        undrawn=undrawn_counts(session, trial),
        notes=tuple(NoteRecord(n.day, n.text, n.of, n.person.name, n.sighting) for n in written),
        care=care_of(session, trial),
        by_hand=tuple(one.as_read() for one in readings_of(session, trial) if not one.withdrawn),
        died_later=_died_later(session, trial),
        logs=tuple(log.as_log() for log in logs_of(session, trial) if not log.withdrawn),
    )


def _died_later(session: Session, trial: Trial) -> tuple[tuple[int, date], ...]:
    """Plants whose newest end is that they died."""
    ends: dict[int, PlantEnd] = {}
    for end in session.scalars(select(PlantEnd).where(PlantEnd.trial_id == trial.id).order_by(PlantEnd.id)):
        ends[end.cutting_id] = end
    return tuple((cutting, end.day) for cutting, end in sorted(ends.items()) if end.fate == Fate.DEAD)


def _donors_and_people(session: Session) -> tuple[dict[int, str], dict[int, str]]:
    """Codes of the stock plants and names of the people, by id, in one question."""
    plants = select(literal("plant"), StockPlant.id, StockPlant.code)
    found: dict[str, dict[int, str]] = {"plant": {}, "person": {}}
    for what, number, name in session.execute(plants.union_all(select(literal("person"), Person.id, Person.name))):
        found[what][number] = name
    return found["plant"], found["person"]


def _lot(lot: Lot) -> LotRecord:
    return LotRecord(
        lot.id,
        lot.name,
        lot.wave.number,
        lot.day_zero,
        lot.held,
        lot.held_hours,
        lot.held_on_purpose,
        read_came(lot.came),
    )


def _origin(cutting: Cutting, donors: dict[int, str]) -> Origin:
    """As allotted, or as it was in truth where that was noted."""
    said = cutting.measures
    donor = said.get("donor") or donors.get(cutting.donor_id or 0, "")
    return Origin(donor, cutting.stem, cutting.stem_place, said.get("grade") or cutting.grade)


def _moved_with_trays(session: Session, trial: Trial, units: list[Unit]) -> list[MoveRecord]:
    """The units of trays that were moved on a bench after the lock; standing a tray there first is no move."""
    if trial.locked_at is None:
        return []
    moved = select(TrayStanding).where(
        TrayStanding.trial_id == trial.id, TrayStanding.reason != "", TrayStanding.from_at > trial.locked_at
    )
    return [
        MoveRecord(unit.code, one.from_at, one.reason)
        for one in session.scalars(moved.order_by(TrayStanding.id))
        for unit in units
        if unit.place.tray_id == one.tray_id
    ]


def _versions(session: Session, trial: Trial) -> list[PlanVersion]:
    query = (
        select(PlanVersion)
        .where(PlanVersion.trial_id == trial.id)
        .order_by(PlanVersion.number)
        .options(undefer(PlanVersion.text), undefer(PlanVersion.sealed), joinedload(PlanVersion.person))
    )
    versions = list(session.scalars(query))
    set_committed_value(trial, "versions", versions)
    return versions


def _version_records(versions: list[PlanVersion]) -> tuple[VersionRecord, ...]:
    plans: list[Plan] = [from_text(version.text) for version in versions]
    return tuple(
        VersionRecord(v.number, v.at, v.person.name, v.why, tuple(difference(plans[i - 1], plans[i])) if i else ())
        for i, v in enumerate(versions)
    )


def version_records(session: Session, trial: Trial) -> tuple[VersionRecord, ...]:
    """The versions of a plan, each with what it changed."""
    return _version_records(_versions(session, trial))


def _unit(unit: Unit) -> UnitRecord:
    place = unit.place
    planned = sum(1 for cutting in unit.cuttings if cutting.replaces_id is None)
    groups = {g.kind: g.name for g in unit.groupings}
    return UnitRecord(
        unit.id,
        unit.code,
        unit.arm.letter,
        unit.wave.number,
        groups,
        place.tray.number,
        place.row,
        place.column,
        planned,
        unit.sampled_id,
    )


def _checks(session: Session, trial: Trial) -> tuple[CheckRecord, ...]:
    visits = list(session.scalars(select(CheckVisit).where(CheckVisit.trial_id == trial.id)))
    kept: dict[int, dict[tuple[int, int], Kept]] = {visit.id: {} for visit in visits}
    query = select(ScoreRecord).where(ScoreRecord.trial_id == trial.id, ScoreRecord.current == 1)
    for s in session.scalars(query.options(selectinload(ScoreRecord.person))):
        kept[s.check_id][s.cutting_id, s.site] = Kept(
            s.as_score(), s.person.name, s.blind, s.at, s.revision, s.id, s.scored_on
        )
    twice: dict[int, list[tuple[int, Roots, int | None]]] = {}
    second = select(SecondScore).where(SecondScore.trial_id == trial.id).order_by(SecondScore.id)
    for again in session.scalars(second):
        twice.setdefault(again.check_id, []).append((again.cutting_id, Roots(again.roots), again.root_number))
    records = [
        CheckRecord(
            v.id, v.lot_id, v.planned_das, v.window_days, v.is_endpoint, v.way, v.day, v.opened_at is not None,
            v.closed_at, kept[v.id], v.why_then, tuple(twice.get(v.id, ())), v.on_table, v.about,
            v.sample_of_each,
        )
        for v in visits
    ]  # fmt: skip
    return tuple(sorted(records, key=lambda check: (check.planned_das, check.lot)))


def _incidents(session: Session, trial: Trial) -> tuple[IncidentRecord, ...]:
    query = select(Incident).where(Incident.trial_id == trial.id).order_by(Incident.first_day, Incident.id)
    return tuple(
        IncidentRecord(i.kind, i.first_day, i.last_day, i.note, frozenset(unit.id for unit in i.units))
        for i in session.scalars(query.options(selectinload(Incident.units)))
    )


def _changes(session: Session, trial: Trial) -> tuple[ChangeRecord, ...]:
    query = select(TreatmentChange).where(TreatmentChange.trial_id == trial.id).order_by(TreatmentChange.id)
    return tuple(ChangeRecord(c.unit_id, c.arm.letter, c.day, c.reason) for c in session.scalars(query))


def _looked(session: Session, trial: Trial, written: list[Note]) -> tuple[LookRecord, ...]:
    """Interim looks, and notes that were one."""
    looks = [LookRecord(look.at, look.person.name, look.reason, look.of_day) for look in _looks(session, trial)]
    looks += [LookRecord(n.at, n.person.name, _("a note: {note}", note=n.text)) for n in written if n.early]
    return tuple(sorted(looks, key=lambda look: look.at))


def _looks(session: Session, trial: Trial) -> list[InterimLook]:
    query = select(InterimLook).where(InterimLook.trial_id == trial.id).order_by(InterimLook.at)
    return list(session.scalars(query.options(joinedload(InterimLook.person))))


def undrawn_counts(session: Session, trial: Trial) -> tuple[UndrawnCount, ...]:
    """What was counted beside the trial, by day; of a group and day only what was written last."""
    query = select(SideCount).where(SideCount.trial_id == trial.id).order_by(SideCount.day, SideCount.id)
    return tuple({(one.group, one.day): one.as_count() for one in session.scalars(query)}.values())


def standing_prediction(
    session: Session, trial: Trial, zone: ZoneInfo, stuck: list[DayZero]
) -> PredictionRecord | None:
    """The newest prediction made in time that ranks the arms as they are; else the newest, called late."""
    now = trial.plan.treatments.identities()
    query = select(Prediction).where(Prediction.trial_id == trial.id).order_by(Prediction.id.desc())
    found = [
        PredictionRecord(tuple(p.ranking), p.person.name, p.at, p.why, _late(p.at, zone, stuck))
        for p in session.scalars(query.options(joinedload(Prediction.person)))
        if p.of_arms == now
    ]
    return next((p for p in found if not p.late), found[0] if found else None)


def _late(at: datetime, zone: ZoneInfo, stuck: list[DayZero]) -> str:
    return in_words(_("the prediction was made"), at.astimezone(zone).date(), stuck)
