"""Passwords, one-time links for a new one, and the second factor."""

from __future__ import annotations

import secrets
from collections.abc import Collection
from datetime import datetime

import pyotp
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial import sessions
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Lab, Person, ResetLink
from orderly_bench.trial.people import check_password, hasher
from orderly_bench.trial.second_factor import opened, sealed

STEP_SECONDS = 30


def change_password(session: Session, person: Person, now: datetime, new: str, keep: int | None = None) -> None:
    """Change one's own password, after it was asked again; all other sessions end."""
    _set(session, person, new)
    sessions.end_all(session, person, now, but=keep)
    record(session, person, now, Action.CHANGED_THE_OWN_PASSWORD)


def _set(session: Session, person: Person, new: str) -> None:
    check_password(new, person.name, person.sign_in_name, session.scalar(select(Lab.name)) or "")
    person.password_hash = hasher.hash(new)
    session.flush()


def link_of(session: Session, key: str, now: datetime) -> ResetLink:
    """The link of a key, unused and in time."""
    query = select(ResetLink).where(ResetLink.key_digest == sessions.digest_of(key)).with_for_update()
    found = session.scalars(query).first()
    if found is None or found.used_at is not None or found.until < now or not found.person.active:
        raise Refused(_("This link is used, too old, or none of ours. Ask a lead for a new one."))
    return found


def use_link(session: Session, key: str, now: datetime, new: str) -> None:
    """Set a new password by a link; the person's other links and all sessions end, and a lost second factor goes with them."""
    link = link_of(session, key, now)
    _set(session, link.person, new)
    waiting = select(ResetLink).where(ResetLink.person_id == link.person_id, ResetLink.used_at.is_(None))
    for other in session.scalars(waiting.with_for_update()):
        other.used_at = now
    link.person.totp_secret = link.person.totp_step = None
    sessions.end_all(session, link.person, now)
    record(session, link.person, now, Action.SET_A_NEW_PASSWORD_BY_A_LINK)


def read_in(person: Person, code: str, offered: Collection[str]) -> None:
    """Choose the language of pages by its code, blank for that of the browser.

    Raises
    ------
    InvalidInput
        No such language is offered.
    """
    if code and code not in offered:
        raise InvalidInput(_("language"), _("must be one of {offered}", offered=", ".join(offered)), code)
    person.language = code


def new_secret() -> str:
    """A secret for an authenticator."""
    return pyotp.random_base32()


def authenticator_address(person: Person, secret: str, lab: str) -> str:
    """What an authenticator reads from the square."""
    return pyotp.TOTP(secret).provisioning_uri(name=person.sign_in_name, issuer_name=f"Orderly Bench, {lab}")


def turn_on(session: Session, person: Person, now: datetime, secret: str, code: str, own_secret: str) -> None:
    """Ask for a second factor from now on, once a code of it was shown; kept sealed by the installation's ``own_secret``."""
    step = _step_of(secret, code, now)
    if step is None:
        raise InvalidInput("code", _("does not fit; take the six digits shown now, and check the clock of your phone"))
    person.totp_secret, person.totp_step = sealed(secret, own_secret), step
    session.flush()
    record(session, person, now, Action.TURNED_THE_SECOND_FACTOR_ON)


def turn_off(session: Session, person: Person, now: datetime) -> None:
    """Sign in with the password alone again, after it was asked."""
    person.totp_secret = person.totp_step = None
    session.flush()
    record(session, person, now, Action.TURNED_THE_SECOND_FACTOR_OFF)


def second_fits(session: Session, person: Person, now: datetime, code: str, own_secret: str) -> bool:
    """Whether a code is the person's, and newer than the last one used; of several tries at one moment one is first."""
    session.refresh(person, with_for_update=True)
    if person.totp_secret is None:
        return True
    secret = opened(person.totp_secret, own_secret)
    step = _step_of(secret, code, now) if secret is not None else None
    if step is None or (person.totp_step is not None and step <= person.totp_step):
        return False
    person.totp_secret, person.totp_step = sealed(secret or "", own_secret), step
    session.flush()
    return True


def _step_of(secret: str, code: str, now: datetime) -> int | None:
    """The half minute a code belongs to: this one, or one to either side."""
    digits = "".join(code.split())
    if len(digits) != 6 or not digits.isascii() or not digits.isdigit():
        return None
    totp, here = pyotp.TOTP(secret), int(now.timestamp()) // STEP_SECONDS
    return next((s for s in (here, here - 1, here + 1) if secrets.compare_digest(totp.generate_otp(s), digits)), None)
