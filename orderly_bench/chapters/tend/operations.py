"""Tend: care jobs done with one key, incidents with the units touched."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import dated
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.tend.incidents import IncidentKind
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.care import first_days, title_of
from orderly_bench.trial.errors import Conflict
from orderly_bench.trial.models import Arm, Incident, Job, Person, TreatmentChange, Trial, Unit


def set_done(session: Session, job: Job, actor: Person, now: datetime, done: bool, on: date | None = None) -> None:
    """Mark a care job done, on that day, or take that back. Twice is as once."""
    if (not done and not job.decided) or (done and job.done_at is not None):
        return
    job.done_at, job.done_by_id, job.skipped = (now, actor.id, "") if done else (None, None, "")
    job.done_on = (on or now.date()) if done else None
    new = {"job": job.title, "day": job.due_das} | ({"on": str(job.done_on)} if done else {})
    record(session, actor, now, Action.DID_A_JOB if done else Action.TOOK_A_JOB_BACK, job.trial, new=new)


def leave_out(session: Session, job: Job, actor: Person, now: datetime, why: str) -> None:
    """A care job was not to be done, and why; one that was done stays done."""
    if not 0 < len(why.strip()) <= 200:
        raise InvalidInput("why it is left out", _("say it within 200 characters"))
    if job.decided:
        return
    job.skipped = why.strip()
    record(session, actor, now, Action.LEFT_A_JOB_OUT, job.trial, new={"job": job.title, "day": job.due_das}, why=why)


def enough(session: Session, trial: Trial, actor: Person, now: datetime, title: str, day: date, today: date) -> int:
    """What a kind of care was to go on until was seen on a day: what is due after it is left out, with that reason. How many."""
    jobs = [
        job
        for job in jobs_of(session, trial)
        if job.until and title in (title_of(trial, job), title_of(trial, job, True))
    ]
    if not jobs:
        raise InvalidInput("care", _("choose one that goes on until something is seen"), title)
    if day > today:
        raise InvalidInput("day", _("lies in the future; say what was seen"), dated(day, "%d %b %Y"))
    left = 0
    for job in jobs:
        due = due_day(trial, job)
        if due is not None and due > day and not job.decided:
            leave_out(session, job, actor, now, _("{what} seen {day}", what=job.until, day=dated(day, "%-d %b %Y")))
            left += 1
    session.flush()
    return left


@dataclass(frozen=True)
class Together:
    """Several jobs of one kind at once: those not decided whose window is over; done on their days, today, or left out for a reason."""

    title: str
    how: str
    why: str = ""


#: How several are decided at once.
HOWS = ON_THEIR_DAYS, TODAY, LEFT_OUT = ("on their days", "today", "left out")


def decide_missed(session: Session, trial: Trial, actor: Person, now: datetime, told: Together, today: date) -> int:
    """Decide all jobs of one kind that were missed so far; returns how many."""
    if told.how not in (ON_THEIR_DAYS, TODAY, LEFT_OUT):
        raise InvalidInput(
            "how", _("choose one of: {names}", names=", ".join((ON_THEIR_DAYS, TODAY, LEFT_OUT))), told.how
        )
    missed = [
        job
        for job, _ in missed_jobs(session, trial, today)
        if told.title in (title_of(trial, job), title_of(trial, job, True))
    ]
    for job in missed:
        if told.how == LEFT_OUT:
            leave_out(session, job, actor, now, told.why)
        else:
            due = due_day(trial, job)
            set_done(session, job, actor, now, True, due if told.how == ON_THEIR_DAYS else today)
    session.flush()
    return len(missed)


def due_day(trial: Trial, job: Job) -> date | None:
    """The day a care job is due, from the first lot of its wave; None before that is stuck."""
    zero = first_days(trial).get(job.wave_id)
    return None if zero is None else zero + timedelta(days=job.due_das)


def missed_jobs(session: Session, trial: Trial, today: date) -> list[tuple[Job, date]]:
    """Care jobs that nobody decided and whose window is over, with their day."""
    found = []
    for job in jobs_of(session, trial):
        due = due_day(trial, job)
        if due is not None and not job.decided and today > due + timedelta(days=job.window_days):
            found.append((job, due))
    return found


def _sent_again(known: Incident, sent: tuple[object, ...]) -> Incident:
    """The same request once more gives the same incident; its key under anything else is a conflict."""
    codes = {unit.code for unit in known.units}
    if (known.trial_id, known.person_id, known.kind, known.first_day, known.last_day, known.note, codes) == sent:
        return known
    message = _("This form was sent before, with something else in it. Open the page again and record it.")
    raise Conflict(message, [known.kind, known.note], [str(sent[2]), str(sent[5])])


@dataclass(frozen=True)
class Happened:
    """An incident as it is told. ``codes`` names units; tray and block choices are expanded by the caller."""

    kind: str
    first_day: date
    last_day: date
    codes: list[str]
    note: str = ""


def record_incident(
    session: Session,
    trial: Trial,
    actor: Person,
    now: datetime,
    told: Happened,
    today: date,
    request_key: str | None = None,
) -> Incident:
    """Keep an incident."""
    kind, first_day, last_day, note, codes = told.kind, told.first_day, told.last_day, told.note, told.codes
    known = session.scalar(select(Incident).where(Incident.request_key == request_key)) if request_key else None
    if known is not None:
        sent = (trial.id, actor.id, kind, first_day, last_day, note.strip(), set(codes))
        return _sent_again(known, sent)
    zero = min((lot.day_zero for lot in trial.lots), key=lambda z: z.first, default=None)
    if zero is None:
        raise Refused(_("Nothing is stuck yet, so nothing can have been touched. Set the sticking day first."))
    if kind not in list(IncidentKind):
        raise InvalidInput("kind of incident", _("choose one of: {names}", names=", ".join(IncidentKind)), kind)
    if last_day < first_day:
        raise InvalidInput("last day", _("must not lie before the first day"), dated(last_day, "%d %b %Y"))
    if first_day < zero.first:
        raise InvalidInput(
            "first day",
            _("lies before sticking on {first:%d %b %Y}", first=zero.first),
            dated(first_day, "%d %b %Y"),
        )
    if last_day > today:
        raise InvalidInput("last day", _("lies in the future; record what has happened"), dated(last_day, "%d %b %Y"))
    if len(note) > 500:
        raise InvalidInput("note", _("keep it within 500 characters"), f"{len(note)} characters")
    wanted = set(codes)
    units = [unit for unit in trial.units if unit.code in wanted]
    if not units:
        raise InvalidInput("units touched", _("choose the trays, blocks or cells that were touched"))
    incident = Incident(
        trial_id=trial.id, kind=kind, first_day=first_day, last_day=last_day, note=note.strip(), at=now, person_id=actor.id,
        request_key=request_key, units=units,
    )  # fmt: skip
    session.add(incident)
    session.flush()
    record(session, actor, now, Action.RECORDED_AN_INCIDENT, trial, new={"kind": kind, "units": len(units)})
    return incident


def jobs_of(session: Session, trial: Trial) -> list[Job]:
    """Care jobs in order of their day."""
    return list(session.scalars(select(Job).where(Job.trial_id == trial.id).order_by(Job.due_das)))


def incidents_of(session: Session, trial: Trial) -> list[Incident]:
    """Incidents in order of their first day, with the units touched."""
    query = select(Incident).where(Incident.trial_id == trial.id).order_by(Incident.first_day)
    return list(session.scalars(query.options(selectinload(Incident.units), selectinload(Incident.person))))


@dataclass(frozen=True)
class Given:
    """What a unit was given instead of its arm's treatment, from which day, and why."""

    unit: Unit
    letter: str
    day: date
    reason: str


