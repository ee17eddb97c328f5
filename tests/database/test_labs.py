"""A lab made by an earlier version comes to the new shape with the same verdicts, digests and pages, and still stands guarded."""

from __future__ import annotations

import gzip
import json
import re
from collections.abc import Iterator
from math import sqrt
from pathlib import Path

import numpy as np
import pytest
from alembic import command
from sqlalchemy import Engine, select, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from orderly_bench.app import create_app
from orderly_bench.core.design.from_plan import draw_plan
from orderly_bench.core.methods.difference import NO_VARIANCE, Difference, stratified_newcombe
from orderly_bench.core.methods.rates import Interval, normal_quantile
from orderly_bench.core.responses import rate_outcomes
from orderly_bench.database.engine import make_engine
from orderly_bench.database.migrate import config_for, migrate
from orderly_bench.record.gather import gather, version_records
from orderly_bench.trial.models import Person, Trial
from orderly_bench.trial.versions import plan_holds
from tests.conftest import database_url, emptied
from tests.factories import NOW, evidence
from tests.web.conftest import client_of

LABS = Path(__file__).parent / "labs"


def load(engine: Engine, name: str) -> None:
    """Run a dump, one statement a line ending in a semicolon."""
    with engine.connect() as connection:
        raw = connection.connection.cursor()
        commit = connection.connection.commit
        raw.execute("SET FOREIGN_KEY_CHECKS = 0")
        for statement in gzip.decompress((LABS / f"{name}.sql.gz").read_bytes()).decode().split(";\n"):
            if statement.strip():
                raw.execute(statement)
        raw.execute("SET FOREIGN_KEY_CHECKS = 1")
        commit()


@pytest.fixture(scope="module")
def engine() -> Iterator[Engine]:
    made = emptied(make_engine(database_url("orderly_labs")))
    load(made, "2026_11_23")
    migrate(made)
    yield made
    made.dispose()


@pytest.fixture(scope="module")
def said() -> dict:
    """What the earlier version said of this lab."""
    return json.loads((LABS / "2026_11_23.json").read_text())


def test_the_migrated_lab_has_the_shape_of_the_models(engine: Engine) -> None:
    with engine.connect() as connection:
        command.check(config_for(connection))
    with engine.connect() as connection, pytest.raises(DBAPIError, match="raw score"):
        connection.execute(text("update score set root_number = 400 where root_number is not null"))


def test_arms_places_and_digests_are_what_they_were(engine: Engine, said: dict) -> None:
    with Session(engine) as session:
        trials = list(session.scalars(select(Trial)))
        assert {trial.code for trial in trials} == set(said)
        for trial in trials:
            was = said[trial.code]
            assert trial.digest == was["digest"]
            assert plan_holds(trial) == was["plan_holds"]
            assert [[arm.letter, arm.name, arm.is_control] for arm in trial.arms] == was["arms"]
            now = [
                [u.code, u.arm.letter, u.group("block"), u.place.tray.number, u.place.row, u.place.column]
                for u in trial.units
            ]
            assert now == was["units"]


def alike(p: float | None, was: float | None) -> bool:
    """But for rounding: sums are taken in another order now."""
    return p is None if was is None else p == pytest.approx(was, rel=1e-12)


def of_that_time(rooted: np.ndarray, stuck: np.ndarray, level: float = 0.95) -> Difference:
    """The blocked difference as the version that left the lab had it: Sato's symmetric interval (1989)."""
    k, n = rooted.astype(float), stuck.astype(float)
    total, crossed = n.sum(axis=1), n.prod(axis=1)
    weight = (crossed / total).sum()
    d = float(((k[:, 0] * n[:, 1] - k[:, 1] * n[:, 0]) / total).sum() / weight)
    first = n[:, 0] ** 2 * k[:, 1] - n[:, 1] ** 2 * k[:, 0] + crossed * (n[:, 1] - n[:, 0]) / 2
    second = (k[:, 0] * (n - k)[:, 1] + k[:, 1] * (n - k)[:, 0]) / (2 * total)
    variance = float((d * (first / total**2).sum() + second.sum()) / weight**2)
    if variance < NO_VARIANCE:
        return stratified_newcombe(k, n, level)
    half = normal_quantile(level) * sqrt(variance)
    return Difference(d, Interval(max(-1.0, d - half), min(1.0, d + half), level), "Mantel-Haenszel")


