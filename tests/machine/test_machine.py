"""What ./bench does before anything else runs: trouble is one message that says what to do."""

from __future__ import annotations

import contextlib
import os
import re
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from orderly_bench.machine import assets, commands, database_server, lock, packages, paths, ports, processes, serve
from orderly_bench.machine.problem import Problem
from orderly_bench.machine.service import Service

ROOT = Path(__file__).parents[2]


@pytest.fixture
def var(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A var folder of the test's own."""
    folder = tmp_path / "var"
    for module in (paths, database_server, serve):
        monkeypatch.setattr(module, "VAR", folder)
    return folder


@pytest.fixture
def sleeper() -> Iterator[subprocess.Popen[bytes]]:
    says_so = "print(flush=True); import time; time.sleep(60)"
    started = subprocess.Popen([sys.executable, "-c", says_so, "bench"], stdout=subprocess.PIPE)
    assert started.stdout is not None
    started.stdout.readline()  # it runs, so that its command line can be read
    yield started
    started.kill()
    started.communicate()


def test_a_lock_goes_with_its_holder_and_a_live_one_is_refused_with_its_address(var: Path) -> None:
    var.mkdir()
    file = var / "bench.lock"
    file.write_text("999999 http://127.0.0.1:1")
    with lock.only_one("http://127.0.0.1:2"):
        assert file.read_text() == f"{os.getpid()} http://127.0.0.1:2", "what a killed start left is no lock"
        with (
            pytest.raises(Problem, match=r"already runs .* at http://127.0.0.1:2"),
            lock.only_one("http://127.0.0.1:3"),
        ):
            pass
    with lock.only_one("http://127.0.0.1:4"):
        assert file.read_text().endswith(":4")


def test_a_leftover_is_ended_by_id_start_and_mark_and_others_are_left_alone(
    var: Path, sleeper: subprocess.Popen[bytes]
) -> None:
    var.mkdir()
    file = var / "server.pid"
    mark = "time.sleep(60)"
    for kept in (
        "",
        str(sleeper.pid),
        f"{sleeper.pid} 12345",
        "x y",
        f"{sleeper.pid} {processes.started_at(sleeper.pid)} z",
    ):
        file.write_text(kept)
        processes.end_leftover(file, mark, "server")
        assert sleeper.poll() is None and not file.exists(), "an id alone may be another's by now"
    processes.note(file, sleeper.pid)
    processes.end_leftover(file, "a mark it does not carry", "server")
    assert sleeper.poll() is None
    processes.note(file, sleeper.pid)
    processes.end_leftover(file, mark, "server")
    assert sleeper.wait(5) != 0
    processes.end_leftover(file, mark, "server")


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGINT, signal.SIGHUP])
def test_every_way_of_ending_it_stops_the_database_too(
    var: Path, monkeypatch: pytest.MonkeyPatch, number: signal.Signals
) -> None:
    """A closed terminal (SIGHUP) leaves nothing behind, as Ctrl-C does."""
    stopped = []

    class Server:
        def __init__(self, _name: str) -> None:
            self.runs_as = None

        def stop(self) -> None:
            stopped.append(number)

    before = {one: signal.getsignal(one) for one in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP)}
    monkeypatch.delenv("ORDERLY_BENCH_DATABASE_URL", raising=False)
    monkeypatch.setattr(serve, "DatabaseServer", Server)
    monkeypatch.setattr(serve, "only_one", lambda _address: contextlib.nullcontext())
    monkeypatch.setattr(serve.processes, "end_leftover", lambda *_: None)
    monkeypatch.setattr(serve.packages, "install", lambda _names: None)
    monkeypatch.setattr(serve.environment, "ensure", lambda: None)
    monkeypatch.setattr(serve, "_serve", lambda *_: signal.raise_signal(number))
    try:
        assert serve.serve("demo", ports.any_free(), [], False) == 0
    finally:
        for one, handler in before.items():
            signal.signal(one, handler)
    assert stopped == [number]


def test_servers_are_started_again_with_growing_waits_and_not_without_end() -> None:
    revived = serve.Revivals()
    assert [revived.wait(10.0 * i) for i in range(10)] == [0, 1, 2, 4, 8, 16, 32, 60, 60, 60]
    assert revived.wait(3_700.0) < 60, "what is an hour ago counts no more"
    tired = serve.Revivals()
    for i in range(serve.MOST_AN_HOUR):
        tired.wait(float(i))
    with pytest.raises(Problem, match="within an hour"):
        tired.wait(99.0)
    assert tired.wait(serve.HOUR * 2) == 0


