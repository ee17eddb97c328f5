"""A recorded reveal: an arm-specific job shows a scorer the arms, who is *not blind* from then on."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.blindness import has_seen_arms, note_seen
from orderly_bench.trial.models import Person, Reveal, Trial


def reveal(session: Session, trial: Trial, actor: Person, now: datetime, reason: str) -> None:
    """Record a reveal; once is enough."""
    if not reason.strip():
        raise InvalidInput("reason for the reveal", _("say which arm-specific job needs it"))
    if len(reason) > 500:
        raise InvalidInput("reason for the reveal", _("keep it within 500 characters"), f"{len(reason)} characters")
    if has_seen_arms(trial, actor):
        return
    session.add(Reveal(trial_id=trial.id, person_id=actor.id, reason=reason.strip(), at=now))
    note_seen(session, trial, actor, now, "a recorded reveal")
    record(session, actor, now, Action.WAS_SHOWN_THE_ARMS, trial, why=reason)
