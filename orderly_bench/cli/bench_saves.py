"""How long people wait: saves of a scorer and the Design page, one client, on a lab of the benchmark's own."""

from __future__ import annotations

import time
from dataclasses import replace
from datetime import UTC, datetime
from statistics import median
from tempfile import NamedTemporaryFile

from flask import Flask
from sqlalchemy import MetaData, create_engine, select, text
from sqlalchemy.orm import Session

from orderly_bench.app import create_app
from orderly_bench.chapters.design.operations import draw
from orderly_bench.chapters.question import operations as question
from orderly_bench.chapters.score import operations as score
from orderly_bench.core.plan.aspects import AspectKind
from orderly_bench.core.plan.table import Line, Table, treatments_of
from orderly_bench.core.vocabulary import KnownBy, LayoutKind
from orderly_bench.database.engine import make_engine
from orderly_bench.database.migrate import migrate
from orderly_bench.database.nodes import taken_apart
from orderly_bench.demo.tarn_head import load_large
from orderly_bench.trial import sessions
from orderly_bench.trial.audit import Action
from orderly_bench.trial.checks import checks_of
from orderly_bench.trial.draft import keep
from orderly_bench.trial.models import Person, Trial
from orderly_bench.trial.progress import progress_of
from orderly_bench.trial.sessions import KEY

SAVES, SHARE = 200, 0.95
PAGES = 9


def bulk_load_seconds(url: str, rows: str) -> float:
    """Seconds that the database takes to load the rows of a logger from a file, with an index on their time."""
    engine = create_engine(taken_apart(url)[0], connect_args={"local_infile": True})
    table = "CREATE TEMPORARY TABLE bulk (at DATETIME PRIMARY KEY, air_c DOUBLE, rh DOUBLE, ppfd DOUBLE) ENGINE=InnoDB"
    with NamedTemporaryFile("w", suffix=".csv") as file, engine.begin() as connection:
        file.write(rows)
        file.flush()
        connection.execute(text(table))
        began = time.perf_counter()
        load = text("LOAD DATA LOCAL INFILE :file INTO TABLE bulk FIELDS TERMINATED BY ','")
        loaded = connection.execute(load, {"file": file.name}).rowcount
        seconds = time.perf_counter() - began
    engine.dispose()
    if loaded != rows.count("\n"):
        raise RuntimeError(f"the database loaded {loaded} rows")
    return seconds


def p95_and_design_ms(url: str) -> tuple[float, float]:
    """The 95th percentile of ``SAVES`` saves of a trial of 600 units, and the median of its Design page with 12 arms; milliseconds."""
    base = create_engine(taken_apart(url)[0])
    name = "orderly_saves"
    with base.connect() as connection:
        connection.execute(text(f"CREATE DATABASE IF NOT EXISTS {name} CHARACTER SET utf8mb4"))
    base.dispose()
    engine = make_engine(url.rsplit("/", 1)[0] + "/" + name)
    tables = MetaData()
    tables.reflect(engine)
    tables.drop_all(engine)
    migrate(engine)
    with Session(engine) as session:
        number = load_large(session, datetime.now(UTC))
        session.commit()
    app = create_app(
        {"ENGINE": engine, "DATABASE_URL": "in the engine", "SECRET_KEY": "benchmark", "WTF_CSRF_ENABLED": False, "WARM": False, "WORK": "at once"}
    )  # fmt: skip
    with Session(engine) as session:
        trial = session.get_one(Trial, number)
        check = checks_of(session, trial)[-1]
        actor = session.scalars(select(Person)).one()
        day = datetime.now(UTC).date()
        score.open_check(session, check, actor, datetime.now(UTC), score.Looking(day, KnownBy.LIFTED.value), day)
        spots = progress_of(session, check).spots[:SAVES]
        key = sessions.begin(session, actor, datetime.now(UTC))
        session.commit()
        signed = {KEY: key, "_user_id": str(actor.id), "_fresh": True}
        times = _saves(app, check.id, signed, [(s.cutting, s.tray) for s in spots])
        page = _pages(app, _twelve_arms(session, actor), signed)
    engine.dispose()
    return sorted(times)[int(SHARE * len(times))], page


def _twelve_arms(session: Session, actor: Person) -> int:
    """A drawn trial of 12 arms, 50 single cuttings each, in 5 blocks."""
    now = datetime.now(UTC)
    trial = question.create_trial(session, actor, now, "Lavandula angustifolia")
    media = [medium for medium in ("pumice", "bark", "sand") for _ in range(4)]
    hormones = ["none", "IBA 1000 ppm", "IBA 3000 ppm", "IBA 8000 ppm"] * 3
    lines = (
        Line(AspectKind.MEDIUM, "medium", True, tuple(media)), Line(AspectKind.HORMONE, "hormone", True, tuple(hormones)),
    )  # fmt: skip
    treatments = treatments_of(Table(12, lines), trial.plan.treatments)
    design = replace(trial.plan.design, layout=LayoutKind.COMPLETE_BLOCKS, cuttings_per_arm=50, blocks=5)
    keep(session, trial, actor, now, replace(trial.plan, treatments=treatments, design=design), Action.SAVED_THE_DESIGN)
    draw(session, trial, actor, now, 5)
    session.commit()
    return trial.id


def _pages(app: Flask, trial: int, signed: dict[str, object]) -> float:
    client = app.test_client()
    with client.session_transaction() as cookie:
        cookie.update(signed)
    times = []
    for _ in range(PAGES):
        began = time.perf_counter()
        answer = client.get(f"/trials/{trial}/design")
        times.append(1000 * (time.perf_counter() - began))
        if answer.status_code != 200:
            raise RuntimeError(f"the page was answered with {answer.status_code}")
    return median(times)


def _saves(app: Flask, check: int, signed: dict[str, object], spots: list[tuple[int, int]]) -> list[float]:
    client = app.test_client()
    with client.session_transaction() as cookie:
        cookie.update(signed)
    times = []
    for cutting, tray in spots:
        form = {
            "cutting": cutting,
            "revision": 0,
            "state": "alive",
            "roots": "counted",
            "root_number": "5",
            "tray_shown": tray,
        }
        began = time.perf_counter()
        answer = client.post(f"/checks/{check}/scores", data=form, headers={"HX-Request": "true"})
        times.append(1000 * (time.perf_counter() - began))
        if answer.status_code != 200:
            raise RuntimeError(f"a score was answered with {answer.status_code}")
    return times
