"""Stick: lots with their day 0, whole trays at once, exceptions one by one. Doing any of it twice changes nothing."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.stick.came import UNSAID, Came, as_typed
from orderly_bench.core.stick.half_way import Lacking, waited_hours
from orderly_bench.core.stick.held import hours_said
from orderly_bench.core.stick.tally import NOT_STUCK_REASONS, Status, check_counted
from orderly_bench.core.tend.schedule import DayZero, about
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.care import plan_care
from orderly_bench.trial.load import units_with_everything
from orderly_bench.trial.models import (
    CheckVisit,
    Cutting,
    DayZeroCorrection,
    Lot,
    Person,
    PlannedCheck,
    Trial,
    Unit,
    Wave,
)
from orderly_bench.trial.time_spent import keep_sticking

MOST_LOTS = 20
LONGEST_HELD_HOURS = 8_760.0
NOT_WAITING = {"held": "", "held_hours": ""}


@dataclass(frozen=True)
class LotValues:
    """A lot as typed.

    Attributes
    ----------
    day : date
        Day 0.
    approximate : bool
        About that day: two days either way.
    held : str
        How the pieces were held between taking and sticking.
    held_hours : float or None
        For how long; None when not said, nor in ``held``.
    on_purpose : bool
        Held as a treatment, not as a delay.
    came : Came
        Why it was taken, in what condition, from whom, stuck by whom.
    """

    day: date
    approximate: bool = False
    held: str = ""
    held_hours: float | None = None
    on_purpose: bool = False
    came: Came = UNSAID

    @property
    def hours(self) -> float | None:
        """Hours held, from their field or from the words beside it."""
        return hours_said(self.held) if self.held_hours is None else self.held_hours

    @property
    def day_zero(self) -> DayZero:
        """A first and a last possible day."""
        return about(self.day) if self.approximate else DayZero(self.day, self.day)


def refuse_unless_sticking(session: Session, trial: Trial, wave: Wave) -> None:
    """Sticking of a wave is open from the lock until its first check is opened."""
    _refuse_unless_locked(trial)
    opened = (
        select(CheckVisit.id)
        .join(PlannedCheck, CheckVisit.planned_id == PlannedCheck.id)
        .where(PlannedCheck.wave_id == wave.id, CheckVisit.opened_at.is_not(None))
        .limit(1)
    )
    if session.scalar(opened) is not None:
        raise Refused(
            _("A check was opened, so what was stuck stands. Record an amendment on the Design page instead.")
        )


def _refuse_unless_locked(trial: Trial) -> None:
    if trial.locked_at is None:
        raise Refused(_("Lock the plan on the Design page first; then every cutting has its place."))


def _check(values: LotValues, today: date) -> None:
    if values.day > today:
        raise InvalidInput(
            "sticking day", _("lies in the future; day 0 is the day they were stuck"), dated(values.day, "%d %b %Y")
        )
    if (today - values.day).days > 3_650:
        raise InvalidInput(
            "sticking day", _("lies more than ten years back; check the year"), dated(values.day, "%d %b %Y")
        )
    if values.came.arrived is not None and values.came.arrived > values.day:
        raise InvalidInput("came on", _("lies after the sticking day"), dated(values.came.arrived))
    if len(values.held) > 120:
        raise InvalidInput("held", _("keep it within 120 characters"), f"{len(values.held)} characters")
    if values.hours is not None and not 0 <= values.hours <= LONGEST_HELD_HOURS:
        raise InvalidInput("held, hours", _("must be between 0 and 8760"), values.hours)


def add_lot(
    session: Session, trial: Trial, actor: Person, now: datetime, wave: Wave, values: LotValues, today: date
) -> Lot:
    """A new lot of a wave with its own day 0 and its own checks. No cutting is moved into it."""
    _refuse_unless_locked(trial)
    _check(values, today)
    numbers = [lot.number for lot in trial.lots if lot.wave_id == wave.id]
    if len(numbers) >= MOST_LOTS:
        raise InvalidInput("lots", _("{most_lots} are the most one wave holds", most_lots=MOST_LOTS), len(numbers) + 1)
    zero = values.day_zero
    lot = Lot(
        wave_id=wave.id, number=1 + max(numbers, default=0), day_zero_first=zero.first, day_zero_last=zero.last,
        held=values.held.strip(), held_hours=values.hours, held_on_purpose=values.on_purpose,
        came=as_typed(values.came), usual=values.came.measures,
    )  # fmt: skip
    trial.lots.append(lot)
    wave.waiting_since, wave.waiting_for = None, ""
    session.flush()
    trial.checks.extend(
        CheckVisit(planned=planned, lot=lot) for planned in trial.planned_checks if planned.wave_id == wave.id
    )
    session.flush()
    new = {"lot": lot.name, "first": str(zero.first), "last": str(zero.last)}
    record(session, actor, now, Action.SET_DAY_0, trial, new=new)
    return lot


def put_off(session: Session, trial: Trial, actor: Person, now: datetime, wave: Wave, lacking: str) -> None:
    """What is left waits from now on for what was short; the lot it is stuck in later counts the hours. Said twice, the first stands."""
    refuse_unless_sticking(session, trial, wave)
    if lacking not in list(Lacking):
        raise InvalidInput(_("what there is too little of"), _("choose one of: {names}", names=", ".join(map(_, Lacking))), lacking)  # fmt: skip
    lot_for(trial, wave)
    if wave.waiting_since is None:
        wave.waiting_since, wave.waiting_for = now, lacking
        session.flush()
        record(session, actor, now, Action.PUT_PIECES_OFF, trial, new={"wave": wave.number, "for": lacking})


def as_it_waits(trial: Trial, wave: Wave, now: datetime) -> dict[str, str]:
    """How the next lot was held, as its fields would be typed; blank where nothing waits."""
    if wave.waiting_since is None:
        return NOT_WAITING
    hours = waited_hours(wave.waiting_since, now, lot_for(trial, wave).held_hours)
    return {"held": _("waited for {what}", what=_(wave.waiting_for)), "held_hours": f"{hours:g}"}


def _held(lot: Lot) -> dict[str, object]:
    return {"lot": lot.name, "held": lot.held, "hours": lot.held_hours, "on purpose": lot.held_on_purpose, **lot.came}


def correct_lot(
    session: Session, lot: Lot, actor: Person, now: datetime, values: LotValues, reason: str, today: date
) -> Lot:
    """Put a lot right. Once cuttings are stuck in it a change of day 0 needs a reason and the old day is kept."""
    _check(values, today)
    zero, old = values.day_zero, lot.day_zero
    if zero != old:
        if _holds_cuttings(session, lot):
            if not reason.strip() or len(reason) > 300:
                raise InvalidInput(
                    "reason for another day 0", _("say why, within 300 characters; every day counts from it")
                )
            _refuse_after_checks(session, lot, zero)
            lot.corrections.append(
                DayZeroCorrection(
                    old_first=old.first, old_last=old.last, reason=reason.strip(), at=now, person_id=actor.id
                )
            )
        lot.day_zero_first, lot.day_zero_last = zero.first, zero.last
        before, after = ({"first": str(z.first), "last": str(z.last)} for z in (old, zero))
        record(session, actor, now, Action.SET_DAY_0, lot.trial, old={"lot": lot.name, **before}, new=after, why=reason)
    kept = _held(lot)
    lot.held, lot.held_hours, lot.held_on_purpose = values.held.strip(), values.hours, values.on_purpose
    lot.came = as_typed(values.came)
    _follow(session, lot, values.came.measures)
    if _held(lot) != kept:
        record(session, actor, now, Action.SET_HOW_A_LOT_WAS_HELD, lot.trial, old=kept, new=_held(lot), why=reason)
    session.flush()
    return lot


def _follow(session: Session, lot: Lot, measures: dict[str, str]) -> None:
    """What is said of the whole lot holds of each piece in it, those stuck already too."""
    said_of_lots = {"condition"}
    if {name: value for name, value in lot.usual.items() if name in said_of_lots} == measures:
        return

    def following(usual: dict[str, str]) -> dict[str, str]:
        return {name: value for name, value in usual.items() if name not in said_of_lots} | measures

    lot.usual = following(lot.usual)
    for cutting in session.scalars(select(Cutting).where(Cutting.lot_id == lot.id)):
        cutting.usual_measures = following(cutting.usual_measures)


def _holds_cuttings(session: Session, lot: Lot) -> bool:
    return session.scalar(select(Cutting.id).where(Cutting.lot_id == lot.id).limit(1)) is not None


def _refuse_after_checks(session: Session, lot: Lot, zero: DayZero) -> None:
    days = session.scalars(select(CheckVisit.day).where(CheckVisit.lot_id == lot.id, CheckVisit.day.is_not(None)))
    first = min((day for day in days if day is not None), default=None)
    if first is not None and first < zero.first:
        raise InvalidInput(
            "sticking day", _("lies after a check on {first:%d %b %Y}", first=first), dated(zero.first, "%d %b %Y")
        )


def lot_for(trial: Trial, wave: Wave, number: int | None = None) -> Lot:
    """The lot of a wave asked for, else its newest."""
    lots = [lot for lot in trial.lots if lot.wave_id == wave.id and (number is None or lot.number == number)]
    if not lots:
        raise Refused(_("Set the sticking day first; it is day 0 of every count."))
    return lots[-1]


def _refuse_mixed(unit: Unit, lot: Lot) -> None:
    """Cuttings of one unit share a day 0; replacements have their own."""
    for cutting in unit.cuttings:
        other = cutting.lot
        if other is not None and cutting.replaces_id is None and other.day_zero != lot.day_zero:
            raise Refused(
                _(
                    "Unit {code} has cuttings of {name}, stuck on another day. Cuttings of one unit share a day 0.",
                    code=unit.code,
                    name=other.name,
                )
            )


def _stuck_in(cutting: Cutting, lot: Lot, actor: Person, now: datetime) -> None:
    """A cutting is stuck in a lot, and went in as the lot's do; by whom and when is kept."""
    cutting.status, cutting.not_stuck_reason, cutting.lot = Status.STUCK.value, None, lot
    cutting.stuck_at, cutting.stuck_by_id = now, actor.id
    cutting.usual_measures = dict(lot.usual)


