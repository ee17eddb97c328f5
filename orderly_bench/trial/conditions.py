"""What loggers read where a trial's units stood."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from hashlib import sha256
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.by_day import by_day
from orderly_bench.core.tend.conditions import conditions, in_order
from orderly_bench.core.tend.logger_columns import UNSAID, LoggerColumns
from orderly_bench.formats.log_csv import LogFile, Tick, columns_in, open_log, read_file, unheard
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import ConditionLog, LoggerKind, Person, Trial, Unit

LONGEST_ZONE = 60


@dataclass(frozen=True)
class LogSent:
    """A logger's file as it comes: its bytes and name, where it hung, the band of the air in °C, the zone of times without an offset.

    ``columns`` is what a person says of its columns; blank ones are those remembered, else found by their names.
    """

    data: bytes
    name: str
    zone: str
    low: float
    high: float
    clock: ZoneInfo
    columns: LoggerColumns = UNSAID


def logs_of(session: Session, trial: Trial) -> list[ConditionLog]:
    """Every log, in the order of writing."""
    query = select(ConditionLog).where(ConditionLog.trial_id == trial.id).order_by(ConditionLog.id)
    return list(session.scalars(query.options(selectinload(ConditionLog.units), selectinload(ConditionLog.person))))


def check_log(trial: Trial, sent: LogSent, units: Sequence[Unit]) -> str:
    """What can be told before the file is read; the name of the place.

    Raises
    ------
    InvalidInput, Refused
        No unit, a name too long, nothing stuck yet.
    """
    if trial.day_zero is None:
        raise Refused(_("Nothing is stuck yet. Set the sticking day first; then readings have days to belong to."))
    zone = sent.zone.strip() or _("the bench")
    if len(zone) > LONGEST_ZONE:
        raise InvalidInput("place", _("keep it within 60 characters"), f"{len(zone)} characters")
    if not units:
        raise InvalidInput("units", _("choose the trays or blocks that stood where it was read"))
    return zone


def keep_log(
    session: Session,
    trial: Trial,
    actor: Person,
    now: datetime,
    sent: LogSent,
    units: Sequence[Unit],
    tick: Tick = unheard,
) -> ConditionLog:
    """Keep a file, summed up by day; all of it or nothing. The same file for the same place is kept once.

    Raises
    ------
    UnusableData, InvalidInput, Refused
        A file that can't be read, a time to come, days that are none of the trial's, no unit, nothing stuck yet.
    """
    zone = check_log(trial, sent, units)
    digest = sha256(sent.data).hexdigest()
    known = next((one for one in logs_of(session, trial) if one.digest == digest and one.zone == zone), None)
    if known is not None:
        if known.withdrawn:
            raise Refused(_("This file was kept for {zone} and withdrawn: {why}.", zone=zone, why=known.withdrawn))
        return known
    _refuse_another_band(logs_of(session, trial), sent)
    file = open_log(sent.data)
    columns = columns_in(file, _said_of(session, file, actor, now, sent.columns))
    readings = read_file(file, columns, sent.clock, tick)
    log_of = in_order(readings)
    found, days = conditions(log_of, sent.low, sent.high), by_day(log_of, sent.low, sent.high)
    tick(len(readings), len(readings))
    if max(one.at for one in readings) > now:
        last = dated(days[-1].day, "%d %b %Y")
        raise InvalidInput("time", _("lies in the future; is the year right, and the clock's zone?"), last)
    zero = min(lot.day_zero.first for lot in trial.lots)
    if days[-1].day < zero:
        rule = _("no reading is from after sticking on {zero:%d %b %Y}; is the year right?", zero=zero)
        raise InvalidInput("time", rule, dated(days[-1].day, "%d %b %Y"))
    report: dict[str, object] = {
        "rows": found.rows, "duplicates": found.duplicates, "gaps": found.gaps, "spikes": found.spikes, "cautions": list(found.cautions),
    }  # fmt: skip
    if columns is not None:
        report["columns"] = columns.words
    log = ConditionLog(
        trial_id=trial.id, zone=zone, name=sent.name[-120:], digest=digest, low_c=sent.low, high_c=sent.high, first_day=days[0].day,
        last_day=days[-1].day, report=report, days=ConditionLog.days_of(days), at=now, person_id=actor.id, units=list(units),
    )  # fmt: skip
    session.add(log)
    session.flush()
    new = {
        "zone": zone,
        "rows": found.rows,
        "units": len(units),
        "first": str(log.first_day),
        "last": str(log.last_day),
    }
    record(session, actor, now, Action.KEPT_A_LOG, trial, new=new)
    return log


def _said_of(session: Session, file: LogFile, actor: Person, now: datetime, said: LoggerColumns) -> LoggerColumns:
    """What was said of the columns of such a file, now or earlier; what is said now is remembered."""
    known = session.scalar(select(LoggerKind).where(LoggerKind.mark == file.mark))
    if said == UNSAID:
        return LoggerColumns(**known.columns) if known is not None else said
    kept = {name: value for name, value in asdict(said).items() if value}
    if known is None:
        session.add(LoggerKind(mark=file.mark, columns=kept, at=now, person_id=actor.id))
    else:
        known.columns, known.at, known.person_id = kept, now, actor.id
    return said


def _refuse_another_band(logs: Sequence[ConditionLog], sent: LogSent) -> None:
    """Hours outside are compared over arms, so all logs of a trial are held against one band."""
    standing = next((one for one in logs if not one.withdrawn), None)
    if standing is not None and (standing.low_c, standing.high_c) != (sent.low, sent.high):
        band = {"low": standing.low_c, "high": standing.high_c}
        rule = _("is {low:g} to {high:g} °C in this trial already; withdraw what was kept to change it", **band)
        raise InvalidInput(_("band of the air, °C"), rule, f"{sent.low:g}..{sent.high:g}")


def withdraw_log(session: Session, trial: Trial, actor: Person, now: datetime, log: ConditionLog, why: str) -> None:
    """A log no longer counts, and says why; it stays on record."""
    if not 0 < len(why.strip()) <= 300:
        raise InvalidInput("why it is withdrawn", _("say it within 300 characters"))
    if not log.withdrawn:
        log.withdrawn = why.strip()
        session.flush()
        record(session, actor, now, Action.WITHDREW_A_LOG, trial, new={"zone": log.zone}, why=why)
