"""Checks of a trial, planned and visited."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.errors import Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial.load import stuck_cuttings
from orderly_bench.trial.models import CheckVisit, Cutting, PlannedCheck, Trial, Unit


def checks_of(session: Session, trial: Trial) -> list[CheckVisit]:
    """Checks of every lot, lot by lot, in order of their planned day; none before a lot is stuck."""
    return sorted(trial.checks, key=lambda check: (check.lot.wave_id, check.lot.number, check.planned_das))


def planned_checks_of(session: Session, trial: Trial) -> list[PlannedCheck]:
    """Checks as planned, wave by wave."""
    query = select(PlannedCheck).where(PlannedCheck.trial_id == trial.id)
    return list(session.scalars(query.order_by(PlannedCheck.wave_id, PlannedCheck.planned_das)))


def sampled_before(session: Session, check: CheckVisit) -> set[int]:
    """Earlier checks of the same lot for which units were lifted for good."""
    query = (
        select(CheckVisit.id)
        .join(PlannedCheck, CheckVisit.planned_id == PlannedCheck.id)
        .where(
            CheckVisit.lot_id == check.lot_id,
            CheckVisit.sample_of_each.is_not(None),
            PlannedCheck.planned_das < check.planned_das,
        )
    )
    return set(session.scalars(query))


def in_scope(session: Session, check: CheckVisit) -> list[Cutting]:
    """The stuck cuttings of a check's lot that it looks at, in bench order: all that were not lifted for good before, or its own sample."""
    own = [c for c in stuck_cuttings(session, check.trial) if c.lot_id == check.lot_id]
    if check.sample_of_each:
        return [c for c in own if c.unit.sampled_id == check.id]
    before = sampled_before(session, check) if any(c.unit.sampled_id for c in own) else set()
    return [c for c in own if c.unit.sampled_id not in before]


def refuse_out_of_sample(session: Session, check: CheckVisit, unit: Unit) -> None:
    """A check of a sample scores its units alone; what was lifted for good is scored at no later check."""
    if check.sample_of_each and unit.sampled_id != check.id:
        raise Refused(_("{code} is not in the sample drawn for this check; it stays for later ones.", code=unit.code))
    if not check.sample_of_each and unit.sampled_id and unit.sampled_id in sampled_before(session, check):
        raise Refused(_("{code} was lifted for good at an earlier check, so it is in no later count.", code=unit.code))


def refuse_unless_stuck(trial: Trial) -> None:
    """Nothing can be compared before something was stuck."""
    if trial.locked_at is None:
        raise Refused(_("The plan is not locked, so it has no endpoint check yet. Lock it on the Design page."))
    if not trial.lots:
        raise Refused(
            _("Nothing is stuck yet, so there is nothing to compare. Set the sticking day on the Stick page.")
        )
