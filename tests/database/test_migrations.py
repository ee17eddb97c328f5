"""Migrations go up, match the models, and go down again."""

from __future__ import annotations

from alembic import command
from sqlalchemy import text

from orderly_bench.database.engine import make_engine
from orderly_bench.database.migrate import config_for, migrate
from tests.conftest import database_url, emptied


def test_up_matches_the_models_and_down_leaves_nothing() -> None:
    engine = emptied(make_engine(database_url("orderly_migrate")))
    migrate(engine)
    with engine.connect() as connection:
        command.check(config_for(connection))
        command.downgrade(config_for(connection), "base")
        connection.commit()
        assert connection.execute(text("SHOW TABLES")).scalars().all() == ["alembic_version", "lease", "secret_mark"]
    engine.dispose()
