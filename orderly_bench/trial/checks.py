"""Checks of a trial, planned and visited."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.errors import Refused
from orderly_bench.core.messages.words import tell
from orderly_bench.trial.models import CheckVisit, PlannedCheck, Trial


def checks_of(session: Session, trial: Trial) -> list[CheckVisit]:
    """Checks of every lot, lot by lot, in order of their planned day; none before a lot is stuck."""
    return sorted(trial.checks, key=lambda check: (check.lot.wave_id, check.lot.number, check.planned_das))


def planned_checks_of(session: Session, trial: Trial) -> list[PlannedCheck]:
    """Checks as planned, wave by wave."""
    query = select(PlannedCheck).where(PlannedCheck.trial_id == trial.id)
    return list(session.scalars(query.order_by(PlannedCheck.wave_id, PlannedCheck.planned_das)))


def refuse_unless_stuck(trial: Trial) -> None:
    """Nothing can be compared before something was stuck."""
    if trial.locked_at is None:
        raise Refused(tell("The plan is not locked, so it has no endpoint check yet. Lock it on the Design page."))
    if not trial.lots:
        raise Refused(
            tell("Nothing is stuck yet, so there is nothing to compare. Set the sticking day on the Stick page.")
        )
