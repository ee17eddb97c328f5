"""What a person calls a field of the plan."""

from __future__ import annotations

from dataclasses import field
from typing import Any


def said(words: str, default: Any) -> Any:
    """A field that a person calls ``words``."""
    return field(default=default, metadata={"words": words})
