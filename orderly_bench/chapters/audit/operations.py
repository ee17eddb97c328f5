"""The audit trail, filtered."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Any

from sqlalchemy import Select, select
from sqlalchemy.orm import Session, joinedload

from orderly_bench.trial.models import AuditEntry, Person, Trial

PAGE = 200


@dataclass(frozen=True)
class Wanted:
    """Which entries: of one trial or of the lab's people and settings; by person, action, first and last day."""

    trial_id: int | None = None
    person_id: int | None = None
    action: str = ""
    first: date | None = None
    last: date | None = None


def _query(wanted: Wanted) -> Select[AuditEntry]:
    query = select(AuditEntry).options(joinedload(AuditEntry.person)).order_by(AuditEntry.id.desc())
    query = (
        query.where(AuditEntry.trial_id == wanted.trial_id)
        if wanted.trial_id
        else query.where(AuditEntry.trial_id.is_(None))
    )
    if wanted.person_id:
        query = query.where(AuditEntry.person_id == wanted.person_id)
    if wanted.action:
        query = query.where(AuditEntry.action == wanted.action)
    if wanted.first:
        query = query.where(AuditEntry.at >= datetime.combine(wanted.first, time(), UTC))
    if wanted.last:
        query = query.where(AuditEntry.at < datetime.combine(wanted.last + timedelta(days=1), time(), UTC))
    return query


def entries(session: Session, wanted: Wanted, page: int = 0) -> tuple[list[AuditEntry], bool]:
    """A page of entries, newest first, and whether older ones follow."""
    found = list(session.scalars(_query(wanted).offset(PAGE * page).limit(PAGE + 1)))
    return found[:PAGE], len(found) > PAGE


def everything(session: Session, wanted: Wanted) -> list[list[object]]:
    """All of them as rows, oldest first."""
    return [
        [
            entry.id, entry.at.isoformat(), entry.person.name if entry.person else "", entry.action, _json(entry.old), _json(entry.new),
            entry.why,
        ]
        for entry in session.scalars(_query(wanted).order_by(None).order_by(AuditEntry.id))
    ]  # fmt: skip


def _json(value: dict[str, Any] | None) -> str:
    return "" if value is None else json.dumps(value, ensure_ascii=False, sort_keys=True)


def actions(session: Session) -> list[str]:
    """Every action on record."""
    return list(session.scalars(select(AuditEntry.action).distinct().order_by(AuditEntry.action)))


def people(session: Session) -> list[Person]:
    """Everybody, by name."""
    return list(session.scalars(select(Person).order_by(Person.name)))


def trials(session: Session) -> list[Trial]:
    """All trials, newest first."""
    return list(session.scalars(select(Trial).order_by(Trial.id.desc())))
