"""Results kept by the digest of what they were computed from: recomputed when data or plan changed, never shown stale."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable
from threading import Lock
from typing import Any, TypeVar

from orderly_bench.core.messages.translation import language

T = TypeVar("T")
MOST_KEPT = 128
_kept: OrderedDict[str, Any] = OrderedDict()
_lock = Lock()


def digest_of(*parts: object) -> str:
    """SHA-256 of the parts' representations."""
    return hashlib.sha256(repr(parts).encode()).hexdigest()


def remembered(key: str, compute: Callable[[], T]) -> T:
    """The result kept under ``key``, computed when there is none; in each language its own, for results hold sentences."""
    key = f"{language().code} {key}"
    with _lock:
        if key in _kept:
            _kept.move_to_end(key)
            found: T = _kept[key]
            return found
    made = compute()
    with _lock:
        _kept[key] = made
        while len(_kept) > MOST_KEPT:
            _kept.popitem(last=False)
    return made
