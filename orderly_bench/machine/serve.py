"""Database, migrations and server together, until Ctrl-C."""

from __future__ import annotations

import os
import secrets
import signal
import subprocess
import time
from pathlib import Path
from types import FrameType

from orderly_bench.machine import environment, packages, ports, processes
from orderly_bench.machine.database_server import DEMO_SERVER, RUN_SERVER, DatabaseServer
from orderly_bench.machine.lock import only_one
from orderly_bench.machine.paths import PYTHON, ROOT, VAR, VENV, make_var
from orderly_bench.machine.problem import Problem, complain, say
from orderly_bench.machine.service import Service, service, web_service

URL_VARIABLE = "ORDERLY_BENCH_DATABASE_URL"
MOST_RESTARTS = 3
DATABASES = {"demo": "orderly_demo", "run": "orderly_bench"}
#: The demo lab shares neither server nor secret with a real one.
SERVERS = {"demo": DEMO_SERVER, "run": RUN_SERVER}
SECRETS = {"demo": "demo-secret", "run": "secret"}


def photos(mode: str) -> Path:
    """The folder of a lab's photos: outside what the web server serves, in every backup."""
    folder = make_var() / ("demo-photos" if mode == "demo" else "photos")
    folder.mkdir(mode=0o700, exist_ok=True)
    return folder


def secret(mode: str) -> str:
    """The key that signs sessions of one mode, made once."""
    file = make_var() / SECRETS[mode]
    if not file.exists():
        file.touch(mode=0o600)
        file.write_text(secrets.token_urlsafe(48))
    return file.read_text()


def first_code() -> str:
    """What the first account of a lab must show: only who starts it sees it. Kept, so that a restart changes nothing."""
    file = make_var() / "first-code"
    if not file.exists():
        file.touch(mode=0o600)
        file.write_text("-".join(secrets.token_hex(2) for _ in range(4)))
    return file.read_text()


def serve(mode: str, port: int, fresh: bool, development: bool) -> int:
    """Serve in ``demo`` or ``run`` mode on 127.0.0.1:port."""
    if not 1 <= port <= 65_535:
        raise Problem(f"--port must be between 1 and 65535, not {port}.")
    address = f"http://127.0.0.1:{port}"
    signal.signal(signal.SIGTERM, _as_interrupt)
    with only_one(address):
        processes.end_leftover(VAR / "web.pid", str(VENV), "web server")
        if not ports.is_free(port):
            raise Problem(
                f"Port {port} is taken by another program. Stop that one, or start with another: ./bench {mode} --port {port + 1}"
            )
        own = URL_VARIABLE not in os.environ
        packages.install(packages.TO_RUN if own else packages.TO_RUN[1:])
        environment.ensure()
        server = DatabaseServer(SERVERS[mode]) if own else None
        try:
            return _serve(mode, port, fresh, development, address, server)
        except KeyboardInterrupt:
            return 0
        finally:
            if server:
                server.stop()
                say("Stopped.")


def _as_interrupt(_number: int, _frame: FrameType | None) -> None:
    raise KeyboardInterrupt


def _serve(mode: str, port: int, fresh: bool, development: bool, address: str, server: DatabaseServer | None) -> int:
    if server:
        server.start((DATABASES[mode],))
    runs_as = web_service(server.runs_as if server else service())
    settings = _settings(mode, development, server, runs_as)
    prepare = [str(PYTHON), "-m", "orderly_bench.cli", "prepare", "--mode", mode] + (["--fresh"] if fresh else [])
    owner = {URL_VARIABLE: server.owner_url(DATABASES[mode])} if server else {}
    if subprocess.run(prepare, cwd=ROOT, env={**settings, **owner}, check=False, **runs_as.popen).returncode != 0:
        raise Problem("The database could not be prepared; the lines above say why.")
    web = _start_web(port, settings, runs_as)
    _wait_for(web, port)
    _greet(mode, address)
    restarts = 0
    try:
        while True:
            time.sleep(0.5)
            if web.poll() is not None:
                raise Problem(
                    f"The web server stopped (status {web.returncode}). See {VAR / 'web.log'}, then start again."
                )
            if server and not server.alive():
                restarts += 1
                complain(
                    f"The database server was ended from outside. Starting it again ({restarts} of {MOST_RESTARTS})."
                )
                if restarts > MOST_RESTARTS:
                    raise Problem(f"The database server keeps stopping. Its log ends:\n{server.tail()}")
                _stop(web)
                server.start((DATABASES[mode],))
                settings = _settings(mode, development, server, runs_as)
                web = _start_web(port, settings, runs_as)
                _wait_for(web, port)
    finally:
        _stop(web)


def _settings(mode: str, development: bool, server: DatabaseServer | None, runs_as: Service) -> dict[str, str]:
    home = make_var() / "home"
    home.mkdir(mode=0o700, exist_ok=True)
    runs_as.own_all(home)
    settings = dict(
        os.environ, ORDERLY_BENCH_SECRET=secret(mode), ORDERLY_BENCH_MODE=mode, PYTHONUNBUFFERED="1", HOME=str(home),
        TMPDIR=str(home), ORDERLY_BENCH_PHOTOS=str(photos(mode)), PYTHONPYCACHEPREFIX=str(home / "compiled"), MPLCONFIGDIR=str(home), XDG_CACHE_HOME=str(home / "cache"),
    )  # fmt: skip
    if mode == "run":
        settings["ORDERLY_BENCH_FIRST_CODE"] = first_code()
    if development:
        settings["ORDERLY_BENCH_DEVELOPMENT"] = "1"
    if server:
        settings[URL_VARIABLE] = server.url(DATABASES[mode])
    return settings


def _start_web(port: int, settings: dict[str, str], runs_as: Service) -> subprocess.Popen[bytes]:
    command = [
        str(PYTHON), "-m", "waitress", f"--listen=127.0.0.1:{port}", "--threads=8", "--connection-limit=1000", "--channel-timeout=60",
        "--asyncore-use-poll", "--max-request-body-size=2200000", "--ident=", "--call", "orderly_bench.web.app:create_app",
    ]  # fmt: skip
    with Path(VAR / "web.log").open("ab") as log:
        web = subprocess.Popen(
            command,
            cwd=ROOT,
            env=settings,
            stdout=log,
            stderr=log,
            start_new_session=True,
            umask=0o077,
            **runs_as.popen,
        )
    (VAR / "web.pid").write_text(str(web.pid))
    return web


def _wait_for(web: subprocess.Popen[bytes], port: int) -> None:
    until = time.monotonic() + 30
    while time.monotonic() < until:
        if web.poll() is not None:
            tail = "\n".join((VAR / "web.log").read_text(errors="replace").splitlines()[-6:])
            raise Problem(f"The web server did not start:\n{tail}")
        if ports.answers(port):
            return
        time.sleep(0.05)
    raise Problem(f"The web server did not answer within 30 s. See {VAR / 'web.log'}")


def _greet(mode: str, address: str) -> None:
    say(f"\n  Orderly Bench is at {address}")
    if mode == "demo":
        say("  This is the demo lab, Tarn Head: the sign-in page offers its four people at a click.")
    else:
        say("  Sign in with your account.")
    say("  Ctrl-C stops it.\n")


def _stop(web: subprocess.Popen[bytes]) -> None:
    if web.poll() is None:
        web.terminate()
        try:
            web.wait(10)
        except subprocess.TimeoutExpired:
            web.kill()
            web.wait()
    (VAR / "web.pid").unlink(missing_ok=True)