def confirm_tray(
    session: Session,
    trial: Trial,
    actor: Person,
    now: datetime,
    tray_number: int,
    lot: Lot | None = None,
    row: int | None = None,
    counted: int | None = None,
) -> int:
    """All planned cuttings of a tray, or of one row of it, were stuck in a lot; exceptions already noted stay.

    Returns how many changed; cuttings stuck before are not moved. A count of what stands there must agree.
    """
    tray = next((t for t in trial.trays if t.number == tray_number), None)
    if tray is None:
        _refuse_unless_locked(trial)
        raise InvalidInput("tray", _("must be between 1 and {n}", n=len(trial.trays)), tray_number)
    wave = next(w for w in trial.waves if w.id == tray.wave_id)
    refuse_unless_sticking(session, trial, wave)
    lot = lot or lot_for(trial, wave)
    if lot.wave_id != wave.id:
        raise InvalidInput(
            "lot",
            _(
                "must be one of wave {number}, which tray {tray_number} belongs to",
                number=wave.number,
                tray_number=tray_number,
            ),
            lot.name,
        )
    everywhere = units_with_everything(session, trial)
    here = [u for u in everywhere if u.place.tray_id == tray.id and row in (None, u.place.row)]
    in_rows = Counter(unit.place.row for unit in here for _ in unit.cuttings)
    check_counted(
        counted,
        [in_rows[n] for n in sorted(in_rows)],
        sum(c.status == Status.NOT_STUCK for u in here for c in u.cuttings),
    )
    return _stick_planned(session, trial, actor, now, here, lot, tray_number)


