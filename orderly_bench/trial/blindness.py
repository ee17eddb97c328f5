"""What a person may see of arms, and whether their scores count as blind. Every page, file, figure, count and message asks here.

In a trial that is scored blind, scorers see codes and no arms from the first draw until the endpoint check closes. Whoever has seen the
arms is *not blind* in that trial from then on, by record, whatever the role now: after a reveal, an interim look, or as a
researcher, lead or reader earlier.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.errors import Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.stick.tally import Status
from orderly_bench.trial.access import Role
from orderly_bench.trial.models import Cutting, InterimLook, Person, SeenArms, Trial

#: Roles that plan and see everything.
KNOWING = (Role.LEAD, Role.RESEARCHER)


def endpoint_closed(session: Session, trial: Trial) -> bool:
    """Whether the endpoint check is closed in every wave and for every lot that holds cuttings of the trial.

    Replacements of early losses are followed beside it and hold nothing up.
    """
    if not any(check.closed_at for check in trial.checks if check.is_endpoint):
        return False
    query = select(Cutting.lot_id).where(
        Cutting.trial_id == trial.id, Cutting.status == Status.STUCK.value, Cutting.replaces_id.is_(None)
    )
    return closed_for_all(trial, set(session.scalars(query.distinct())))


def closed_for_all(trial: Trial, used: Collection[int | None]) -> bool:
    """Whether the endpoint check is closed in every wave and for every lot in use."""
    counted = [check for check in trial.checks if check.is_endpoint and check.lot_id in used]
    closed = all(check.closed_at is not None for check in counted)
    return closed and {check.lot.wave_id for check in counted} == {wave.id for wave in trial.waves}


def blind_phase(session: Session, trial: Trial) -> bool:
    """From the first draw until the endpoint check closes, when the plan says blind."""
    return trial.plan.question.scored_blind and bool(trial.draws) and not endpoint_closed(session, trial)


def has_seen_arms(trial: Trial, person: Person) -> bool:
    """Whether it is on record that this person saw which unit has which arm."""
    return any(seen.person_id == person.id for seen in trial.seen)


def note_seen(session: Session, trial: Trial, person: Person, now: datetime, how: str) -> None:
    """Put on record that a person saw the arms; once is enough."""
    if not has_seen_arms(trial, person):
        trial.seen.append(SeenArms(person_id=person.id, how=how[:80], at=now))
        session.flush()


def note_earlier_role(session: Session, person: Person, now: datetime, role: str) -> None:
    """Before a role changes: as anything but a scorer a person saw the arms of every trial that is not decided yet."""
    if role == Role.SCORER:
        return
    undecided: Iterable[Trial] = session.scalars(select(Trial).where(Trial.created_at <= now))
    for trial in undecided:
        if not endpoint_closed(session, trial):
            note_seen(session, trial, person, now, f"as {role} earlier")


def arms_hidden(session: Session, trial: Trial, person: Person) -> bool:
    """Whether this person sees codes only, wherever they look; reasons and amendments are hidden with the arms."""
    return person.role == Role.SCORER and not has_seen_arms(trial, person) and blind_phase(session, trial)


def note_served(session: Session, trial: Trial, person: Person, now: datetime) -> None:
    """On record: a scorer is served the arms of a bench that is drawn and not locked, and may be planned blind yet."""
    open_plan = bool(trial.draws) and trial.locked_at is None
    if open_plan and person.role == Role.SCORER and not arms_hidden(session, trial, person):
        note_seen(session, trial, person, now, "the drawn bench before the lock")


def scores_blind(trial: Trial, person: Person) -> bool:
    """Whether a score by this person counts as blind; researchers and leads never do."""
    return trial.plan.question.scored_blind and person.role == Role.SCORER and not has_seen_arms(trial, person)


def earlier_scores_hidden(trial: Trial, person: Person) -> bool:
    """Whether scores may not be read: by a scorer, while a check of the trial is open."""
    return person.role == Role.SCORER and any(check.is_open for check in trial.checks)


def refuse_earlier(trial: Trial, person: Person) -> None:
    """What an earlier check found of single cuttings is not for who scores them now.

    Raises
    ------
    Refused
    """
    if earlier_scores_hidden(trial, person):
        raise Refused(_("Earlier scores are hidden from scorers while a check is open. Come back when it is closed."))


def results_by_arm(session: Session, trial: Trial, person: Person) -> bool:
    """Whether results may be shown by arm: after the endpoint closed, or after this person's interim look."""
    if endpoint_closed(session, trial):
        return True
    look = select(InterimLook.id).where(InterimLook.trial_id == trial.id, InterimLook.person_id == person.id).limit(1)
    return session.scalar(look) is not None
