"""Compare: an interim look, recorded."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.words import tell
from orderly_bench.trial.audit import record
from orderly_bench.trial.blindness import note_seen
from orderly_bench.trial.models import InterimLook, Person, Trial


def refuse_unless_stuck(trial: Trial) -> None:
    """Nothing can be compared before something was stuck."""
    if trial.locked_at is None:
        raise Refused(tell("The plan is not locked, so it has no endpoint check yet. Lock it on the Design page."))
    if not trial.lots:
        raise Refused(
            tell("Nothing is stuck yet, so there is nothing to compare. Set the sticking day on the Stick page.")
        )


def record_interim_look(session: Session, trial: Trial, actor: Person, now: datetime, reason: str) -> None:
    """Keep that someone compares the arms before the endpoint check closed."""
    if not reason.strip():
        raise InvalidInput("reason for looking early", tell("say why; it is kept and named in the verdict"))
    if len(reason) > 500:
        raise InvalidInput(
            "reason for looking early", tell("keep it within 500 characters"), f"{len(reason)} characters"
        )
    session.add(InterimLook(trial_id=trial.id, person_id=actor.id, reason=reason.strip(), at=now))
    note_seen(session, trial, actor, now, "an interim look")
    session.flush()
    record(session, actor, now, "looked early", trial, why=reason)
