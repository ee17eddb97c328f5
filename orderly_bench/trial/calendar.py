"""The secret address of a person's own calendar: shown once, kept as its digest, withdrawn at any time."""

from __future__ import annotations

import secrets
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.errors import NotFound
from orderly_bench.trial.models import Person
from orderly_bench.trial.sessions import digest_of


def new_address(session: Session, person: Person, now: datetime) -> str:
    """A new secret for the address; the one before opens nothing any more."""
    key = secrets.token_urlsafe(32)
    person.calendar_digest = digest_of(key)
    session.flush()
    record(session, person, now, Action.MADE_A_CALENDAR_ADDRESS)
    return key


def withdraw_address(session: Session, person: Person, now: datetime) -> None:
    """No address opens the calendar any more."""
    if person.calendar_digest is not None:
        person.calendar_digest = None
        session.flush()
        record(session, person, now, Action.WITHDREW_A_CALENDAR_ADDRESS)


def person_of(session: Session, key: str) -> Person:
    """Whose calendar an address opens.

    Raises
    ------
    NotFound
        Nobody's, or that of an account that is closed.
    """
    found = session.scalar(select(Person).where(Person.calendar_digest == digest_of(key), Person.active.is_(True)))
    if found is None:
        raise NotFound(_("This address opens no calendar. Make a new one on your account page."))
    return found
