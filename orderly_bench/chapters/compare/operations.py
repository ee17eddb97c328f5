"""Compare: an interim look, recorded."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.blindness import note_seen
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.models import InterimLook, Person, Trial


def planned_look(session: Session, trial: Trial) -> int | None:
    """The day of the planned look that is due: the newest check that was opened, if the plan names its day and it is closed for all lots."""
    opened = [check for check in checks_of(session, trial) if check.opened_at]
    newest = max((check.planned_das for check in opened), default=None)
    here = [check for check in checks_of(session, trial) if check.planned_das == newest]
    if newest not in trial.plan.question.planned_looks or any(check.closed_at is None for check in here):
        return None
    return newest


def record_interim_look(session: Session, trial: Trial, actor: Person, now: datetime, reason: str) -> None:
    """Keep that someone compares the arms before the endpoint check closed."""
    if not reason.strip():
        raise InvalidInput("reason for looking early", _("say why; it is kept and named in the verdict"))
    if len(reason) > 500:
        raise InvalidInput("reason for looking early", _("keep it within 500 characters"), f"{len(reason)} characters")
    session.add(
        InterimLook(
            trial_id=trial.id, person_id=actor.id, reason=reason.strip(), at=now, of_day=planned_look(session, trial)
        )
    )
    note_seen(session, trial, actor, now, "an interim look")
    session.flush()
    record(session, actor, now, Action.LOOKED_EARLY, trial, why=reason)
