"""What happens at the same moment: a test waits for it to be so, not for a time."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from typing import Any

from sqlalchemy import Engine, text

#: The database tells anew who waits for whom ten times a second.
LOOK_SECONDS, PATIENCE_SECONDS = 0.12, 20.0
WAITING = text(
    "SELECT COUNT(*) FROM information_schema.innodb_trx JOIN information_schema.processlist ON processlist.id = trx_mysql_thread_id "
    "WHERE trx_state = 'LOCK WAIT' AND processlist.db = DATABASE()"
)


def waiting(engine: Engine) -> int:
    """How many wait in this database for what another holds."""
    with engine.connect() as connection:
        return int(connection.execute(WAITING).scalar_one())


def until(so: Callable[[], object]) -> None:
    """Wait until it is so; a test fails where it never is."""
    end = time.monotonic() + PATIENCE_SECONDS
    while not so():
        assert time.monotonic() < end, "it never came to this"
        time.sleep(LOOK_SECONDS)


class Meeting:
    """Acts that are to meet: who is at a point waits there until another is at it too, or waits in the database, or nobody else is left."""

    def __init__(self, engine: Engine) -> None:
        self.engine, self.there, self.left = engine, 0, 0
        self.count = threading.Lock()

    def among(self, act: Callable[[], int]) -> Callable[[], int]:
        """The act, counted while it goes on."""
        self.left += 1

        def counted() -> int:
            try:
                return act()
            finally:
                with self.count:
                    self.left -= 1

        return counted

    def at(self, real: Callable[..., Any]) -> Callable[..., Any]:
        """The function, begun when they met."""

        def met(*args: Any, **named: Any) -> Any:
            with self.count:
                self.there += 1
            try:
                until(lambda: self.there > 1 or self.left < 2 or waiting(self.engine))
                return real(*args, **named)
            finally:
                with self.count:
                    self.there -= 1

        return met
