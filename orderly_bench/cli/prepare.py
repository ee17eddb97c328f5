"""``prepare``: bring the database up to date before serving; the demo lab when asked for and empty."""

from __future__ import annotations

import argparse
import os
import sys
import time
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import MetaData, func, select
from sqlalchemy.engine import Engine
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from orderly_bench.cli.keep import back_up, begin_again
from orderly_bench.core.errors import OrderlyError
from orderly_bench.database import archive, leases, one_secret
from orderly_bench.database.engine import make_engine
from orderly_bench.database.migrate import migrate
from orderly_bench.database.under_way import under_way
from orderly_bench.formats.catalogue import read_languages
from orderly_bench.trial.models import Lab
from orderly_bench.trial.people import nobody_yet

PATIENCE_SECONDS = 20
#: One server at a time brings the lab up to date.
LEASE = "migration"
MOST_APART_SECONDS = 5.0


def run(arguments: argparse.Namespace) -> int:
    """Migrate, then make the lab or load the demo lab."""
    url = os.environ.get("ORDERLY_BENCH_DATABASE_URL")
    if not url:
        print("Set ORDERLY_BENCH_DATABASE_URL, or start with ./bench run.", file=sys.stderr)
        return 2
    engine = make_engine(url)
    try:
        read_languages(
            os.environ.get("ORDERLY_BENCH_LANGUAGES", "")
        )  # one that breaks pages is refused before any is served
        _wait(engine)
        leases.make(engine)
        own = leases.Leases(engine)
        if not own.take(LEASE):
            print("Another server brings this lab up to date; waiting for it.", flush=True)
        with own.held(LEASE, wait=True):
            if arguments.fresh:
                if not may_be_emptied(engine):
                    print(
                        "This database holds a lab that is not the demo lab; --fresh will not empty it.",
                        file=sys.stderr,
                    )
                    return 2
                empty(engine)
            _made_ready(engine, arguments)
    except OrderlyError as error:
        print(error, file=sys.stderr)
        return 1
    except OperationalError as error:
        print(
            f"The database does not answer as it should: {error.orig}. Check ORDERLY_BENCH_DATABASE_URL and its rights.",
            file=sys.stderr,
        )
        return 1
    return 0


def _made_ready(engine: Engine, arguments: argparse.Namespace) -> None:
    """Up to date, with a lab in it, and served with one secret by all."""
    _brought_up_to_date(engine)
    if secret := os.environ.get("ORDERLY_BENCH_SECRET"):
        one_secret.same_as_others(engine, secret, arguments.new_secret)
    with Session(engine) as session:
        _fill(session, arguments.mode)
        code = os.environ.get("ORDERLY_BENCH_FIRST_CODE")
        if code and nobody_yet(session):
            print(
                f"\n  The lab has no account yet. The first one is made at its page with this code: {code}",
                flush=True,
            )
        session.commit()
    _clocks(engine)


def _clocks(engine: Engine) -> None:
    """Say so where this machine's clock is not that of the database."""
    with engine.connect() as connection:
        theirs = connection.scalar(select(func.utc_timestamp(6)))
    apart = (datetime.now(UTC).replace(tzinfo=None) - theirs).total_seconds() if theirs else 0.0
    if abs(apart) > MOST_APART_SECONDS:
        print(
            f"This machine's clock is {abs(apart):.0f} s {'ahead of' if apart > 0 else 'behind'} the database's. Let both be set by the network (NTP).",
            flush=True,
        )


def _brought_up_to_date(engine: Engine) -> None:
    """Migrated, from what a start that was broken off left as well; a lab of an older version is kept first, with the way back said."""
    photos = Path(os.environ.get("ORDERLY_BENCH_PHOTOS", "photos"))
    again = begin_again(engine, photos)
    if again:
        print(again, flush=True)
    now = archive.standing_of(engine)
    if now.newest:
        migrate(engine)
        return
    kept: str | None = None if now.lived_in else ""
    folder = os.environ.get("ORDERLY_BENCH_BACKUPS")
    if now.lived_in and folder is not None:
        file = (Path(folder) / f"before-{datetime.now():%Y%m%d-%H%M%S}.zip").resolve()
        print(f"This lab is of an older version. As it is now: {back_up(engine, file, photos)}", flush=True)
        print(f"The way back, with the version it was of: ./bench restore --over {file}", flush=True)
        kept = str(file)
    with under_way(engine, kept):
        migrate(engine)


def _wait(engine: Engine) -> None:
    until = time.monotonic() + PATIENCE_SECONDS
    while True:
        try:
            with engine.connect():
                return
        except OperationalError:
            if time.monotonic() > until:
                raise
            time.sleep(0.1)


def _tables(engine: Engine) -> MetaData:
    found = MetaData()
    found.reflect(engine, only=lambda name, _: name != leases.TABLE)
    return found


def may_be_emptied(engine: Engine) -> bool:
    """Only an empty database or the demo lab."""
    if "lab" not in _tables(engine).tables:
        return True
    with Session(engine) as session:
        return all(session.scalars(select(Lab.is_demo)))  # that column alone: the lab may be of an older version


def empty(engine: Engine) -> None:
    """Drop every table but that of the leases, one of which is held meanwhile."""
    _tables(engine).drop_all(engine)


def _fill(session: Session, mode: str) -> None:
    if session.scalar(select(Lab.id).limit(1)) is not None:
        return
    if mode == "run":
        session.add(Lab(name=os.environ.get("ORDERLY_BENCH_LAB", "Our lab"), time_zone=os.environ.get("TZ") or "UTC"))
        return
    from orderly_bench.demo.tarn_head import load_demo

    print("Loading the demo lab, Tarn Head", flush=True)
    load_demo(session)
