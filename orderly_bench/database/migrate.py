"""Bring a database to the newest migration."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Connection, Engine


def config_for(connection: Connection) -> Config:
    """Alembic configuration on an open connection."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.set_main_option("path_separator", "os")
    config.attributes["connection"] = connection
    return config


def migrate(engine: Engine, to: str = "head") -> None:
    """Upgrade to ``to``."""
    with engine.connect() as connection:
        command.upgrade(config_for(connection), to)
        connection.commit()
