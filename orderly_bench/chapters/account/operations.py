"""Passwords, one-time links for a new one, and the second factor."""

from __future__ import annotations

import secrets
from datetime import datetime, timedelta

import pyotp
from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.chapters.account import sessions
from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.words import tell
from orderly_bench.trial.audit import record
from orderly_bench.trial.models import Person, ResetLink

SHORTEST, LONGEST = 10, 200
#: Of zxcvbn's scale of 0 to 4: below it a password falls to a list of common ones and their usual twists.
LEAST_SCORE = 2
LINK_HOLDS = timedelta(hours=24)
STEP_SECONDS = 30
hasher = PasswordHasher()


def check_password(password: str, *about: str) -> None:
    """Long enough, no common one, and none made of what is known of the person.

    Raises
    ------
    InvalidInput
        Says which; the password itself is never in the message.
    """
    from zxcvbn import zxcvbn

    if not SHORTEST <= len(password) <= LONGEST:
        raise InvalidInput(
            "password", tell("use {shortest} to {longest} characters", shortest=SHORTEST, longest=LONGEST)
        )
    if not password.isprintable():
        raise InvalidInput("password", tell("use characters that can be typed"))
    if zxcvbn(password[:72], user_inputs=[word for word in about if word])["score"] < LEAST_SCORE:
        raise InvalidInput(
            "password",
            tell("is a common one, or easily guessed from a common one; three or four unrelated words are good"),
        )


def fits(person: Person, password: str) -> bool:
    """Whether it is the person's password."""
    try:
        return hasher.verify(person.password_hash, password[:LONGEST])
    except (VerificationError, InvalidHashError):
        return False


def confirm(person: Person, password: str) -> None:
    """Raise unless the password is the person's own: asked again before what can't be undone."""
    if not password or not fits(person, password):
        raise InvalidInput("your password", tell("does not fit; it is asked again before people are changed"))


def change_password(
    session: Session, person: Person, now: datetime, old: str, new: str, keep: int | None = None
) -> None:
    """Change one's own password; all other sessions end."""
    if not fits(person, old):
        raise InvalidInput("present password", tell("does not fit; a lead can give you a link for a new one"))
    _set(session, person, now, new)
    sessions.end_all(session, person, now, but=keep)
    record(session, person, now, "changed the own password")


def _set(session: Session, person: Person, now: datetime, new: str) -> None:
    check_password(new, person.name, person.sign_in_name)
    person.password_hash = hasher.hash(new)
    session.flush()


def make_link(session: Session, actor: Person, person: Person, now: datetime) -> str:
    """The key of a link by which a person sets a new password, once, within a day."""
    if not person.active:
        raise Refused(tell("{name}'s account is closed. Open it first.", name=person.name))
    key = secrets.token_urlsafe(32)
    session.add(
        ResetLink(person_id=person.id, key_digest=sessions.digest_of(key), made_by_id=actor.id, until=now + LINK_HOLDS)
    )
    session.flush()
    record(session, actor, now, "gave a link for a new password", new={"who": person.sign_in_name})
    return key


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
    record(session, link.person, now, "set a new password by a link")


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
    record(session, person, now, "turned the second factor on")


def turn_off(session: Session, person: Person, now: datetime, password: str) -> None:
    """Sign in with the password alone again."""
    confirm(person, password)
    person.totp_secret = person.totp_step = None
    session.flush()
    record(session, person, now, "turned the second factor off")


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