def record_treatment_change(
    session: Session, trial: Trial, actor: Person, now: datetime, told: Given, today: date
) -> TreatmentChange | None:
    """A unit got another arm's treatment from a day on; its arm as planned stays. The same change twice is kept once.

    Raises
    ------
    InvalidInput
        An arm that is none of the trial's or already the unit's, a day before sticking or in the future, no reason.
    """
    unit, letter, day, reason = told.unit, told.letter, told.day, told.reason
    if trial.day_zero is None or unit.wave.sticking_done_at is None:
        raise Refused(_("Finish sticking first; until then the plan can still be put right at the bench."))
    arm = next((arm for arm in trial.arms if arm.letter == letter), None)
    if arm is None:
        raise InvalidInput(
            "treatment given",
            _("choose one of the arms {names}", names=", ".join(a.letter for a in trial.arms)),
            letter,
        )
    if not trial.day_zero.first <= day <= today:
        raise InvalidInput("day of the change", _("must lie between sticking and today"), dated(day, "%d %b %Y"))
    if not reason.strip() or len(reason) > 300:
        raise InvalidInput("reason of the change", _("say what happened, within 300 characters"))
    given = treatments_given(session, trial).get(unit.id, unit.arm)
    if given is arm:
        if given is unit.arm:
            raise InvalidInput("treatment given", _("unit {code} is in that arm already", code=unit.code), letter)
        return None
    change = TreatmentChange(
        trial_id=trial.id, unit_id=unit.id, arm_id=arm.id, day=day, reason=reason.strip(), at=now, person_id=actor.id
    )
    session.add(change)
    session.flush()
    new = {"code": unit.code, "planned": unit.arm.letter, "given": letter, "day": str(day)}
    record(session, actor, now, Action.RECORDED_ANOTHER_TREATMENT, trial, new=new, why=reason)
    return change


def treatment_changes_of(session: Session, trial: Trial) -> list[TreatmentChange]:
    """Changes of treatment in the order they were recorded."""
    query = select(TreatmentChange).where(TreatmentChange.trial_id == trial.id).order_by(TreatmentChange.id)
    return list(session.scalars(query))


def treatments_given(session: Session, trial: Trial) -> dict[int, Arm]:
    """By unit id, the arm whose treatment a unit last got, where that is not its own."""
    return {change.unit_id: change.arm for change in treatment_changes_of(session, trial)}