def test_a_taken_port_is_noticed() -> None:
    with socket.socket() as held:
        held.bind(("127.0.0.1", 0))
        held.listen()
        port = held.getsockname()[1]
        assert not ports.is_free(port) and ports.answers(port)
    assert ports.is_free(ports.any_free())


def test_a_full_disk_says_how_much_to_free(var: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(paths.shutil, "disk_usage", lambda _path: type("Usage", (), {"free": 12 * 2**20}))
    with pytest.raises(Problem, match=r"Only 12 MB are free .* at least 300 MB"):
        paths.make_var()


def fake_dpkg(folder: Path, installed: str) -> None:
    script = folder / "dpkg-query"
    script.write_text(f'#!/bin/sh\ncase "$3" in {installed}) echo "install ok installed";; esac\n')
    script.chmod(0o755)


def test_missing_packages_are_named_with_the_line_to_run(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    fake_dpkg(tmp_path, "libpango-1.0-0")
    monkeypatch.setenv("PATH", f"{tmp_path}:/bin")
    monkeypatch.setattr(packages.os, "geteuid", lambda: 1000)
    assert "mariadb-server" in packages.missing(("mariadb-server", "libpango-1.0-0"))
    assert "libpango-1.0-0" not in packages.missing(("mariadb-server", "libpango-1.0-0"))
    real = packages.shutil.which
    monkeypatch.setattr(packages.shutil, "which", lambda name, **more: None if name == "sudo" else real(name, **more))
    with pytest.raises(Problem, match="apt-get install -y --no-install-recommends mariadb-server"):
        packages.install(("mariadb-server",))


def test_another_system_is_told_what_to_install(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(packages.shutil, "which", lambda _name: None)
    with pytest.raises(Problem, match="not a Debian machine"):
        packages.missing(packages.TO_RUN)


def test_the_database_password_is_made_once_and_kept_private(var: Path) -> None:
    var.mkdir()
    server = database_server.DatabaseServer("db")
    server.home.mkdir()
    server.port = 4000
    first = server.url("orderly_test")
    assert first == server.url("orderly_test") and first.endswith("@127.0.0.1:4000/orderly_test")
    assert (server.home / "password").stat().st_mode & 0o077 == 0
    init = server.write_init(("orderly_test",))
    text = init.read_text()
    assert (
        "CREATE DATABASE IF NOT EXISTS orderly_test" in text
        and "'127.0.0.1'" in text
        and init.stat().st_mode & 0o077 == 0
    )


def test_a_missing_server_program_says_what_to_install(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(database_server.shutil, "which", lambda _name, **_more: None)
    with pytest.raises(Problem, match="apt-get install -y mariadb-server"):
        database_server.program("mariadbd")


def test_the_session_secret_is_made_once_and_private(var: Path) -> None:
    for mode, file in (("run", "secret"), ("demo", "demo-secret")):
        assert serve.secret(mode) == serve.secret(mode) and len(serve.secret(mode)) > 40
        assert (var / file).stat().st_mode & 0o077 == 0
    assert serve.secret("run") != serve.secret("demo"), "a session of the demo lab is worth nothing in a real one"


@pytest.mark.parametrize(
    ("words", "message"),
    [(["demo", "--port", "0"], "between 1 and 65535"), (["demo", "--loud"], "Not understood: --loud")],
)
def test_bad_words_are_one_message(words: list[str], message: str, capsys: pytest.CaptureFixture[str]) -> None:
    assert commands.main(words) == 1
    assert message in capsys.readouterr().err


def test_help_lists_the_commands() -> None:
    done = subprocess.run([sys.executable, str(ROOT / "bench"), "--help"], capture_output=True, text=True, check=True)
    assert all(
        name in done.stdout for name in ("demo", "run", "test", "check", "assets", "benchmark", *commands.FORWARDED)
    )


@pytest.fixture
def ran(monkeypatch: pytest.MonkeyPatch) -> list[list[str]]:
    """What the starter would run, and nothing run."""
    found: list[list[str]] = []

    def run(words: list[str], **_settings: object) -> subprocess.CompletedProcess[str]:
        found.append(words)
        return subprocess.CompletedProcess(words, 0)

    class NoServer:
        def __init__(self, *_name: object) -> None:
            raise Problem("a database was started")

    monkeypatch.setattr(commands.subprocess, "run", run)
    monkeypatch.setattr(commands.environment, "ensure", lambda **_: None)
    monkeypatch.setattr(commands.packages, "install", lambda _: None)
    monkeypatch.setattr(commands, "DatabaseServer", NoServer)
    return found


def test_a_file_that_asks_for_no_database_starts_none(ran: list[list[str]], capsys: pytest.CaptureFixture[str]) -> None:
    assert commands.main(["test", "tests/core/test_dose.py::test_x", "tests/cli", "-x"]) == 0
    assert ran[0][1:] == ["-m", "pytest", "tests/core/test_dose.py::test_x", "tests/cli", "-x"]
    for words in ([], ["tests/web/test_work.py"], ["tests/core", "tests/database"], ["-k", "dose"], ["tests/"]):
        assert commands.main(["test", *words]) == 1
        assert "a database was started" in capsys.readouterr().err


def test_no_test_of_those_folders_asks_for_a_database() -> None:
    asks = re.compile(r"\b(session: Session|connection: Connection|engine: Engine|ORDERLY_BENCH_TEST_URL)\b")
    for folder in commands.WITHOUT_DATABASE:
        for file in (ROOT / "tests" / folder).rglob("*.py"):
            assert not asks.search(file.read_text()), file


def test_what_fails_a_check_is_shown(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    monkeypatch.setattr(commands.environment, "ensure", lambda **_: None)
    python = commands.PYTHON.name
    monkeypatch.setattr(
        commands,
        "CHECKS",
        {"good": [python, "-c", "print('hidden')"], "bad": [python, "-c", "raise SystemExit('crooked')"]},
    )
    assert commands.main(["check"]) == 1
    shown = capsys.readouterr()
    assert "good: as it should be" in shown.out + shown.err and "hidden" not in shown.out + shown.err
    assert "bad" in shown.err and "crooked" in shown.err


def test_the_styles_say_when_their_inputs_changed(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    before = assets.inputs()
    assert before == assets.recorded()["inputs"] and "assets/app.css" in before
    monkeypatch.setattr(assets.shutil, "which", lambda _name: None)
    assert not assets.node_is_new_enough()
    monkeypatch.setattr(assets, "ROOT", tmp_path)
    with pytest.raises(Problem, match="Node 20 or newer"):
        assets.build()


def test_servers_of_one_lab_share_one_secret_whoever_makes_it(
    var: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    shared = tmp_path / "shared"
    monkeypatch.setenv(serve.SHARED_VARIABLE, str(shared))
    with pytest.raises(Problem, match="Mount it, or make it"):
        serve.secret("run")
    shared.mkdir()
    gate = threading.Barrier(8)

    def asks() -> str:
        gate.wait()
        return serve.secret("run")

    with ThreadPoolExecutor(8) as pool:
        held = {future.result() for future in [pool.submit(asks) for _ in range(8)]}
    assert len(held) == 1 and len(held.pop()) > 40
    assert [file.name for file in shared.iterdir()] == ["secret"] and (shared / "secret").stat().st_mode & 0o077 == 0
    assert serve.photos("run") == shared / "photos"
    (shared / "demo-secret").symlink_to(shared / "secret")
    with pytest.raises(OSError, match="symbolic links"):
        serve.secret("demo")
    monkeypatch.delenv(serve.SHARED_VARIABLE)
    assert serve.secret("run") != (shared / "secret").read_text(), "alone, its own"


def test_what_serves_never_sees_the_account_that_changes_tables(var: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv(serve.OWNER_VARIABLE, "mysql+pymysql://owner:secret@a,b/lab")
    monkeypatch.setenv(serve.URL_VARIABLE, "mysql+pymysql://app:secret@a,b/lab")
    monkeypatch.setattr(serve, "service", lambda: Service("me"))
    ran: list[dict[str, str]] = []

    def run(words: list[str], *, env: dict[str, str], **_more: object) -> subprocess.CompletedProcess[str]:
        ran.append(env)
        return subprocess.CompletedProcess(words, 1)

    monkeypatch.setattr(serve.subprocess, "run", run)
    place = serve.Place("127.0.0.1", 1, None)
    with pytest.raises(Problem, match="could not be prepared"):
        serve._serve("run", place, [], False, "http://127.0.0.1:1", None)
    assert ran[0][serve.URL_VARIABLE].startswith("mysql+pymysql://owner:"), "what migrates does"
    assert serve.OWNER_VARIABLE not in serve.settings_of("run", False, None, Service("me"), None)
