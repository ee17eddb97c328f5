"""People: accounts, passwords, roles."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial import sessions
from orderly_bench.trial.access import Role
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.blindness import note_earlier_role
from orderly_bench.trial.models import CheckVisit, Conclusion, Lab, Person, Trial
from orderly_bench.trial.people import check_password, hasher
from orderly_bench.trial.turns import take_lab


def add_person(
    session: Session, actor: Person | None, now: datetime, name: str, sign_in_name: str, role: str, password: str
) -> Person:
    """A new account; ``actor`` None only for the first one of a lab, which must be a lead."""
    name, sign_in_name = name.strip(), sign_in_name.strip().casefold()
    if not name or len(name) > 80:
        raise InvalidInput("name", _("give 1 to 80 characters"), f"{len(name)} characters")
    if not sign_in_name or len(sign_in_name) > 80 or " " in sign_in_name:
        raise InvalidInput("sign-in name", _("give 1 to 80 characters without blanks"), sign_in_name)
    if role not in list(Role):
        raise InvalidInput("role", _("choose one of: {names}", names=", ".join(Role)), role)
    check_password(password, name, sign_in_name, session.scalar(select(Lab.name)) or "")
    take_lab(session)
    if session.scalar(select(Person.id).where(Person.sign_in_name == sign_in_name)):
        raise InvalidInput("sign-in name", _("is taken; choose another"), sign_in_name)
    person = Person(
        name=name, sign_in_name=sign_in_name, role=role, password_hash=hasher.hash(password), created_at=now
    )
    session.add(person)
    session.flush()
    record(session, actor, now, Action.ADDED_A_PERSON, new={"person": person.id, "role": role})
    return person


def change_person(session: Session, actor: Person, now: datetime, person: Person, role: str, active: bool) -> None:
    """Change role or whether the account may be used, which ends the person's sessions; the last active lead stays one."""
    if role not in list(Role):
        raise InvalidInput("role", _("choose one of: {names}", names=", ".join(Role)), role)
    query = select(func.count(Person.id)).where(Person.role == Role.LEAD, Person.active, Person.id != person.id)
    others = session.scalar(query) or 0
    if person.role == Role.LEAD and others == 0 and (role != Role.LEAD or not active):
        raise Refused(
            _(
                "{name} is the only lead. Make someone else lead first, or nobody could manage people.",
                name=person.name,
            )
        )
    old = {"role": person.role, "active": person.active}
    if role != person.role:
        note_earlier_role(session, person, now, person.role)
    person.role, person.active = role, active
    session.flush()
    if old != {"role": role, "active": active}:
        sessions.end_all(session, person, now)
    record(
        session,
        actor,
        now,
        Action.CHANGED_A_PERSON,
        old={"person": person.id, **old},
        new={"role": role, "active": active},
    )


def hand_over(session: Session, actor: Person, now: datetime, leaving: Person, to: Person) -> list[str]:
    """What a leaving person began and did not conclude, and the checks they have open, go to another; codes of the trials.

    The account is closed.
    """
    if to.id == leaving.id or not to.active or to.role not in (Role.LEAD, Role.RESEARCHER):
        raise InvalidInput("to whom", _("choose a lead or researcher whose account is open"), to.name)
    concluded = select(Conclusion.trial_id)
    own = select(Trial).where(Trial.created_by_id == leaving.id, Trial.id.not_in(concluded)).order_by(Trial.id)
    trials = list(session.scalars(own))
    for trial in trials:
        trial.created_by_id = to.id
        record(
            session, actor, now, Action.HANDED_A_TRIAL_OVER, trial, old={"person": leaving.id}, new={"person": to.id}
        )  # fmt: skip
    left_open = select(CheckVisit).where(CheckVisit.opened_by_id == leaving.id, CheckVisit.closed_at.is_(None))
    for check in session.scalars(left_open.order_by(CheckVisit.id)):
        check.opened_by_id = to.id
        record(
            session, actor, now, Action.HANDED_AN_OPEN_CHECK_OVER, check.trial, old={"person": leaving.id},
            new={"person": to.id, "day": check.planned.planned_das},
        )  # fmt: skip
    if leaving.active:
        change_person(session, actor, now, leaving, leaving.role, False)
    session.flush()
    return [trial.code for trial in trials]


def forget_name(session: Session, actor: Person, now: datetime, person: Person) -> str:
    """Put a code in place of a name, where the law asks for it; what the person did stays, under the code.

    The account is closed for good: nothing is left that could be signed in with.
    """
    if person.active:
        raise Refused(_("{name}'s account is open. Close it first; hand over what is under way.", name=person.name))
    code = f"Person {person.id}"
    person.name, person.sign_in_name = code, f"person-{person.id}"
    person.password_hash, person.totp_secret, person.totp_step = "none", None, None
    sessions.forget(session, person)
    session.flush()
    record(session, actor, now, Action.PUT_A_CODE_IN_PLACE_OF_A_NAME, new={"person": person.id})
    return code
