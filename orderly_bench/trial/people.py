"""People as sign-in needs them: who there is, their passwords, and links to a new one."""

from __future__ import annotations

import re
import secrets
from collections.abc import Iterable
from datetime import datetime, timedelta

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial import sessions
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import Person, ResetLink

SHORTEST, LONGEST = 12, 200
#: Of zxcvbn's scale of 0 to 4: below it a password falls to a list of common ones and their usual twists.
LEAST_SCORE = 3
#: Letters that must be left of a password without known words.
LEAST_LEFT = 5
#: Words of the trade, the first that are tried here.
OF_THE_TRADE = (
    "orderly", "bench", "rooting", "rooted", "cutting", "cuttings", "hormone", "medium", "pumice", "perlite", "compost", "propagation",
    "greenhouse", "nursery", "lavender", "olive", "station",
)  # fmt: skip
LINK_HOLDS = timedelta(hours=24)
hasher = PasswordHasher()
#: Checked when the name is unknown, so that both cases take equally long.
_NOBODY = hasher.hash("nobody signs in with this")


def check_password(password: str, *about: str) -> None:
    """Long enough, no common one, and none made of what is known of the person, the lab or the trade.

    Parameters
    ----------
    about : str
        Names, taken whole and word by word.

    Raises
    ------
    InvalidInput
        Says which; the password itself is never in the message.
    """
    from zxcvbn import zxcvbn

    if not SHORTEST <= len(password) <= LONGEST:
        raise InvalidInput("password", _("use {shortest} to {longest} characters", shortest=SHORTEST, longest=LONGEST))
    if not password.isprintable():
        raise InvalidInput("password", _("use characters that can be typed"))
    known = [word.casefold() for word in (*_known_of(about), *OF_THE_TRADE)]
    if _of_known_words(password, known) or zxcvbn(password[:72], user_inputs=known)["score"] < LEAST_SCORE:
        raise InvalidInput(
            "password",
            _("is a common one, or easily guessed from a common one; three or four unrelated words are good"),
        )


def _known_of(about: Iterable[str]) -> list[str]:
    """Names whole, and their words."""
    words = [word for name in about for word in re.split(r"[^\w]+", name)]
    return [word for word in (*about, *words) if len(word) > 2]


def _of_known_words(password: str, known: Iterable[str]) -> bool:
    """Whether next to nothing is left of a password without the words that everybody here knows."""
    left = password.casefold()
    for word in sorted(known, key=len, reverse=True):
        left = left.replace(word, "")
    return len(left) < len(password) and sum(letter.isalpha() for letter in left) < LEAST_LEFT


def fits(person: Person, password: str) -> bool:
    """Whether it is the person's password."""
    try:
        return hasher.verify(person.password_hash, password[:LONGEST])
    except (VerificationError, InvalidHashError):
        return False


def confirm(person: Person, password: str) -> None:
    """Raise unless the password is the person's own: asked again before what can't be undone."""
    if not password or not fits(person, password):
        raise InvalidInput("your password", _("does not fit; it is asked again before what can't be undone"))


def make_link(session: Session, actor: Person, person: Person, now: datetime) -> str:
    """The key of a link by which a person sets a new password, once, within a day."""
    if not person.active:
        raise Refused(_("{name}'s account is closed. Open it first.", name=person.name))
    key = secrets.token_urlsafe(32)
    session.add(
        ResetLink(person_id=person.id, key_digest=sessions.digest_of(key), made_by_id=actor.id, until=now + LINK_HOLDS)
    )
    session.flush()
    record(session, actor, now, Action.GAVE_A_LINK_FOR_A_NEW_PASSWORD, new={"person": person.id})
    return key


def person_named(session: Session, sign_in_name: str, password: str) -> Person | None:
    """The person, when name and password fit and the account is active. An unknown name takes as long as a known one."""
    person = session.scalar(select(Person).where(Person.sign_in_name == sign_in_name.strip().casefold()[:80]))
    known = fits(person or Person(password_hash=_NOBODY), password)
    return person if known and person and person.active else None


def active_people(session: Session) -> list[Person]:
    """Everyone whose account may be used."""
    return list(session.scalars(select(Person).where(Person.active).order_by(Person.id)))


def nobody_yet(session: Session) -> bool:
    """Whether the lab has no account."""
    return session.scalar(select(Person.id).limit(1)) is None
