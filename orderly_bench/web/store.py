"""The request's database session. The request owns the transaction; operations only flush."""

from __future__ import annotations

from datetime import date, datetime
from zoneinfo import ZoneInfo

from flask import Flask, current_app, g
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from orderly_bench.trial.models import Lab


def init_store(app: Flask, engine: Engine) -> None:
    """Give the application its engine and close each request's session."""
    app.extensions["engine"] = engine
    app.teardown_appcontext(_close)


def db() -> Session:
    """The session of this request."""
    if "db" not in g:
        g.db = Session(
            current_app.extensions["engine"], expire_on_commit=False, join_transaction_mode="create_savepoint"
        )
    session: Session = g.db
    return session


def _close(_error: BaseException | None) -> None:
    session = g.pop("db", None)
    if session is not None:
        session.close()


def lab() -> Lab:
    """The lab of this installation."""
    if "lab" not in g:
        g.lab = db().scalars(select(Lab)).one()
    found: Lab = g.lab
    return found


def now() -> datetime:
    """The present moment, from the application's clock."""
    moment: datetime = current_app.config["CLOCK"]()
    return moment


def today() -> date:
    """The date in the lab's time zone."""
    return now().astimezone(ZoneInfo(lab().time_zone)).date()
