"""Who is signed in where. A session lives on the server: it ends when it is told to, after 12 idle hours, or after 7 days."""

from __future__ import annotations

import hashlib
import secrets
from datetime import datetime, timedelta

from sqlalchemy import bindparam, delete, select, update
from sqlalchemy.orm import Session, joinedload

from orderly_bench.trial.models import Person, SignedIn

#: Under this name the browser's signed cookie holds the key of its session.
KEY = "key"
IDLE = timedelta(hours=12)
LONGEST = timedelta(days=7)
#: A session's last sight is written at most this often.
SEEN_EVERY = timedelta(minutes=5)
#: Built once: every request asks it.
_OF_KEY = select(SignedIn).where(SignedIn.key_digest == bindparam("digest")).options(joinedload(SignedIn.person))


def digest_of(key: str) -> str:
    """What is kept of a key."""
    return hashlib.sha256(key.encode()).hexdigest()


def begin(session: Session, person: Person, now: datetime, address: str = "", device: str = "") -> str:
    """Sign a person in; the key for the browser."""
    key = secrets.token_urlsafe(32)
    session.add(
        SignedIn(
            person_id=person.id,
            key_digest=digest_of(key),
            since=now,
            seen_at=now,
            address=address[:45],
            device=device[:160],
        )
    )
    session.flush()
    return key


def standing(session: Session, key: str, now: datetime) -> SignedIn | None:
    """The session of a key, where it still stands and its person may use the account."""
    if not key:
        return None
    found = session.scalars(_OF_KEY, {"digest": digest_of(key)}).first()
    if found is None or found.ended_at is not None or not found.person.active:
        return None
    if now - found.seen_at > IDLE or now - found.since > LONGEST:
        return None
    if now - found.seen_at > SEEN_EVERY:
        found.seen_at = now
    return found


def of(session: Session, person: Person, now: datetime) -> list[SignedIn]:
    """A person's standing sessions, newest first."""
    query = select(SignedIn).where(
        SignedIn.person_id == person.id,
        SignedIn.ended_at.is_(None),
        SignedIn.seen_at >= now - IDLE,
        SignedIn.since >= now - LONGEST,
    )
    return list(session.scalars(query.order_by(SignedIn.seen_at.desc())))


def end(session: Session, person: Person, number: int, now: datetime) -> None:
    """End one of a person's own sessions."""
    own = (SignedIn.id == number, SignedIn.person_id == person.id, SignedIn.ended_at.is_(None))
    session.execute(update(SignedIn).where(*own).values(ended_at=now))


def end_all(session: Session, person: Person, now: datetime, but: int | None = None) -> None:
    """End all of a person's sessions, all but one where that is asked."""
    query = update(SignedIn).where(SignedIn.person_id == person.id, SignedIn.ended_at.is_(None))
    if but is not None:
        query = query.where(SignedIn.id != but)
    session.execute(query.values(ended_at=now))


def forget(session: Session, person: Person) -> None:
    """Leave nothing of where a person was signed in."""
    session.execute(delete(SignedIn).where(SignedIn.person_id == person.id))
