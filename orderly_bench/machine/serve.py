"""Database, migrations and server together, until Ctrl-C."""

from __future__ import annotations

import contextlib
import os
import secrets
import signal
import socket
import subprocess
import time
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from types import FrameType

from orderly_bench.machine import environment, packages, ports, processes, scheduled
from orderly_bench.machine.database_server import DEMO_SERVER, RUN_SERVER, DatabaseServer
from orderly_bench.machine.lock import only_one
from orderly_bench.machine.paths import PYTHON, ROOT, VAR, VENV, appended, make_var, read_own
from orderly_bench.machine.problem import Problem, complain, say
from orderly_bench.machine.service import Service, service, web_service

URL_VARIABLE = "ORDERLY_BENCH_DATABASE_URL"
#: Of a database of one's own: the address of an account that may change tables. What serves never sees it.
OWNER_VARIABLE = "ORDERLY_BENCH_OWNER_URL"
#: A folder that all servers of one lab see: its secret, its photos.
SHARED_VARIABLE = "ORDERLY_BENCH_SHARED"
#: A little above what the application takes of a file, so that its own message is seen.
MOST_BODY_BYTES = 11_000_000
#: Starts again within an hour, after which it is given up.
MOST_AN_HOUR, HOUR = 30, 3600.0
#: What an earlier start left behind may take as long to let go of its port.
PATIENCE_SECONDS = 3.0
DATABASES = {"demo": "orderly_demo", "run": "orderly_bench"}
#: The demo lab shares neither server nor secret with a real one.
SERVERS = {"demo": DEMO_SERVER, "run": RUN_SERVER}
SECRETS = {"demo": "demo-secret", "run": "secret"}


def shared() -> Path:
    """Where the secret and the photos lie: here, or in a folder that several servers of one lab see.

    Raises
    ------
    Problem
        There is no such folder.
    """
    named = os.environ.get(SHARED_VARIABLE)
    if not named:
        return make_var()
    if not Path(named).is_dir():
        raise Problem(
            f"There is no folder {named}, which {SHARED_VARIABLE} names. Mount it, or make it, then start again."
        )
    return Path(named)


def photos(mode: str) -> Path:
    """The folder of a lab's photos: outside what the web server serves, in every backup."""
    folder = shared() / ("demo-photos" if mode == "demo" else "photos")
    folder.mkdir(mode=0o700, exist_ok=True)
    return folder


def secret(mode: str) -> str:
    """The key that signs sessions of one mode, made once."""
    return _made_once(shared() / SECRETS[mode], secrets.token_urlsafe(48))


def _made_once(file: Path, text: str) -> str:
    """What a file holds; where there is none the text, of whichever of several servers was first."""
    if not file.exists():
        own = file.with_name(f"{file.name}.{os.getpid()}.{secrets.token_hex(4)}")
        own.touch(mode=0o600)
        own.write_text(text)
        with contextlib.suppress(FileExistsError):
            os.link(own, file)
        own.unlink()
    return read_own(file)


@dataclass(frozen=True)
class Place:
    """Where the web server listens."""

    host: str
    port: int
    lan: Lan | None


def first_code() -> str:
    """What the first account of a lab must show: only who starts it sees it. Kept, so that a restart changes nothing."""
    return _made_once(shared() / "first-code", "-".join(secrets.token_hex(2) for _ in range(4)))


@dataclass(frozen=True)
class Lan:
    """The lab's network: the address to listen on, by TLS only; its own certificate, or one that is given."""

    host: str
    cert: str | None = None
    key: str | None = None

    def __post_init__(self) -> None:
        if bool(self.cert) is not bool(self.key):
            raise Problem("--cert and --key go together.")
        for file in filter(None, (self.cert, self.key)):
            if not Path(file).is_file():
                raise Problem(f"There is no file {file}.")

    @property
    def files(self) -> tuple[str, str]:
        """Certificate and key."""
        return (
            (self.cert, self.key)
            if self.cert and self.key
            else (str(VAR / "tls" / "cert.pem"), str(VAR / "tls" / "key.pem"))
        )


