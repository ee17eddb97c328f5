"""Stick: day 0, whole trays at once, exceptions one by one. Doing any of it twice changes nothing."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.score.models import CheckVisit
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.stick.tally import NOT_STUCK_REASONS
from orderly_bench.core.tend.schedule import DayZero, about
from orderly_bench.trial.audit import record
from orderly_bench.trial.models import Cutting, Lot, Person, Trial, Unit


def refuse_unless_sticking(session: Session, trial: Trial) -> None:
    """Sticking is open from the lock until the first check is opened."""
    if trial.locked_at is None:
        raise Refused("Lock the plan on the Design page first; then every cutting has its place.")
    opened = select(CheckVisit.id).where(CheckVisit.trial_id == trial.id, CheckVisit.opened_at.is_not(None)).limit(1)
    if session.scalar(opened) is not None:
        raise Refused("A check was opened, so what was stuck stands. Record an amendment on the Design page instead.")


def record_lot(
    session: Session, trial: Trial, actor: Person, now: datetime, day: date, approximate: bool, held: str, today: date
) -> Lot:
    """Keep the lot with its day 0; the trial's first lot is changed while sticking is open."""
    refuse_unless_sticking(session, trial)
    if day > today:
        raise InvalidInput("sticking day", "lies in the future; day 0 is the day they were stuck", f"{day:%d %b %Y}")
    if (today - day).days > 3_650:
        raise InvalidInput("sticking day", "lies more than ten years back; check the year", f"{day:%d %b %Y}")
    if len(held) > 120:
        raise InvalidInput("held", "keep it within 120 characters", f"{len(held)} characters")
    zero = about(day) if approximate else DayZero(day, day)
    lot = trial.lots[0] if trial.lots else None
    old = {"first": str(lot.day_zero_first), "last": str(lot.day_zero_last)} if lot else None
    if lot is None:
        lot = Lot(wave_id=trial.waves[0].id, day_zero_first=zero.first, day_zero_last=zero.last)
        trial.lots.append(lot)
    lot.day_zero_first, lot.day_zero_last, lot.held = zero.first, zero.last, held.strip()
    session.flush()
    new = {"first": str(zero.first), "last": str(zero.last)}
    if old != new:
        record(session, actor, now, "set day 0", trial, old=old, new=new)
    return lot


def _lot(trial: Trial) -> Lot:
    if not trial.lots:
        raise Refused("Set the sticking day first; it is day 0 of every count.")
    return trial.lots[0]


def confirm_tray(session: Session, trial: Trial, actor: Person, now: datetime, tray_number: int) -> int:
    """All planned cuttings of a tray were stuck; exceptions already noted stay. Returns how many changed."""
    refuse_unless_sticking(session, trial)
    lot = _lot(trial)
    if tray_number not in [tray.number for tray in trial.trays]:
        raise InvalidInput("tray", f"must be between 1 and {len(trial.trays)}", tray_number)
    changed = [
        cutting
        for unit in trial.units
        if unit.place.tray.number == tray_number
        for cutting in unit.cuttings
        if cutting.status == "planned"
    ]
    for cutting in changed:
        cutting.status, cutting.lot_id = "stuck", lot.id
    if changed:
        session.flush()
        record(session, actor, now, "stuck a tray", trial, new={"tray": tray_number, "cuttings": len(changed)})
    return len(changed)


def set_cutting(session: Session, trial: Trial, actor: Person, now: datetime, cutting: Cutting, reason: str) -> None:
    """Note one cutting as not stuck with its reason, or with a blank reason as stuck."""
    refuse_unless_sticking(session, trial)
    lot = _lot(trial)
    if reason and reason not in NOT_STUCK_REASONS:
        raise InvalidInput("reason", f"choose one of: {', '.join(NOT_STUCK_REASONS)}", reason)
    old = {"status": cutting.status, "reason": cutting.not_stuck_reason}
    if reason:
        cutting.status, cutting.not_stuck_reason, cutting.lot_id = "not stuck", reason, None
    else:
        cutting.status, cutting.not_stuck_reason, cutting.lot_id = "stuck", None, lot.id
    session.flush()
    new = {"status": cutting.status, "reason": cutting.not_stuck_reason}
    if old != new:
        record(session, actor, now, "noted a cutting", trial, old={"code": cutting.code, **old}, new=new)


def finish_sticking(session: Session, trial: Trial, actor: Person, now: datetime) -> None:
    """Every planned place is decided; from now on the counts stand."""
    refuse_unless_sticking(session, trial)
    _lot(trial)
    waiting = session.scalars(
        select(Cutting).join(Unit).where(Unit.trial_id == trial.id, Cutting.status == "planned")
    ).all()
    if waiting:
        trays = sorted({cutting.unit.place.tray.number for cutting in waiting})
        raise Refused(
            f"{len(waiting)} planned cuttings are neither stuck nor noted (tray {', '.join(map(str, trays))}). "
            "Confirm the trays, or note why they were not stuck."
        )
    if not any(c.status == "stuck" for unit in trial.units for c in unit.cuttings):
        raise Refused(
            "Nothing was stuck, so there is nothing to follow. Put cuttings back, or leave the trial as it is."
        )
    if trial.sticking_done_at is None:
        trial.sticking_done_at = now
        record(session, actor, now, "finished sticking", trial)
