"""Bring a database to the newest migration."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Connection, Engine, text

from orderly_bench.database import leases, one_secret, under_way

#: Tables of the installation, not of the lab: no migration knows them.
APART = (leases.TABLE, one_secret.TABLE, under_way.TABLE)


def config_for(connection: Connection) -> Config:
    """Alembic configuration on an open connection."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.set_main_option("path_separator", "os")
    config.attributes["connection"] = connection
    config.attributes["apart"] = APART
    return config


def migrate(engine: Engine, to: str = "head") -> None:
    """Upgrade to ``to``."""
    leases.make(engine)
    one_secret.make(engine)
    with engine.connect() as connection:
        command.upgrade(config_for(connection), to)
        own_triggers(connection)
        connection.commit()


def own_triggers(connection: Connection) -> None:
    """Make anew the triggers that another account made: one that is gone could not run them any more."""
    me = connection.execute(text("SELECT CURRENT_USER()")).scalar()
    query = text(
        "SELECT trigger_name, action_timing, event_manipulation, event_object_table, action_statement FROM information_schema.triggers "
        "WHERE trigger_schema = DATABASE() AND definer <> :me"
    )
    for name, when, event, table, body in connection.execute(query, {"me": me}).all():
        connection.exec_driver_sql(f"DROP TRIGGER `{name}`")
        connection.exec_driver_sql(
            f"CREATE TRIGGER `{name}` {when} {event} ON `{table}` FOR EACH ROW {body}".replace("%", "%%")
        )
