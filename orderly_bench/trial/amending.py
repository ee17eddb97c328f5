"""A locked plan: its versions, its checks, and the changes that come with a reason."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.plan.amendments import AddCheckDay, Amendment, Care, DropCheckDay, EndpointDay
from orderly_bench.core.plan.difference import difference
from orderly_bench.core.plan.text import digest, to_text
from orderly_bench.core.plan.value import Plan
from orderly_bench.core.tend.schedule import window_of
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.care import plan_care_anew
from orderly_bench.trial.models import CheckVisit, Person, PlannedCheck, PlanVersion, Trial


def add_version(session: Session, trial: Trial, plan: Plan, actor: Person, now: datetime, why: str) -> PlanVersion:
    """Keep a plan as the next version, with its digest; it is put in force once its version stands."""
    text = to_text(plan)
    made = PlanVersion(
        trial_id=trial.id,
        number=len(trial.versions) + 1,
        text=text,
        digest=digest(text),
        at=now,
        person_id=actor.id,
        why=why,
    )
    trial.versions.append(made)
    session.flush()
    return made


def plan_checks(session: Session, trial: Trial, plan: Plan) -> None:
    """The checks of every wave, with their windows."""
    end = plan.question.endpoint_day
    for wave in trial.waves:
        for day in [*plan.schedule.check_days, end]:
            window = window_of(plan.schedule, day, end)
            session.add(
                PlannedCheck(
                    trial_id=trial.id, wave_id=wave.id, planned_das=day, window_days=window, endpoint=1 if day == end else None
                )
            )  # fmt: skip


def amend(session: Session, trial: Trial, actor: Person, now: datetime, change: Amendment, reason: str) -> list[str]:
    """Make the next version of a locked plan. Returns what changed, in words.

    Raises
    ------
    Refused
        Not locked, or a check that the change would move was opened already.
    InvalidInput
        No reason, or what the change itself refuses.
    """
    if trial.locked_at is None:
        raise Refused(_("The plan is not locked yet: change it directly."))
    if not reason.strip() or len(reason) > 500:
        raise InvalidInput("reason of the amendment", _("say why, within 500 characters"))
    before = trial.plan
    after = change.apply(before)
    changed = difference(before, after)
    if not changed:
        raise InvalidInput("amendment", _("changes nothing; the plan says that already"))
    _move_checks(session, trial, change, after)
    if isinstance(change, Care | EndpointDay):
        plan_care_anew(session, trial, after, now.date())
    add_version(session, trial, after, actor, now, reason.strip())
    trial.keep_plan(after)
    record(session, actor, now, Action.AMENDED_THE_PLAN, trial, new={"changed": changed}, why=reason)
    return changed


def _move_checks(session: Session, trial: Trial, change: Amendment, after: Plan) -> None:
    """Bring the planned checks in step with the amended plan; one that was opened stands."""
    if not isinstance(change, EndpointDay | AddCheckDay | DropCheckDay):
        return
    planned, visits = list(trial.planned_checks), list(trial.checks)
    end = after.question.endpoint_day
    gone = [check for check in planned if check.endpoint is None and check.planned_das not in after.schedule.check_days]
    moved = [check for check in planned if check.endpoint is not None and check.planned_das != end]
    opened = {visit.planned_id for visit in visits if visit.opened_at is not None}
    for check in [*gone, *moved]:
        if check.id in opened:
            raise Refused(
                _(
                    "The check of day {planned_das} was opened already and stands as it is.",
                    planned_das=check.planned_das,
                )
            )
    for visit in visits:
        if visit.planned_id in {check.id for check in gone}:
            trial.checks.remove(visit)
    session.flush()
    for check in gone:
        trial.planned_checks.remove(check)
    session.flush()
    for check in moved:
        check.planned_das, check.window_days = end, window_of(after.schedule, end, end)
    session.flush()
    _add_checks(session, trial, after, {(check.wave_id, check.planned_das) for check in planned})


def _add_checks(session: Session, trial: Trial, plan: Plan, there: set[tuple[int, int]]) -> None:
    """Planned checks that are not there yet, with their visits for the lots stuck already."""
    for wave in trial.waves:
        for day in plan.schedule.check_days:
            if (wave.id, day) not in there:
                made = PlannedCheck(wave_id=wave.id, planned_das=day, window_days=window_of(plan.schedule, day, 0))
                trial.planned_checks.append(made)
                session.flush()
                trial.checks.extend(CheckVisit(planned=made, lot=lot) for lot in trial.lots if lot.wave_id == wave.id)
    session.flush()