def serve(mode: str, port: int, preparing: list[str], development: bool, lan: Lan | None = None) -> int:
    """Serve in ``demo`` or ``run`` mode on 127.0.0.1:port; for a network on its address instead, by TLS only."""
    if not 1 <= port <= 65_535:
        raise Problem(f"--port must be between 1 and 65535, not {port}.")
    place = Place(lan.host if lan else ports.LOOPBACK, port, lan)
    address = f"{'https' if lan else 'http'}://{place.host}:{port}"
    for stop in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):  # started in the background, a shell has SIGINT ignored
        signal.signal(stop, as_interrupt)
    with only_one(address):
        processes.end_leftover(VAR / "web.pid", str(VENV), "web server")
        if not ports.is_free(port, place.host, PATIENCE_SECONDS):
            raise Problem(
                f"Port {port} is taken by another program. Stop that one, or start with another: ./bench {mode} --port {port + 1}"
            )
        own = URL_VARIABLE not in os.environ
        packages.install(packages.TO_RUN if own else packages.TO_RUN[1:])
        environment.ensure()
        server = DatabaseServer(SERVERS[mode]) if own else None
        try:
            return _serve(mode, place, preparing, development, address, server)
        except KeyboardInterrupt:
            return 0
        finally:
            if server:
                server.stop()
                say("Stopped.")


def as_interrupt(_number: int, _frame: FrameType | None) -> None:
    """A signal that stops everything, as Ctrl-C does."""
    raise KeyboardInterrupt


def _serve(
    mode: str, place: Place, preparing: list[str], development: bool, address: str, server: DatabaseServer | None
) -> int:
    if server:
        server.start((DATABASES[mode],))
    runs_as = web_service(server.runs_as if server else service())
    settings = settings_of(mode, development, server, runs_as, place.lan)
    prepare = [str(PYTHON), "-m", "orderly_bench.cli", "prepare", "--mode", mode, *preparing]
    owner = {
        URL_VARIABLE: server.owner_url(DATABASES[mode])
        if server
        else os.environ.get(OWNER_VARIABLE, settings[URL_VARIABLE])
    }
    if subprocess.run(prepare, cwd=ROOT, env={**settings, **owner}, check=False, **runs_as.popen).returncode != 0:
        raise Problem("The database could not be prepared; the lines above say why.")
    certificate(place, settings, runs_as)
    web = _start_web(place, settings, runs_as)
    _wait_for(web, place)
    _greet(mode, address)
    revived = Revivals()
    backups = Backups(mode, {**settings, **owner})
    try:
        while True:
            time.sleep(0.5)
            backups.look()
            if server and not server.alive():
                revived.another("database server", server.tail())
                server.start((DATABASES[mode],))
                if settings[URL_VARIABLE] != server.url(DATABASES[mode]):
                    _stop(web)
                    settings = settings_of(mode, development, server, runs_as, place.lan)
            if web.poll() is not None:
                revived.another("web server", _tail_of_log())
                web = _start_web(place, settings, runs_as)
                _wait_for(web, place)
    finally:
        backups.stop()
        _stop(web)


class Revivals:
    """Servers that are started again: any number of times, but not without end inside an hour, and with growing waits."""

    def __init__(self) -> None:
        self.when: list[float] = []

    def wait(self, now: float) -> float:
        """Seconds before the next start; each within the same hour doubles it, up to a minute.

        Raises
        ------
        Problem
            So many in an hour that something else is wrong.
        """
        self.when = [moment for moment in self.when if now - moment < HOUR]
        if len(self.when) >= MOST_AN_HOUR:
            raise Problem(
                f"Servers were started again {MOST_AN_HOUR} times within an hour; something keeps ending them."
            )
        self.when.append(now)
        return 0.0 if len(self.when) == 1 else min(60.0, 2.0 ** (len(self.when) - 2))

    def another(self, what: str, tail: str) -> None:
        """Tell of a server that ended, and wait before it is started again."""
        wait = self.wait(time.monotonic())
        complain(f"The {what} was ended from outside. Starting it again in {wait:g} s. Its log ends:\n{tail}")
        time.sleep(wait)


