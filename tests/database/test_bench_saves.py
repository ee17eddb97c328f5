"""The benchmark of saves signs in as people do, and measures saves that were kept."""

from __future__ import annotations

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from orderly_bench.cli import bench_saves
from orderly_bench.database.engine import make_engine
from orderly_bench.trial.models import ScoreRecord
from tests.conftest import database_url


def test_five_saves_are_kept_and_timed(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(bench_saves, "SAVES", 5)
    url = database_url("orderly_test")
    monkeypatch.setattr(bench_saves, "PAGES", 1)
    saves, design = bench_saves.p95_and_design_ms(url)
    assert 0 < saves < 10_000 and 0 < design < 20_000
    engine = make_engine(url.rsplit("/", 1)[0] + "/orderly_saves")
    with Session(engine) as session:
        assert session.scalar(select(func.count(ScoreRecord.id)).where(ScoreRecord.current == 1)) == 5
    engine.dispose()


def test_the_databases_own_load_is_timed_and_counts_its_rows() -> None:
    rows = "".join(f"2026-03-01 00:{n:02},18.{n % 10},70,{n}\n" for n in range(60))
    assert 0 < bench_saves.bulk_load_seconds(database_url("orderly_test"), rows) < 10
