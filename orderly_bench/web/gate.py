"""How many requests are worked on at once.

Python works on one at a time; eight that take turns every moment cost each other half as much again. So a few go on and the others
wait in the order they came, but not behind a page that takes long.
"""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable, Iterable
from typing import Any

#: Requests worked on at once: one that computes while two wait for the database.
AT_ONCE = 3
#: Who waited this long goes on beside the others.
PATIENCE_SECONDS = 0.25
#: In the environment of a request that is run once more: its answer is nobody's.
AGAIN = "orderly_bench.again"
Answer = Iterable[bytes]
Wsgi = Callable[[dict[str, Any], Callable[..., Any]], Answer]


class Places:
    """A number of places, given to who waits in the order they came: one that comes just then passes none by."""

    def __init__(self, number: int) -> None:
        self._free, self._lock = number, threading.Lock()
        self._waiting: deque[threading.Event] = deque()

    @property
    def waiting(self) -> int:
        """How many wait."""
        return len(self._waiting)

    def take(self, patience: float) -> bool:
        """Whether there was a place within ``patience`` seconds."""
        with self._lock:
            if self._free and not self._waiting:
                self._free -= 1
                return True
            called = threading.Event()
            self._waiting.append(called)
        if called.wait(patience):
            return True
        with self._lock:
            if called.is_set():  # it was called at the last moment
                return True
            self._waiting.remove(called)
            return False

    def give_back(self) -> None:
        """Call who waited longest, if anybody waits."""
        with self._lock:
            if self._waiting:
                self._waiting.popleft().set()
            else:
                self._free += 1


def few_at_once(application: Wsgi, places: Places, patience: float = PATIENCE_SECONDS) -> Wsgi:
    """The application, with as many requests worked on as there are places while others wait up to ``patience`` seconds."""

    def gated(environ: dict[str, Any], start_response: Callable[..., Any]) -> Answer:
        taken = places.take(patience)
        try:
            return application(environ, start_response)
        finally:
            if taken:
                places.give_back()

    return gated
