"""Who may do what. One mechanism: every route names its act, every operation that hides arms asks here."""

from __future__ import annotations

from enum import StrEnum

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.stick.tally import Status
from orderly_bench.trial.models import Cutting, InterimLook, Person, Trial


class Role(StrEnum):
    """One role each, for the whole lab."""

    LEAD = "lead"
    RESEARCHER = "researcher"
    SCORER = "scorer"
    READER = "reader"


class Act(StrEnum):
    """What a route does, in words that a refusal can use."""

    ANYONE = "open this page"
    READ = "read trials"
    PLAN = "plan a trial"
    STICK = "stick cuttings"
    TEND = "tend a trial"
    SCORE = "score cuttings"
    RUN_CHECK = "open or close a check"
    LOOK_EARLY = "compare arms before the endpoint"
    CONCLUDE = "conclude a trial"
    PEOPLE = "manage people"
    LAB = "change the lab's settings"


BENCH_ACTS = {Act.READ, Act.STICK, Act.TEND, Act.SCORE}
ROLE_ACTS: dict[Role, set[Act]] = {
    Role.LEAD: set(Act),
    Role.RESEARCHER: set(Act) - {Act.PEOPLE, Act.LAB},
    Role.SCORER: BENCH_ACTS,
    Role.READER: {Act.READ},
}


class NotAllowed(Exception):
    """The person's role may not do this."""

    def __init__(self, act: Act, role: str) -> None:
        super().__init__(f"A {role} may not {act.value}. Ask a lead or a researcher of your lab.")


def may(person: Person, act: Act) -> bool:
    """Whether a person's role covers an act."""
    return act is Act.ANYONE or act in ROLE_ACTS[Role(person.role)]


def require(person: Person, act: Act) -> None:
    """Raise NotAllowed unless the person may."""
    if not may(person, act):
        raise NotAllowed(act, person.role)


def endpoint_closed(session: Session, trial: Trial) -> bool:
    """Whether the endpoint check is closed in every wave and for every lot that holds cuttings of the trial.

    Replacements of early losses are followed beside it and hold nothing up.
    """
    visits = [check for check in trial.checks if check.is_endpoint]
    if not any(check.closed_at for check in visits):
        return False
    query = select(Cutting.lot_id).where(
        Cutting.trial_id == trial.id, Cutting.status == Status.STUCK.value, Cutting.replaces_id.is_(None)
    )
    used = set(session.scalars(query.distinct()))
    counted = [check for check in visits if check.lot_id in used]
    closed = all(check.closed_at is not None for check in counted)
    return closed and {check.lot.wave_id for check in counted} == {wave.id for wave in trial.waves}


def blind_phase(session: Session, trial: Trial) -> bool:
    """From the first check opened until the endpoint check closes, when the plan says blind."""
    if not trial.plan.question.blind or not any(check.opened_at for check in trial.checks):
        return False
    return not endpoint_closed(session, trial)


def is_revealed(trial: Trial, person: Person) -> bool:
    """Whether a recorded reveal made this person *not blind*."""
    return any(reveal.person_id == person.id for reveal in trial.reveals)


def arms_hidden(session: Session, trial: Trial, person: Person) -> bool:
    """Whether this person sees codes only, wherever they look."""
    return person.role == Role.SCORER and not is_revealed(trial, person) and blind_phase(session, trial)


def scores_blind(session: Session, trial: Trial, person: Person) -> bool:
    """Whether a score by this person counts as blind; researchers and leads never do."""
    return trial.plan.question.blind and person.role == Role.SCORER and not is_revealed(trial, person)


def results_by_arm(session: Session, trial: Trial, person: Person) -> bool:
    """Whether results may be shown by arm: after the endpoint closed, or after this person's interim look."""
    if endpoint_closed(session, trial):
        return True
    look = select(InterimLook.id).where(InterimLook.trial_id == trial.id, InterimLook.person_id == person.id).limit(1)
    return session.scalar(look) is not None
