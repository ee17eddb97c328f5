"""Which of a person's requests for the same slow thing is the newest: an older one can stop, for nobody waits for it."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from itertools import count

_tickets = count()
_newest: dict[Hashable, int] = {}
_guard = threading.Lock()
#: Beyond so many keys the oldest are forgotten; their requests then run to their end.
MOST_KEYS = 500


def newest_of(key: Hashable) -> Callable[[], bool]:
    """Take a ticket for a key; the answer says whether it is still the newest."""
    with _guard:
        ticket = next(_tickets)
        _newest.pop(key, None)
        _newest[key] = ticket
        while len(_newest) > MOST_KEYS:
            del _newest[next(iter(_newest))]
    return lambda: _newest.get(key, ticket) == ticket