def test_verdicts_and_counts_are_what_they_were(engine: Engine, said: dict, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(rate_outcomes, "mantel_haenszel", of_that_time)
    with Session(engine) as session:
        judged = 0
        for trial in session.scalars(select(Trial)):
            was = said[trial.code]
            if "overall_p" not in was:
                continue
            judged += 1
            found = evidence(session, trial)
            assert found.analysis is not None and found.reading is not None
            assert alike(found.analysis.test.p, was["overall_p"])
            assert found.analysis.design == was["design"]
            assert [[a.name, a.rooted, a.stuck, a.left_out] for a in found.analysis.arms] == was["arms_counts"]
            for c, (a, b, p, adjusted, verdict, *numbers) in zip(
                found.analysis.comparisons, was["comparisons"], strict=True
            ):
                assert (c.a.name, c.b.name, c.verdict.value) == (a, b, verdict)
                assert alike(c.p, p) and alike(c.p_adjusted, adjusted)
                interval = c.difference.interval
                assert interval is not None
                assert [c.difference.estimate, interval.low, interval.high] == pytest.approx(numbers, abs=1e-12)
            # What is unknown and what was not as planned are in the sentence now; the rest of it stands.
            sentence = re.sub(r"; \d+ unknown(?=\))| Not as planned: .*", "", found.reading.headline)
            assert (found.reading.strength.value, sentence) == (was["strength"], was["headline"])
            assert found.departures[: len(was["departures"])] == was["departures"]
            assert {c.code for c in found.cautions} >= set(was["caution_codes"])
            # What the verdict makes of a prediction is said behind its place now.
            held = found.prediction.sentence if found.prediction else None
            assert held == was["prediction"] or (held and held.startswith(was["prediction"]))
        assert judged == 3


def test_amendments_are_versions_and_recipes_and_what_was_held_the_same_are_in_the_plan(engine: Engine) -> None:
    with Session(engine) as session:
        box = session.scalars(select(Trial).where(Trial.code == "26-05")).one()
        assert [(v.number, v.changed, v.why) for v in version_records(session, box)] == [
            (1, (), ""), (2, ("Lid vented a day early",), "Condensation: too wet")
        ]  # fmt: skip
        assert box.plan.treatments.held_same() == ["held the same: sand: 1, grit: 2; lid on", "container: 75 mL cells"]
        lavender = session.scalars(select(Trial).where(Trial.code == "26-01")).one()
        assert sorted(lavender.plan.preparation.recipes.values()) == ["3 bark fines, 1 coir", "3 pumice, 1 coir"]
        record = gather(session, box)
        assert record.prediction is not None and record.prediction.ranking == ("B", "A", "D", "C")
        assert len(record.looks) == 1 and record.late == ""


def test_old_draws_are_drawn_again_from_their_seeds(engine: Engine) -> None:
    with Session(engine) as session:
        drawn = 0
        for trial in session.scalars(select(Trial)):
            if trial.draws:
                rng = np.random.default_rng(np.random.SeedSequence(trial.draws[-1].seed).spawn(2)[0])
                again = draw_plan(trial.plan, rng)
                assert [wave.result for wave in again] == trial.draws[-1].result
                placed = [(u.arm, u.position.tray, u.position.row, u.position.column) for u in again[0].units]
                assert placed == [(u.arm.letter, u.place.tray.number, u.place.row, u.place.column) for u in trial.units]
                drawn += 1
        assert drawn == 5


def test_every_page_of_the_migrated_lab_opens_and_its_open_check_goes_on(engine: Engine) -> None:
    app = create_app(
        {
            "ENGINE": engine, "DATABASE_URL": "in the engine", "SECRET_KEY": "labs", "TESTING": True, "WTF_CSRF_ENABLED": False, "WARM": False, "WORK": "at once",
            "DEMO": True, "DEVELOPMENT": False, "CLOCK": lambda: NOW.replace(year=2026, month=11, day=20),
        }
    )  # fmt: skip
    with Session(engine) as session:
        ines = session.scalars(select(Person).where(Person.sign_in_name == "ines")).one()
        trials = list(session.scalars(select(Trial)))
        client = client_of(app, ines)
        for trial in trials:
            for page in ("question", "design", "prepare", "stick", "tend", "score", "compare", "conclude"):
                answer = client.get(f"/trials/{trial.id}/{page}")
                assert answer.status_code == 200, (trial.code, page)
        look = next(trial for trial in trials if trial.code == "26-06")
        check = session.execute(text("select id from check_visit where trial_id = :t"), {"t": look.id}).scalar()
        unscored = [c.id for u in look.units[3:] for c in u.cuttings]
        for cutting in unscored:
            form = {"cutting": cutting, "revision": 0, "state": "alive", "roots": "none"}
            assert client.post(f"/checks/{check}/scores", data=form).status_code == 303
        assert client.post(f"/checks/{check}/close").status_code == 303
        assert "Counts only, to see what to test next" in client.get(f"/trials/{look.id}/compare").text
