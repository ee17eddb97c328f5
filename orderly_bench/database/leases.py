"""Work that one of several servers does at a time: a lease on it stands in the database, and its holder's heart is heard there.

A holder counts a number up every other second. Who wants the same looks at the number: where it has not moved for a while by his own
clock, the holder is gone, and the lease goes to whoever changes the row first; at once where it was a process of the same machine that is
no more. So no clock of another machine is believed, and no lock
is leant on that a cluster does not share: two that write the same row at once are told apart when it is written.
"""

from __future__ import annotations

import contextlib
import os
import secrets
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import Column, Engine, Integer, MetaData, String, Table, delete, insert, select, update
from sqlalchemy.exc import DBAPIError

from orderly_bench.database.base import TABLE as OPTIONS

TABLE = "lease"
BEAT_SECONDS = 2.0
#: A heart not heard for so long has stopped.
SILENT_SECONDS = 10.0
_lease = Table(
    TABLE, MetaData(), Column("what", String(80), primary_key=True), Column("holder", String(60), nullable=False),
    Column("beat", Integer, nullable=False, default=0), **OPTIONS,
)  # fmt: skip


def make(engine: Engine) -> None:
    """The table, where there is none yet; before any migration, for one that migrates holds a lease."""
    _lease.create(engine, checkfirst=True)


def own_name(pid: int = 0) -> str:
    """A name that no other process has, nor this one after a restart; whether it lives can be asked where it runs."""
    return f"{socket.gethostname()[:16].replace(' ', '-')} {_here()} {pid or os.getpid()} {secrets.token_hex(4)}"


def _here() -> str:
    """Where process numbers mean the same: one start of one kernel, and one container on it; a host's name is not enough."""
    with contextlib.suppress(OSError):
        boot = Path("/proc/sys/kernel/random/boot_id").read_text(encoding="ascii")[:8]
        return f"{boot}-{os.stat('/proc/self/ns/pid').st_ino}"
    return "unknown"


def known_dead(holder: str) -> bool:
    """Whether a holder ran here and runs no more; of one elsewhere only its heart tells."""
    words = holder.split()
    if len(words) != 4 or words[1] != _here() or words[1] == "unknown":
        return False
    try:
        os.kill(int(words[2]), 0)
    except ProcessLookupError:
        return True
    except (PermissionError, ValueError):
        return False
    return False


class Leases:
    """The leases of one process."""

    def __init__(self, engine: Engine, holder: str | None = None, silent_seconds: float = SILENT_SECONDS) -> None:
        self.engine, self.holder, self.silent = engine, holder or own_name(), silent_seconds
        self._seen: dict[str, tuple[str, int, float]] = {}

    def take(self, what: str) -> bool:
        """Whether it is ours now: it was free, or its holder's heart has stopped."""
        try:
            with self.engine.begin() as connection:
                row = connection.execute(select(_lease).where(_lease.c.what == what)).one_or_none()
                if row is None:
                    connection.execute(insert(_lease).values(what=what, holder=self.holder, beat=0))
                    return True
                if row.holder == self.holder:
                    return True
                if not self._stopped(what, row.holder, row.beat):
                    return False
                same = (_lease.c.what == what, _lease.c.holder == row.holder, _lease.c.beat == row.beat)
                return connection.execute(update(_lease).where(*same).values(holder=self.holder, beat=0)).rowcount == 1
        except DBAPIError as error:
            if error.connection_invalidated:
                raise
            return False  # another was first

    def _stopped(self, what: str, holder: str, beat: int) -> bool:
        if known_dead(holder):
            return True
        known = self._seen.get(what)
        if known is None or known[:2] != (holder, beat):
            self._seen[what] = (holder, beat, time.monotonic())
            return False
        return time.monotonic() - known[2] >= self.silent

    def beat(self) -> None:
        """Let be heard that we live."""
        mine = _lease.c.holder == self.holder
        with self.engine.begin() as connection:
            connection.execute(update(_lease).where(mine).values(beat=_lease.c.beat + 1))

    def give_back(self, what: str) -> None:
        """Others may have it."""
        self._seen.pop(what, None)
        with self.engine.begin() as connection:
            connection.execute(delete(_lease).where(_lease.c.what == what, _lease.c.holder == self.holder))

    @contextmanager
    def held(self, what: str, wait: bool = False) -> Iterator[bool]:
        """Around the work: whether it is ours; our heart is heard meanwhile. With ``wait`` it is waited for."""
        while not (mine := self.take(what)) and wait:
            time.sleep(BEAT_SECONDS / 4)
        if not mine:
            yield False
            return
        over = threading.Event()
        heart = threading.Thread(target=self._beat_until, args=(over,), daemon=True, name=f"heart of {what}")
        heart.start()
        try:
            yield True
        finally:
            over.set()
            heart.join()
            self.give_back(what)

    def _beat_until(self, over: threading.Event) -> None:
        while not over.wait(BEAT_SECONDS):
            try:
                self.beat()
            except DBAPIError:
                continue  # its node went: the next beat goes to another