def confirm_all(
    session: Session, trial: Trial, actor: Person, now: datetime, wave: Wave, lot: Lot | None = None
) -> int:
    """All that is planned in a wave was stuck, in every tray or vessel; exceptions already noted stay. How many changed."""
    refuse_unless_sticking(session, trial, wave)
    lot = lot or lot_for(trial, wave)
    if lot.wave_id != wave.id:
        raise InvalidInput("lot", _("must be one of wave {number}", number=wave.number), lot.name)
    here = [unit for unit in units_with_everything(session, trial) if unit.wave_id == wave.id]
    return _stick_planned(session, trial, actor, now, here, lot, "all")


def _stick_planned(
    session: Session, trial: Trial, actor: Person, now: datetime, here: list[Unit], lot: Lot, where: int | str
) -> int:
    """What is planned in these units is stuck in a lot."""
    changed = []
    for unit in here:
        planned = [cutting for cutting in unit.cuttings if cutting.status == Status.PLANNED]
        if planned:
            _refuse_mixed(unit, lot)
        changed += planned
    for cutting in changed:
        _stuck_in(cutting, lot, actor, now)
    if changed:
        session.flush()
        new = {"tray": where, "cuttings": len(changed), "lot": lot.name}
        record(session, actor, now, Action.STUCK_A_TRAY, trial, new=new)
        keep_sticking(session, lot, actor, now)
    return len(changed)


