"""Passwords, one-time links for a new one, and the second factor."""

from __future__ import annotations

import secrets
from datetime import datetime

import pyotp
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.words import tell
from orderly_bench.trial import sessions
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Person, ResetLink
from orderly_bench.trial.people import check_password, confirm, fits, hasher

STEP_SECONDS = 30


def change_password(
    session: Session, person: Person, now: datetime, old: str, new: str, keep: int | None = None
) -> None:
    """Change one's own password; all other sessions end."""
    if not fits(person, old):
        raise InvalidInput("present password", tell("does not fit; a lead can give you a link for a new one"))
    _set(session, person, now, new)
    sessions.end_all(session, person, now, but=keep)
    record(session, person, now, Action.CHANGED_THE_OWN_PASSWORD)


def _set(session: Session, person: Person, now: datetime, new: str) -> None:
    check_password(new, person.name, person.sign_in_name)
    person.password_hash = hasher.hash(new)
    session.flush()


def link_of(session: Session, key: str, now: datetime) -> ResetLink:
    """The link of a key, unused and in time."""
    query = select(ResetLink).where(ResetLink.key_digest == sessions.digest_of(key)).with_for_update()
    found = session.scalars(query).first()
    if found is None or found.used_at is not None or found.until < now or not found.person.active:
        raise Refused(tell("This link is used, too old, or none of ours. Ask a lead for a new one."))
    return found


def use_link(session: Session, key: str, now: datetime, new: str) -> None:
    """Set a new password by a link; all sessions end, and a lost second factor goes with them."""
    link = link_of(session, key, now)
    _set(session, link.person, now, new)
    link.used_at = now
    link.person.totp_secret = link.person.totp_step = None
    sessions.end_all(session, link.person, now)
    record(session, link.person, now, Action.SET_A_NEW_PASSWORD_BY_A_LINK)


def new_secret() -> str:
    """A secret for an authenticator."""
    return pyotp.random_base32()


def authenticator_address(person: Person, secret: str, lab: str) -> str:
    """What an authenticator reads from the square."""
    return pyotp.TOTP(secret).provisioning_uri(name=person.sign_in_name, issuer_name=f"Orderly Bench, {lab}")


def turn_on(session: Session, person: Person, now: datetime, secret: str, code: str) -> None:
    """Ask for a second factor from now on, once a code of it was shown."""
    step = _step_of(secret, code, now)
    if step is None:
        raise InvalidInput(
            "code", tell("does not fit; take the six digits shown now, and check the clock of your phone")
        )
    person.totp_secret, person.totp_step = secret, step
    session.flush()
    record(session, person, now, Action.TURNED_THE_SECOND_FACTOR_ON)


def turn_off(session: Session, person: Person, now: datetime, password: str) -> None:
    """Sign in with the password alone again."""
    confirm(person, password)
    person.totp_secret = person.totp_step = None
    session.flush()
    record(session, person, now, Action.TURNED_THE_SECOND_FACTOR_OFF)


def second_fits(session: Session, person: Person, now: datetime, code: str) -> bool:
    """Whether a code is the person's, and newer than the last one used."""
    if person.totp_secret is None:
        return True
    step = _step_of(person.totp_secret, code, now)
    if step is None or (person.totp_step is not None and step <= person.totp_step):
        return False
    person.totp_step = step
    session.flush()
    return True


def _step_of(secret: str, code: str, now: datetime) -> int | None:
    """The half minute a code belongs to: this one, or one to either side."""
    digits = "".join(code.split())
    if len(digits) != 6 or not digits.isascii() or not digits.isdigit():
        return None
    totp, here = pyotp.TOTP(secret), int(now.timestamp()) // STEP_SECONDS
    return next((s for s in (here, here - 1, here + 1) if secrets.compare_digest(totp.generate_otp(s), digits)), None)
