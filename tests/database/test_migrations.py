"""Migrations go up, match the models, and go down again."""

from __future__ import annotations

from alembic import command
from sqlalchemy import Engine, text

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


def test_every_table_has_a_primary_key(engine: Engine) -> None:
    """A cluster tells rows apart by it, and refuses a table without one."""
    with engine.connect() as connection:
        tables = set(connection.execute(text("SHOW TABLES")).scalars())
        indexed = text(
            "SELECT DISTINCT table_name FROM information_schema.statistics WHERE table_schema = DATABASE() AND index_name = :name"
        )
        with_one = set(connection.execute(indexed, {"name": "PRIMARY"}).scalars())
    assert len(tables) > 50 and tables == with_one