class Backups:
    """Makes the backups that are due while the lab runs, one at a time, beside what is served; one that failed is tried again later."""

    LOOK_SECONDS = 20.0

    def __init__(self, mode: str, settings: dict[str, str]) -> None:
        self.wanted, self.settings = mode == "run", settings
        self.running: subprocess.Popen[bytes] | None = None
        self.next_look = 0.0

    def look(self) -> None:
        """Start one that is due; end with one that is made."""
        if self.running is not None:
            self._ended(self.running)
        elif self.wanted and time.monotonic() >= self.next_look:
            self.next_look = time.monotonic() + self.LOOK_SECONDS
            schedule = scheduled.remembered()
            if schedule is not None and scheduled.due(schedule, datetime.now()):
                self._start(schedule)

    def _start(self, schedule: scheduled.Schedule) -> None:
        file = schedule.next_file(datetime.now())
        command = [str(PYTHON), "-m", "orderly_bench.cli", "backup", str(file)]
        command += [f"--passphrase-file={schedule.passphrase_file}"] if schedule.passphrase_file else []
        with appended(VAR / "backup.log") as log:
            self.running = subprocess.Popen(
                command, cwd=ROOT, env=self.settings, stdout=log, stderr=log, start_new_session=True
            )

    def _ended(self, process: subprocess.Popen[bytes]) -> None:
        if process.poll() is None:
            return
        self.running = None
        schedule = scheduled.remembered()
        if process.returncode == 0 and schedule is not None:
            scheduled.put_away(schedule)
        elif process.returncode != 0:
            self.next_look = time.monotonic() + scheduled.AGAIN.total_seconds()
            complain(
                f"A backup could not be made; it is tried again in {scheduled.AGAIN.seconds // 60} minutes. See {VAR / 'backup.log'}"
            )

    def stop(self) -> None:
        """Let one that is being made end; it takes seconds, and half a backup is none."""
        if self.running is not None:
            try:
                self.running.wait(60)
            except subprocess.TimeoutExpired:
                self.running.kill()
                self.running.wait()


def settings_of(
    mode: str, development: bool, server: DatabaseServer | None, runs_as: Service, lan: Lan | None
) -> dict[str, str]:
    """What the processes of a lab find in their environment; their folders are made, and theirs."""
    home = make_var() / "home"
    home.mkdir(mode=0o700, exist_ok=True)
    runs_as.own_all(home)
    logs = make_var() / ("demo-log" if mode == "demo" else "log")
    logs.mkdir(mode=0o700, exist_ok=True)
    backups = make_var() / "backups"
    backups.mkdir(mode=0o700, exist_ok=True)
    for folder in (logs, photos(mode), backups):
        runs_as.own_all(folder)
    settings = dict(
        os.environ, ORDERLY_BENCH_SECRET=secret(mode), ORDERLY_BENCH_MODE=mode, PYTHONUNBUFFERED="1", HOME=str(home),
        TMPDIR=str(home), ORDERLY_BENCH_PHOTOS=str(photos(mode)), ORDERLY_BENCH_LOGS=str(logs), ORDERLY_BENCH_BACKUPS=str(backups), PYTHONPYCACHEPREFIX=str(home / "compiled"), MPLCONFIGDIR=str(home), XDG_CACHE_HOME=str(home / "cache"),
    )  # fmt: skip
    settings["ORDERLY_BENCH_HOSTS"] = ",".join(hosts(lan))
    if lan:
        settings["ORDERLY_BENCH_TLS"] = "1"
        if not lan.cert:
            settings["ORDERLY_BENCH_AUTHORITY"] = str(VAR / "tls" / "authority.pem")
    if mode == "run":
        settings["ORDERLY_BENCH_FIRST_CODE"] = first_code()
    if development:
        settings["ORDERLY_BENCH_DEVELOPMENT"] = "1"
    settings.pop(OWNER_VARIABLE, None)
    if server:
        settings[URL_VARIABLE] = server.url(DATABASES[mode])
    return settings


