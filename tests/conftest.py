"""Fixtures: the real MariaDB, rolled back per test."""

from __future__ import annotations

import os
from collections.abc import Iterator

import pytest
from argon2 import profiles
from sqlalchemy import Connection, Engine, text
from sqlalchemy.orm import Session

from orderly_bench.database.engine import make_engine
from orderly_bench.database.migrate import migrate
from orderly_bench.trial import people
from orderly_bench.trial.models import Lab

URL_VARIABLE = "ORDERLY_BENCH_TEST_URL"
#: What a password costs in a lab; here each is made and looked at hundreds of times.
SHIPPED_COST = people.hasher._parameters
people.hasher._parameters = profiles.CHEAPEST
people._NOBODY = people.hasher.hash("nobody signs in with this")


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--long", action="store_true", help="also what takes minutes: endurance")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """What takes minutes is left out unless it is asked for."""
    if config.getoption("--long"):
        return
    items[:] = [item for item in items if item.get_closest_marker("long") is None]


def database_url(name: str) -> str:
    """Address of one of the test databases, this worker's own, made where it is not there yet."""
    url = os.environ.get(URL_VARIABLE)
    if not url:
        pytest.fail(f"{URL_VARIABLE} is not set: run the tests with ./bench test", pytrace=False)
    worker = os.environ.get("PYTEST_XDIST_WORKER")
    own = f"{name}_{worker}" if worker else name
    base = make_engine(url)
    with base.connect() as connection:
        connection.execute(text(f"CREATE DATABASE IF NOT EXISTS {own} CHARACTER SET utf8mb4"))
    base.dispose()
    return url.replace("orderly_test", own)


def emptied(engine: Engine) -> Engine:
    """The engine, its database emptied of every table."""
    with engine.connect() as connection:
        connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
        for (table,) in connection.execute(text("SHOW TABLES")).all():
            connection.execute(text(f"DROP TABLE `{table}`"))
        # The connection goes back to the pool: what is tested must be guarded again.
        connection.execute(text("SET FOREIGN_KEY_CHECKS = 1"))
        connection.commit()
    return engine


@pytest.fixture(scope="session")
def engine() -> Iterator[Engine]:
    made = emptied(make_engine(database_url("orderly_test")))
    migrate(made)
    yield made
    made.dispose()


@pytest.fixture
def connection(engine: Engine) -> Iterator[Connection]:
    with engine.connect() as open_connection:
        outer = open_connection.begin()
        yield open_connection
        outer.rollback()


@pytest.fixture
def session(connection: Connection) -> Iterator[Session]:
    with Session(connection, expire_on_commit=False, join_transaction_mode="create_savepoint") as made:
        made.add(Lab(name="Test lab", time_zone="Europe/London"))
        made.flush()
        yield made
