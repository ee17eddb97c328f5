"""The private server's accounts, folders and users, on a server started for it."""

from __future__ import annotations

import os
import stat
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy import create_engine, text
from sqlalchemy.exc import OperationalError, ProgrammingError

from orderly_bench.machine import processes
from orderly_bench.machine.database_server import APP, OWNER, DatabaseServer
from orderly_bench.machine.paths import VAR, VENV


@pytest.fixture(scope="module")
def server() -> Iterator[DatabaseServer]:
    made = DatabaseServer("accounts-mariadb")
    made.start(("orderly_accounts",))
    yield made
    made.stop()


def ask(url: str, *statements: str) -> list:
    engine = create_engine(url)
    try:
        with engine.begin() as connection:
            return [connection.execute(text(s)) for s in statements][-1].all()
    finally:
        engine.dispose()


def test_the_serving_account_reads_and_writes_rows_and_changes_no_table(server: DatabaseServer) -> None:
    owner, app = server.owner_url("orderly_accounts"), server.url("orderly_accounts")
    engine = create_engine(owner)
    with engine.begin() as connection:
        connection.execute(text("CREATE TABLE IF NOT EXISTS pot (id INT PRIMARY KEY)"))
    engine.dispose()
    assert ask(app, "REPLACE INTO pot VALUES (1)", "SELECT id FROM pot") == [(1,)]
    for forbidden in (
        "ALTER TABLE pot ADD x INT", "DROP TABLE pot", "CREATE TABLE other (id INT)", "TRUNCATE pot", "CREATE DATABASE orderly_other",
        "GRANT SELECT ON orderly_accounts.* TO orderly_owner@'127.0.0.1'", "SELECT * FROM mysql.global_priv", "SELECT load_file('/etc/passwd') FROM mysql.user",
    ):  # fmt: skip
        with pytest.raises((OperationalError, ProgrammingError)):
            ask(app, forbidden)


def test_over_tcp_there_are_two_accounts_and_none_without_a_password(server: DatabaseServer) -> None:
    at = f"127.0.0.1:{server.port}"
    for name in ("root", "", "mysql", "orderly", APP, OWNER):
        for password in ("", "root", "orderly"):
            with pytest.raises(OperationalError, match=r"1045|1698|1044"):
                ask(f"mysql+pymysql://{name}:{password}@{at}/", "SELECT 1")


def test_accounts_of_an_earlier_version_are_put_away(server: DatabaseServer) -> None:
    """Read through the socket, which the owner of the folder alone can."""
    socket = server.home / "tmp" / "admin.sock"
    me = "root" if os.geteuid() == 0 else __import__("pwd").getpwuid(os.geteuid()).pw_name
    url = f"mysql+pymysql://{me}@localhost/mysql?unix_socket={socket}"
    accounts = {tuple(row) for row in ask(url, "SELECT User, Host FROM mysql.global_priv")}
    assert accounts == {(me, "localhost"), ("mariadb.sys", "localhost"), (APP, "127.0.0.1"), (OWNER, "127.0.0.1")}


def test_what_is_kept_is_nobody_elses_to_read(server: DatabaseServer) -> None:
    def open_to_others(path: Path) -> bool:
        return bool(stat.S_IMODE(path.stat().st_mode) & 0o077)

    for name in ("password", "owner-password", "init.sql", "server.log", "port", "data", "tmp"):
        assert not open_to_others(server.home / name), name
    for folder in (VAR, server.home):
        assert folder.stat().st_uid == os.geteuid() and not stat.S_IMODE(folder.stat().st_mode) & 0o066, (
            "others pass at most"
        )


@pytest.mark.skipif(os.geteuid() != 0, reason="started as root only")
def test_the_serving_account_can_put_nothing_in_the_place_of_what_root_runs(server: DatabaseServer) -> None:
    """As that account itself: no file made beside the environment, nothing moved away, no password read."""
    own = VAR / "of-root"
    own.write_text("x")
    try:
        for command in (
            f"touch {VAR}/planted", f"mv {own} {VAR}/other", f"ln -s /etc/passwd {server.home}/planted", f"cat {server.home}/password",
            f"test -w {VENV}/bin", f"test -w {VENV}", f"ls {VAR}",
        ):  # fmt: skip
            done = subprocess.run(["sh", "-c", command], capture_output=True, check=False, **server.runs_as.popen)
            assert done.returncode != 0, command
        assert own.read_text() == "x"
    finally:
        own.unlink()
    assert subprocess.run(["true"], check=False, **server.runs_as.popen).returncode == 0


@pytest.mark.skipif(os.geteuid() != 0, reason="started as root only")
def test_started_as_root_the_server_is_not_root(server: DatabaseServer) -> None:
    assert server.process is not None and "mariadbd" in processes.command_line(server.process.pid)
    assert Path(f"/proc/{server.process.pid}").stat().st_uid != 0


def test_triggers_of_an_account_that_is_gone_are_made_anew(server: DatabaseServer) -> None:
    """An older installation's triggers belong to an account that is put away, and would fail without it."""
    from orderly_bench.database.migrate import own_triggers

    owner, app = server.owner_url("orderly_accounts"), server.url("orderly_accounts")
    me = "root" if os.geteuid() == 0 else __import__("pwd").getpwuid(os.geteuid()).pw_name
    admin = f"mysql+pymysql://{me}@localhost/orderly_accounts?unix_socket={server.home / 'tmp' / 'admin.sock'}"
    for statement in (
        "CREATE OR REPLACE TABLE jar (id INT PRIMARY KEY, full INT)",
        "CREATE DEFINER=`gone`@`127.0.0.1` TRIGGER jar_full BEFORE UPDATE ON jar FOR EACH ROW SET NEW.full = OLD.full + 1",
        "INSERT INTO jar VALUES (1, 0)",
    ):
        engine = create_engine(admin)
        with engine.begin() as connection:
            connection.exec_driver_sql(statement)
        engine.dispose()
    with pytest.raises(OperationalError, match="1449"):
        ask(app, "UPDATE jar SET full = 9", "SELECT full FROM jar")
    engine = create_engine(owner)
    with engine.begin() as connection:
        own_triggers(connection)
    engine.dispose()
    assert ask(app, "UPDATE jar SET full = 9", "SELECT full FROM jar") == [(1,)]
