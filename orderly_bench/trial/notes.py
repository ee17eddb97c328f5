"""Dated lines of a trial."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.notes import check_note, tells_arms_apart
from orderly_bench.core.tend.schedule import CHECK_WINDOW_DAYS
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.blindness import endpoint_closed
from orderly_bench.trial.models import Note, Person, Trial, Unit


@dataclass(frozen=True)
class Written:
    """A note as it is written: its day, its words, the unit, tray or arm it is of, none for the trial, and whether a root was seen."""

    day: date
    text: str
    unit: Unit | None = None
    sighting: bool = False
    tray: int | None = None
    arm: str = ""


def write_note(
    session: Session,
    trial: Trial,
    actor: Person,
    now: datetime,
    told: Written,
    today: date,
    request_key: str | None = None,
) -> Note:
    """Keep a note; the same request once more gives the same. One that tells arms apart by their roots before the end is an interim look.

    It opens nothing to who wrote it: results by arm are shown after a look through Compare alone.
    """
    if trial.day_zero is None:
        raise Refused(_("Nothing is stuck yet. Set the sticking day first; then a note has a day to stand on."))
    if told.sighting and told.unit is None:
        raise InvalidInput(_("code"), _("say of which unit the root was seen; its label has the code"))
    text = check_note(
        told.text or (_("a root is to be seen") if told.sighting else ""),
        told.day,
        min(lot.day_zero.first for lot in trial.lots),
        today,
    )
    known = session.scalar(select(Note).where(Note.request_key == request_key)) if request_key else None
    if known is not None and (known.trial_id, known.person_id, known.text) == (trial.id, actor.id, text):
        return known
    key = None if known is not None else request_key
    of_arm = f"arm {told.arm}: {text}" if told.arm else text
    early = tells_arms_apart(of_arm, names_of(trial), [arm.letter for arm in trial.arms]) and not endpoint_closed(
        session, trial
    )
    note = Note(
        trial_id=trial.id, unit=told.unit, day=told.day, text=text, at=now, person_id=actor.id, request_key=key, early=early,
        sighting=told.sighting, tray=told.tray, arm=told.arm,
    )  # fmt: skip
    session.add(note)
    session.flush()
    new = {"day": str(told.day), "unit": told.unit.code if told.unit else ""} | ({"of": note.of} if note.of else {})
    record(session, actor, now, Action.WROTE_A_NOTE, trial, new=new)
    if note.early:
        record(session, actor, now, Action.LOOKED_EARLY, trial, why=text)
    return note


def seen_since(trial: Trial, notes: Sequence[Note], today: date) -> tuple[Note, int] | None:
    """The first root seen since anyone last looked, and today as days after sticking where all arms may be looked at now; else None.

    None where a check is planned within a few days anyway, or the end has come.
    """
    looked = max((check.day for check in trial.checks if check.day is not None), default=None)
    seen = [note for note in notes if note.sighting and (looked is None or note.day > looked)]
    if not seen or trial.day_zero is None:
        return None
    das = (today - trial.day_zero.middle).days
    planned = [*trial.plan.schedule.check_days, trial.plan.question.endpoint_day]
    if (
        das < 1
        or das >= trial.plan.question.endpoint_day
        or any(0 <= day - das <= CHECK_WINDOW_DAYS for day in planned)
    ):
        return None
    return min(seen, key=lambda note: note.day), das


def names_of(trial: Trial) -> list[str]:
    """Names of the arms and of the levels asked for."""
    treatments = trial.plan.treatments
    return [
        *(treatments.name(arm) for arm in treatments.arms),
        *(level.name for aspect in treatments.asked for level in aspect.levels),
    ]


def notes_of(session: Session, trial: Trial) -> list[Note]:
    """Every note, by its day."""
    query = select(Note).where(Note.trial_id == trial.id).order_by(Note.day, Note.id)
    return list(session.scalars(query.options(joinedload(Note.person), joinedload(Note.unit))))


def shown_to(notes: Sequence[Note], person: Person, hidden: bool) -> list[Note]:
    """Notes that a person may read: while arms are hidden the own ones, for others may tell them."""
    return [note for note in notes if not hidden or note.person_id == person.id]
