"""The digest that freezes a plan: any change to a locked plan shows."""

from __future__ import annotations

import hashlib
import json


def digest(plan: dict[str, object]) -> str:
    """SHA-256 of the plan as canonical JSON (keys sorted, no blanks), as 64 hexadecimal characters."""
    text = json.dumps(plan, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()
