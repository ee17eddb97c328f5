"""The request's database session. The request owns the transaction; operations only flush."""

from __future__ import annotations

import time
from datetime import date, datetime
from zoneinfo import ZoneInfo

from flask import Flask, current_app, g
from sqlalchemy import Connection, Engine, select
from sqlalchemy.orm import Session

from orderly_bench.trial.models import Lab

#: Where the lab's time zone is remembered between requests.
ZONE = "zone of the lab"
#: Seconds it is believed: another server may have changed it.
ZONE_HOLDS = 60.0


def init_store(app: Flask, engine: Engine) -> None:
    """Give the application its engine and close each request's session."""
    app.extensions["engine"] = engine
    app.teardown_appcontext(_close)


def db() -> Session:
    """The session of this request, on one connection for as long as it lasts: a score is kept in two transactions, and what the
    pool asks of a connection when it is taken and given back is asked once.
    """
    if "db" not in g:
        source: Engine | Connection = current_app.extensions["engine"]
        if isinstance(source, Engine):
            source = g.connection = source.connect()
        g.db = Session(source, expire_on_commit=False, join_transaction_mode="create_savepoint")
    session: Session = g.db
    return session


def commit() -> None:
    """Make what this request did last. From here on a lost answer of the database leaves it unknown whether it does."""
    g.committing = True
    db().commit()


def undo() -> None:
    """Roll back what this request did, where it came as far as the database."""
    if "db" in g:
        db().rollback()


def _close(_error: BaseException | None) -> None:
    for name in ("db", "connection"):
        held = g.pop(name, None)
        if held is not None:
            held.close()


def lab() -> Lab:
    """The lab of this installation."""
    if "lab" not in g:
        g.lab = db().scalars(select(Lab)).one()
        current_app.extensions[ZONE] = g.lab.time_zone, time.monotonic()
    found: Lab = g.lab
    return found


def now() -> datetime:
    """The present moment, from the application's clock."""
    moment: datetime = current_app.config["CLOCK"]()
    return moment


def day_of(moment: datetime) -> date:
    """The date of a moment in the lab's time zone, as the page before this one had it: a score does not ask for it anew."""
    zone, read = current_app.extensions.get(ZONE, ("", 0.0))
    return moment.astimezone(
        ZoneInfo(zone if zone and time.monotonic() - read < ZONE_HOLDS else lab().time_zone)
    ).date()


def today() -> date:
    """The date in the lab's time zone."""
    return now().astimezone(ZoneInfo(lab().time_zone)).date()
