"""What became of a thing on the shelf: each time it was kept, with what changed; its earlier recipes are its versions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from sqlalchemy import ColumnElement, inspect, select
from sqlalchemy.orm import Session, joinedload

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.database.base import Base
from orderly_bench.trial.audit import Action, record
from orderly_bench.trial.models import AuditEntry, Person

#: Entries of one kind that are looked through, the newest first.
MOST = 2_000
#: What names a thing in its entries.
THING = "thing"


@dataclass(frozen=True)
class Change:
    """One time it was kept: when, by whom, and what became of what, in words; none where it was new."""

    at: datetime
    person: str
    words: tuple[str, ...]


def as_it_stands(session: Session, kind: type[Base], *where: ColumnElement[bool]) -> dict[str, Any]:
    """Its values by column, as they may be kept in an entry; none where there is no such thing yet."""
    found = session.scalars(select(kind).where(*where)).first()
    return values_of(found) if found is not None else {}


def values_of(thing: Base) -> dict[str, Any]:
    """Every column but its id."""
    mapper = inspect(type(thing))
    found = {column.key: getattr(thing, column.key) for column in mapper.column_attrs if column.key != "id"}
    return {name: value.isoformat() if isinstance(value, date) else value for name, value in found.items()}


def put_down(
    session: Session, actor: Person, now: datetime, what: tuple[Action, str], before: Mapping[str, Any], made: Base
) -> None:
    """An entry for a thing that was kept: under its name, the values that changed, and what they were."""
    action, name = what
    after = values_of(made)
    changed = {column: value for column, value in after.items() if before.get(column) != value}
    old = {column: before.get(column) for column in changed} if before else None
    record(session, actor, now, action, old=old, new={THING: name} | (changed if before else after))


def histories(session: Session, actions: Sequence[Action]) -> dict[str, list[Change]]:
    """Of every thing, by its name in small letters, the times it was kept, the newest first."""
    query = select(AuditEntry).where(AuditEntry.action.in_([action.value for action in actions]))
    entries = session.scalars(query.options(joinedload(AuditEntry.person)).order_by(AuditEntry.id.desc()).limit(MOST))
    found: dict[str, list[Change]] = {}
    for entry in entries:
        name = (entry.new or {}).get(THING)
        if name is None:
            continue
        words = tuple(
            _(
                "{what}: {old}, now {new}",
                what=column.replace("_", " "),
                old=_plain(value),
                new=_plain((entry.new or {}).get(column)),
            )
            for column, value in (entry.old or {}).items()
        )
        person = entry.person.name if entry.person else ""
        found.setdefault(str(name).casefold(), []).append(Change(entry.at, person, words))
    return found


def _plain(value: object) -> str:
    if value in (None, ""):
        return _("not said")
    return f"{value:g}" if isinstance(value, float) else str(value)
