"""A plan that is not locked yet: who may change it, and what is put in its place."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.core.errors import Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.difference import difference
from orderly_bench.core.plan.value import Plan
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.errors import Conflict
from orderly_bench.trial.models import Arm, Person, Trial


def refuse_when_locked(trial: Trial) -> None:
    """The plan can't change once locked."""
    if trial.locked_at is not None:
        raise Refused(
            _(
                "The plan was locked on {locked_at:%-d %B %Y} and can't be changed. Record an amendment with its reason on the Design page instead.",
                locked_at=trial.locked_at,
            )
        )


def refuse_when_stale(trial: Trial, version: int, yours: list[str]) -> None:
    """Refuse to write over a plan that changed since the form was opened."""
    if version != trial.version:
        plan = trial.plan
        theirs = [
            f"{trial.taxon}: {plan.question.sentence or 'no question yet'}",
            _(
                "endpoint day {endpoint_day}, {cuttings_per_arm} per arm, {layout}",
                endpoint_day=plan.question.endpoint_day,
                cuttings_per_arm=plan.design.cuttings_per_arm,
                layout=plan.design.layout,
            ),
        ]
        raise Conflict(
            _(
                "Someone else changed this plan while you were typing. Yours is still in the form; compare, then save again."
            ),
            theirs,
            yours,
        )


def keep(session: Session, trial: Trial, actor: Person, now: datetime, plan: Plan, action: Action) -> None:
    """Put a draft in force, its arms as rows, and what changed in the audit trail."""
    changed = difference(trial.plan, plan)
    trial.keep_plan(plan)
    wanted, there = [arm.id for arm in plan.treatments.arms], {arm.letter: arm for arm in trial.arms}
    if wanted != sorted(there):
        trial.arms[:] = [there.get(letter) or Arm(letter=letter) for letter in wanted]
    session.flush()
    if changed:
        record(session, actor, now, action, trial, new={"changed": changed[:60]})


def discard_draw(session: Session, trial: Trial) -> None:
    """Take units and trays of the draw in force away; the draws themselves stay on record."""
    trial.units.clear()
    session.flush()
    trial.trays.clear()
    session.flush()
