"""A name replaced by a code is gone from the audit trail too, from entries of older versions as well."""

from __future__ import annotations

import json

import pytest
from alembic import command
from sqlalchemy import column, table, text
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from orderly_bench.chapters.people import operations as people
from orderly_bench.database.engine import make_engine
from orderly_bench.database.migrate import config_for, migrate
from orderly_bench.trial.models import AuditEntry
from orderly_bench.trial.people import make_link
from tests.conftest import database_url, emptied
from tests.factories import NOW, create_person

BEFORE = "20261130_0030_supplies"
#: The table as it stood then.
OLD_PERSON = table(
    "person", *map(column, ("id", "name", "sign_in_name", "role", "password_hash", "active", "created_at"))
)


def test_what_is_written_now_names_nobody(session: Session) -> None:
    lead = create_person(session, "lead")
    made = people.add_person(session, lead, NOW, "Ada Wick", "ada.wick", "scorer", "gravel heron lantern moss")
    people.change_person(session, lead, NOW, made, "reader", True)
    make_link(session, lead, made, NOW)
    people.change_person(session, lead, NOW, made, "reader", False)
    people.forget_name(session, lead, NOW, made)
    entries = session.query(AuditEntry).all()
    assert len(entries) == 5
    told = json.dumps([[entry.old, entry.new, entry.why] for entry in entries]).casefold()
    assert "wick" not in told
    assert any((entry.new or {}).get("person") == made.id for entry in entries)


def test_older_entries_are_rewritten_and_stay_shut() -> None:
    engine = emptied(make_engine(database_url("orderly_names")))
    with engine.connect() as connection:
        command.upgrade(config_for(connection), BEFORE)
        connection.commit()
    with Session(engine) as session:
        ada = {
            "name": "Ada Wick",
            "sign_in_name": "ada.wick",
            "role": "lead",
            "password_hash": "none",
            "active": True,
            "created_at": NOW,
        }
        session.execute(OLD_PERSON.insert(), ada)
        number = session.scalar(text("select id from person"))
        for action, old, new in (
            ("added a person", None, {"sign_in_name": "ada.wick", "role": "lead"}), ("changed a person", {"who": "gone.long.ago", "role": "lead"}, {"role": "reader"}),
            ("kept a bench", None, {"bench": "who knows"}),
        ):  # fmt: skip
            session.add(AuditEntry(at=NOW, action=action, old=old, new=new, why=""))
        session.commit()
    migrate(engine)
    with Session(engine) as session:
        kept = {entry.action: (entry.old, entry.new) for entry in session.query(AuditEntry)}
        assert kept["added a person"] == (None, {"person": number, "role": "lead"})
        assert kept["changed a person"] == ({"person": None, "role": "lead"}, {"role": "reader"})
        assert kept["kept a bench"] == (None, {"bench": "who knows"})
        with pytest.raises(OperationalError, match="can not be changed"):
            session.execute(text("update audit_entry set why = 'x'"))
    engine.dispose()
