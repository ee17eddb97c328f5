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
    without = text(
        "SELECT t.table_name FROM information_schema.tables t LEFT JOIN information_schema.table_constraints c "
        "ON c.table_schema = t.table_schema AND c.table_name = t.table_name AND c.constraint_type = 'PRIMARY KEY' "
        "WHERE t.table_schema = DATABASE() AND t.table_type = 'BASE TABLE' AND c.constraint_name IS NULL"
    )
    with engine.connect() as connection:
        assert connection.execute(without).scalars().all() == []
        assert len(connection.execute(text("SHOW TABLES")).all()) > 50
        connection.execute(text("CREATE TABLE loose (n INT)"))
        assert connection.execute(without).scalars().all() == ["loose"], "or it finds nothing"
        connection.execute(text("DROP TABLE loose"))
