"""The audit trail, written as data."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from orderly_bench.trial.models import AuditEntry, Person, Trial


def record(
    session: Session,
    actor: Person | None,
    now: datetime,
    action: str,
    trial: Trial | None = None,
    *,
    old: dict[str, Any] | None = None,
    new: dict[str, Any] | None = None,
    why: str = "",
) -> None:
    """Add an entry: who, when, what, old, new, why."""
    session.add(
        AuditEntry(
            at=now,
            person_id=actor.id if actor else None,
            trial_id=trial.id if trial else None,
            action=action,
            old=old,
            new=new,
            why=why[:500],
        )
    )


def changes(before: dict[str, Any], after: dict[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """The parts of two states that differ."""
    differing = [key for key in after if before.get(key) != after[key]]
    return {key: before.get(key) for key in differing}, {key: after[key] for key in differing}
