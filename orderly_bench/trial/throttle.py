"""Failed tries to sign in, counted by name and by address for all processes; after five the wait doubles with each."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime, timedelta
from math import ceil

from sqlalchemy import delete, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from orderly_bench.trial.models import Throttle

FREE_TRIES = 5
#: An address is shared by a whole lab.
FREE_TRIES_OF_ADDRESS = 20
LONGEST_WAIT = timedelta(minutes=15)
FORGOTTEN_AFTER = timedelta(hours=1)


def keys_of(name: str, address: str) -> list[str]:
    """What a try counts against."""
    return [f"name {name.strip().casefold()[:80]}", f"from {address[:45]}"]


def wait_for(session: Session, keys: Iterable[str], now: datetime) -> int:
    """Seconds until the next try may be made; 0 when it may be made now."""
    found = session.scalars(select(Throttle).where(Throttle.what.in_(list(keys))))
    return max((_left(one, now) for one in found), default=0)


def _left(one: Throttle, now: datetime) -> int:
    free = FREE_TRIES if one.what.startswith("name ") else FREE_TRIES_OF_ADDRESS
    if one.fails < free or now - one.last_at > FORGOTTEN_AFTER:
        return 0
    wait = min(LONGEST_WAIT, timedelta(seconds=2 ** min(20, one.fails - free + 1)))
    return max(0, ceil((one.last_at + wait - now).total_seconds()))


def failed(session: Session, keys: Iterable[str], now: datetime) -> None:
    """Count a failed try; tries of long ago are forgotten first."""
    session.execute(delete(Throttle).where(Throttle.last_at < now - FORGOTTEN_AFTER))
    for key in keys:
        counted = insert(Throttle).values(what=key, fails=1, last_at=now)
        session.execute(counted.on_duplicate_key_update(fails=Throttle.fails + 1, last_at=now))


def succeeded(session: Session, name: str) -> None:
    """Forget the tries of a name; those from the address stay."""
    session.execute(delete(Throttle).where(Throttle.what == keys_of(name, "")[0]))