def hosts(lan: Lan | None) -> list[str]:
    """Names and addresses the lab answers to: this machine's own, that of its network, and those of ``ORDERLY_BENCH_HOSTS``."""
    own = ["localhost", ports.LOOPBACK, *([lan.host, *_own_names()] if lan else [])]
    named = [name.strip() for name in os.environ.get("ORDERLY_BENCH_HOSTS", "").split(",")]
    return list(dict.fromkeys(name for name in (*own, *named) if name))


def _own_names() -> list[str]:
    whole = socket.gethostname()
    own = whole.split(".")[0]
    return [whole, own, f"{own}.local"]


def certificate(place: Place, settings: dict[str, str], runs_as: Service, quiet: bool = False) -> None:
    """The lab's certificate, made at the first start, and printed."""
    if place.lan is None:
        return
    folder = VAR / "tls"
    folder.mkdir(mode=0o700, exist_ok=True)
    runs_as.own_all(folder)
    command = [
        str(PYTHON),
        "-m",
        "orderly_bench.cli",
        "certificate",
        f"--folder={folder}",
        f"--host={place.host}",
        f"--port={place.port}",
    ]
    command += [f"--cert={place.lan.cert}", f"--key={place.lan.key}"] if place.lan.cert else []
    words = subprocess.DEVNULL if quiet else None
    if subprocess.run(command, cwd=ROOT, env=settings, stdout=words, check=False, **runs_as.popen).returncode != 0:
        raise Problem("There is no certificate to serve with; the lines above say why.")


def waitress(host: str, port: int) -> list[str]:
    """What a web server without TLS is started with."""
    return [
        str(PYTHON), "-m", "waitress", f"--listen={host}:{port}", "--threads=8", "--connection-limit=1000", "--channel-timeout=60",
        "--asyncore-use-poll", f"--max-request-body-size={MOST_BODY_BYTES}", "--ident=", "orderly_bench.wsgi:app",
    ]  # fmt: skip


def _start_web(place: Place, settings: dict[str, str], runs_as: Service) -> subprocess.Popen[bytes]:
    command = waitress(place.host, place.port)
    if place.lan:
        cert, key = place.lan.files
        command = [
            str(PYTHON), "-m", "hypercorn", f"--bind={place.host}:{place.port}", f"--certfile={cert}", f"--keyfile={key}", "--workers=0",
            "--read-timeout=60", "--log-level=warning", "orderly_bench.wsgi:app",
        ]  # fmt: skip
    with appended(VAR / "web.log") as log:
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
    processes.note(VAR / "web.pid", web.pid)
    return web


def _wait_for(web: subprocess.Popen[bytes], place: Place) -> None:
    until = time.monotonic() + 30
    while time.monotonic() < until:
        if web.poll() is not None:
            raise Problem(f"The web server did not start:\n{_tail_of_log()}")
        if ports.answers(place.port, place.host):
            return
        time.sleep(0.05)
    raise Problem(f"The web server did not answer within 30 s. See {VAR / 'web.log'}")


def _tail_of_log() -> str:
    file = VAR / "web.log"
    return "\n".join(file.read_text(errors="replace").splitlines()[-6:]) if file.exists() else ""


def _greet(mode: str, address: str) -> None:
    say(f"\n  Orderly Bench is at {address}")
    if mode == "demo":
        say("  This is the demo lab, Tarn Head: the sign-in page offers its four people at a click.")
    else:
        say("  Sign in with your account.")
    say("  Ctrl-C stops it.\n")


def _stop(web: subprocess.Popen[bytes]) -> None:
    processes.end(web, 10)
    (VAR / "web.pid").unlink(missing_ok=True)