def set_cutting(
    session: Session, trial: Trial, actor: Person, now: datetime, cutting: Cutting, reason: str, lot: Lot | None = None
) -> None:
    """Note one cutting as not stuck with its reason, or with a blank reason as stuck."""
    wave = cutting.unit.wave
    refuse_unless_sticking(session, trial, wave)
    lot = lot or lot_for(trial, wave)
    if reason and reason not in NOT_STUCK_REASONS:
        raise InvalidInput("reason", _("choose one of: {names}", names=", ".join(NOT_STUCK_REASONS)), reason)
    old = {"status": cutting.status, "reason": cutting.not_stuck_reason}
    if reason:
        cutting.status, cutting.not_stuck_reason, cutting.lot = Status.NOT_STUCK.value, reason, None
        cutting.stuck_at, cutting.stuck_by_id = None, None
    elif cutting.status != Status.STUCK:
        _refuse_mixed(cutting.unit, lot)
        _stuck_in(cutting, lot, actor, now)
    session.flush()
    new = {"status": cutting.status, "reason": cutting.not_stuck_reason}
    if old != new:
        record(session, actor, now, Action.NOTED_A_CUTTING, trial, old={"code": cutting.code, **old}, new=new)
        keep_sticking(session, lot, actor, now)


def replace_cutting(
    session: Session, trial: Trial, actor: Person, now: datetime, cutting: Cutting, lot: Lot, reason: str
) -> Cutting:
    """A new piece in the place of an early loss: a lot and a day 0 of its own, and no score of the other's.

    It is followed and reported beside the trial; the lost one keeps its place in every count.
    """
    if cutting.status != Status.STUCK or cutting.replaces_id is not None:
        raise Refused(
            _(
                "{code} was never stuck or is a replacement itself; only a stuck cutting can be replaced.",
                code=cutting.code,
            )
        )
    if cutting.lot is None or lot.wave_id != cutting.unit.wave_id or lot.day_zero.first <= cutting.lot.day_zero.last:
        raise InvalidInput(
            "lot of the replacement", _("must be a later one of the same wave, with its own day 0"), lot.name
        )
    if not reason.strip() or len(reason) > 120:
        raise InvalidInput("reason for the replacement", _("say what became of the first, within 120 characters"))
    if any(other.replaces_id == cutting.id for other in cutting.unit.cuttings):
        raise Refused(_("{code} was replaced already.", code=cutting.code))
    made = Cutting(
        trial_id=trial.id, number=1 + max(c.number for c in cutting.unit.cuttings), status=Status.STUCK.value, lot=lot,
        replaces_id=cutting.id, usual_measures=dict(lot.usual), stuck_at=now, stuck_by_id=actor.id,
    )  # fmt: skip
    cutting.unit.cuttings.append(made)
    session.flush()
    record(
        session,
        actor,
        now,
        Action.REPLACED_A_CUTTING,
        trial,
        new={"code": cutting.unit.code, "lot": lot.name},
        why=reason,
    )
    return made


def finish_sticking(session: Session, trial: Trial, actor: Person, now: datetime, wave: Wave | None = None) -> None:
    """Every planned place of a wave is decided; from now on its counts stand. Without a wave: every wave that has a lot."""
    _refuse_unless_locked(trial)
    begun = {lot.wave_id for lot in trial.lots}
    waves = [wave] if wave is not None else [w for w in trial.waves if w.id in begun] or trial.waves[:1]
    for one in waves:
        _finish(session, trial, actor, now, one)


def _finish(session: Session, trial: Trial, actor: Person, now: datetime, wave: Wave) -> None:
    refuse_unless_sticking(session, trial, wave)
    lot_for(trial, wave)
    units = [unit for unit in trial.units if unit.wave_id == wave.id]
    waiting = [c for unit in units for c in unit.cuttings if c.status == Status.PLANNED]
    if waiting:
        trays = sorted({cutting.unit.place.tray.number for cutting in waiting})
        raise Refused(
            _(
                "{n} planned cuttings are neither stuck nor noted (tray {names}). Confirm the trays, or note why they were not stuck.",
                n=len(waiting),
                names=", ".join(map(str, trays)),
            )
        )
    if not any(c.status == Status.STUCK for unit in units for c in unit.cuttings):
        raise Refused(
            _("Nothing was stuck, so there is nothing to follow. Put cuttings back, or leave the trial as it is.")
        )
    if wave.sticking_done_at is None:
        wave.sticking_done_at = now
        zero = min(lot.day_zero.middle for lot in trial.lots if lot.wave_id == wave.id)
        plan_care(session, trial, trial.plan, wave, zero)
        session.flush()
        record(session, actor, now, Action.FINISHED_STICKING, trial, new={"wave": wave.number})
