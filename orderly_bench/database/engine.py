"""The engine: strict SQL, UTC, and connections that are tested before use."""

from __future__ import annotations

from sqlalchemy import Engine, create_engine

STRICT = (
    "SET SESSION sql_mode='STRICT_ALL_TABLES,NO_ZERO_DATE,NO_ZERO_IN_DATE,ERROR_FOR_DIVISION_BY_ZERO,NO_ENGINE_SUBSTITUTION', "
    "time_zone='+00:00', innodb_lock_wait_timeout=10"
)


def make_engine(url: str) -> Engine:
    """An engine on a MariaDB server; ``url`` as SQLAlchemy takes it, driver pymysql."""
    return create_engine(
        url,
        pool_pre_ping=True,
        pool_recycle=1800,
        pool_size=8,
        isolation_level="READ COMMITTED",
        connect_args={"init_command": STRICT, "connect_timeout": 5, "read_timeout": 30, "charset": "utf8mb4"},
    )
