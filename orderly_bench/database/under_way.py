"""A change of the whole database that is under way, on record in it, so that one that was broken off is known and undone.

MariaDB keeps each change of a table at once: a migration that is killed half-way can be neither gone on with nor run again. Before one
begins it is noted where the lab as it was is kept; who starts next puts that back and begins anew.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from sqlalchemy import Column, Engine, Integer, MetaData, String, Table, insert, inspect, select

TABLE = "change_under_way"
_note = Table(TABLE, MetaData(), Column("id", Integer, primary_key=True), Column("kept", String(1000)))


@dataclass(frozen=True)
class BrokenOff:
    """A change that was begun and not ended; ``kept`` is the file of the lab as it was, blank where nothing was there.

    ``kept`` is None where there was a lab and it was not kept.
    """

    kept: str | None


def broken_off(engine: Engine) -> BrokenOff | None:
    """The change that an earlier run did not end; None where all ended."""
    if not inspect(engine).has_table(TABLE):
        return None
    with engine.connect() as connection:
        row = connection.execute(select(_note.c.kept)).one_or_none()
    return None if row is None else BrokenOff(row.kept)


@contextmanager
def under_way(engine: Engine, kept: str | None) -> Iterator[None]:
    """Around a change; the note goes when the change went through, and stays where it did not."""
    with engine.begin() as connection:
        _note.create(connection, checkfirst=True)
        connection.execute(_note.delete())
        connection.execute(insert(_note).values(id=1, kept=kept))
    yield
    ended(engine)


def ended(engine: Engine) -> None:
    """The change is done with."""
    with engine.begin() as connection:
        _note.drop(connection, checkfirst=True)
