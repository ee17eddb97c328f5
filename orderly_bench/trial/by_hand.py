"""What people read where a trial's units stood: a line each, kept as typed, withdrawn with a reason."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.by_hand import Kind, read_value
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import HandReading, Person, Trial, Unit

LONGEST_PLACE, LONGEST_WHY = 60, 300


@dataclass(frozen=True)
class Read:
    """A reading as it is typed; ``place`` may say where and at which hour."""

    kind: str
    typed: str
    day: date
    place: str = ""
    key: str | None = None


def readings_of(session: Session, trial: Trial) -> list[HandReading]:
    """All of a trial, the newest first."""
    query = select(HandReading).where(HandReading.trial_id == trial.id).options(joinedload(HandReading.person))
    return list(session.scalars(query.order_by(HandReading.day.desc(), HandReading.id.desc())))


def keep_reading(
    session: Session, trial: Trial, actor: Person, now: datetime, told: Read, units: Sequence[Unit], today: date
) -> HandReading:
    """Keep one; the same request twice is kept once.

    Raises
    ------
    InvalidInput, Refused
        A kind that is none, a value that can't be read, a day before sticking or to come, no unit, nothing stuck yet.
    """
    known = session.scalar(select(HandReading).where(HandReading.request_key == told.key)) if told.key else None
    if known is not None and known.trial_id == trial.id:
        return known
    if trial.day_zero is None:
        raise Refused(_("Nothing is stuck yet. Set the sticking day first; then readings have days to belong to."))
    kind = next((kind for kind in Kind if kind.value == told.kind), None)
    if kind is None:
        raise InvalidInput(_("what was read"), _("choose one of: {names}", names=", ".join(map(_, Kind))), told.kind)
    state, low, high = read_value(kind, told.typed)
    first = min(lot.day_zero.first for lot in trial.lots)
    if not first <= told.day <= today:
        raise InvalidInput(_("day"), _("must lie between sticking and today"), dated(told.day, "%d %b %Y"))
    if len(told.place) > LONGEST_PLACE:
        raise InvalidInput(_("place"), _("keep it within 60 characters"), told.place[:40])
    if not units:
        raise InvalidInput(_("units"), _("choose the trays or blocks that stood where it was read"))
    made = HandReading(
        trial_id=trial.id, kind=kind.value, day=told.day, units=sorted(unit.id for unit in units), state=state, low=low, high=high,
        place=told.place.strip(), at=now, person_id=actor.id, request_key=told.key,
    )  # fmt: skip
    session.add(made)
    session.flush()
    new = {"read": kind.value, "value": made.as_read().words, "units": len(units), "day": str(told.day)}
    record(session, actor, now, Action.KEPT_A_READING, trial, new=new)
    return made


def withdraw_reading(session: Session, trial: Trial, actor: Person, now: datetime, one: HandReading, why: str) -> None:
    """It no longer counts, and says why; it stays on record."""
    if not 0 < len(why.strip()) <= LONGEST_WHY:
        raise InvalidInput(_("why it is withdrawn"), _("say it within 300 characters"))
    if not one.withdrawn:
        one.withdrawn = why.strip()
        session.flush()
        record(session, actor, now, Action.WITHDREW_A_READING, trial, new={"read": one.kind}, why=why)
