"""A whole cluster on one machine, for trial and tests: nodes of the database, web servers before them, one address before these.

Everything is set up as the files of ``deploy/`` say, with loopback ports in the place of machines.
"""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from orderly_bench.machine import environment, node, packages, ports, processes, serve
from orderly_bench.machine.database_server import program
from orderly_bench.machine.lock import only_one
from orderly_bench.machine.node import Arbitrator, Node
from orderly_bench.machine.paths import PYTHON, ROOT, VAR, appended, make_var
from orderly_bench.machine.problem import Problem, complain, say
from orderly_bench.machine.service import Service, keep_for_root, service, web_service

NEEDED = (*packages.TO_RUN, "galera-4", "galera-arbitrator-4", "rsync", "nginx-light")
DEPLOY, HOME, TESTS = ROOT / "deploy", VAR / "cluster", VAR / "test-cluster"
DATABASE = serve.DATABASES["demo"]
MOST_NODES, MOST_SERVERS = 7, 8
#: Above those of the nodes, some of which are only used now and then.
FIRST_PORT = 22_500
PATIENCE_SECONDS = 60.0


@dataclass
class Process:
    """One of the processes before the database: what it is started with, and where its id and words go."""

    name: str
    command: list[str]
    port: int
    runs_as: Service
    settings: dict[str, str]
    process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start it and wait until it answers.

        Raises
        ------
        Problem
            It ends, or does not answer.
        """
        note, log = HOME / f"{self.name}.pid", HOME / f"{self.name}.log"
        _end_left(note)
        with appended(log) as words:
            self.process = subprocess.Popen(
                self.command, cwd=ROOT, env=self.settings, stdout=words, stderr=words, stdin=subprocess.DEVNULL, start_new_session=True,
                umask=0o077, **self.runs_as.popen,
            )  # fmt: skip
        processes.note(note, self.process.pid)
        until = time.monotonic() + PATIENCE_SECONDS
        while time.monotonic() < until and self.alive():
            if ports.answers(self.port):
                return
            time.sleep(0.05)
        raise Problem(f"{self.name} did not start. See {log}")

    def alive(self) -> bool:
        """Whether it runs."""
        return self.process is not None and self.process.poll() is None

    def stop(self) -> None:
        """End it."""
        processes.end(self.process, 15)
        (HOME / f"{self.name}.pid").unlink(missing_ok=True)


def _end_left(note: Path) -> None:
    """End what an earlier start left behind of a process; of nginx also the workers of a master that was killed."""
    processes.end_children(note, program("nginx", package="nginx-light"))
    processes.end_leftover(note, "", note.stem)


@dataclass
class Cluster:
    """Everything that runs; ended in the order in which it leans on each other."""

    nodes: list[Node]
    arbitrator: Arbitrator | None = None
    before: list[Process] = field(default_factory=list)
    revived: dict[str, serve.Revivals] = field(default_factory=dict)
    given_up: set[str] = field(default_factory=set)

    def url(self, first: int = 0, owner: bool = False, database: str = DATABASE) -> str:
        """The address of the database: all nodes, begun with the one that is named."""
        turned = self.nodes[first % len(self.nodes) :] + self.nodes[: first % len(self.nodes)]
        one = turned[0].owner_url(database) if owner else turned[0].url(database)
        hosts = ",".join(f"127.0.0.1:{each.port}" for each in turned)
        return one.replace(f"127.0.0.1:{turned[0].port}", hosts)

    def look(self) -> None:
        """Start again what ended; a node comes back to those that live, and where all ended, the one that knows most begins."""
        if not any(one.alive() for one in self.nodes):
            complain("All nodes were ended from outside. Starting them again.")
            node.start_all(self.nodes, (DATABASE,))
        for one in self.nodes:
            if not one.alive():
                self._again(one.name, one.tail(), lambda one=one: node.come_back(one))  # type: ignore[misc]
        if self.arbitrator is not None and not self.arbitrator.alive():
            self._again("arbitrator", "", self.arbitrator.start)
        for each in self.before:
            if not each.alive():
                self._again(each.name, "", each.start)

    def _again(self, name: str, tail: str, start: Callable[[], None]) -> None:
        """Start one again; the others go on where it does not start, and where it is given up."""
        if name in self.given_up:
            return
        try:
            wait = self.revived.setdefault(name, serve.Revivals()).wait(time.monotonic())
        except Problem as problem:
            self.given_up.add(name)
            complain(f"{name} is given up. {problem}")
            return
        complain(f"{name} was ended from outside. Starting it again." + (f" Its log ends:\n{tail}" if tail else ""))
        time.sleep(min(wait, 2.0))
        try:
            start()
        except Problem as problem:
            complain(str(problem))

    def stop(self) -> None:
        """End all of it; the node that ends last is the one to begin with."""
        for each in reversed(self.before):
            each.stop()
        if self.arbitrator is not None:
            self.arbitrator.stop()
        for one in reversed(self.nodes):
            one.stop()


def run(nodes: int, servers: int, port: int, fresh: bool) -> int:
    """Serve the demo lab from a cluster on 127.0.0.1:port, by TLS, until Ctrl-C.

    Raises
    ------
    Problem
        Numbers that can't be, a port that is taken, or something that does not start.
    """
    if not 1 <= nodes <= MOST_NODES or not 1 <= servers <= MOST_SERVERS:
        raise Problem(f"--nodes must be between 1 and {MOST_NODES}, --servers between 1 and {MOST_SERVERS}.")
    if not 1 <= port <= 65_535:
        raise Problem(f"--port must be between 1 and 65535, not {port}.")
    for stop in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
        signal.signal(stop, serve.as_interrupt)
    with only_one(f"https://127.0.0.1:{port}"):
        packages.install(NEEDED)
        environment.ensure()
        for note in HOME.glob("*.pid"):
            _end_left(note)
        if not ports.is_free(port, patience_seconds=3.0):
            raise Problem(
                f"Port {port} is taken by another program. Stop that one, or start with another: --port {port + 1}"
            )
        made = _folders(nodes, fresh)
        try:
            _start(made, servers, port)
            while True:
                time.sleep(0.5)
                made.look()
        except KeyboardInterrupt:
            return 0
        finally:
            made.stop()
            say("Stopped.")


def _laid_out(where: Path, nodes: int, fresh: bool, timing: str = node.IMPATIENT) -> list[Node]:
    """The nodes, their folders, and what of ``deploy/`` they read; another number of nodes begins anew."""
    make_var()
    held = where / "nodes"
    if where.exists() and (fresh or not held.exists() or held.read_text() != str(nodes)):
        for one in node.make_nodes(where, int(held.read_text()) if held.exists() else nodes):
            one.make_folders()
        shutil.rmtree(where)
    where.mkdir(mode=0o700, exist_ok=True)
    keep_for_root(where)
    held.write_text(str(nodes))
    for name in ("galera.cnf", "garbd.cnf"):
        shutil.copyfile(DEPLOY / name, where / name)
        (where / name).chmod(0o644)
    return node.make_nodes(where, nodes, timing)


def _folders(nodes: int, fresh: bool) -> Cluster:
    """Everything in its place before the first start."""
    found = Cluster(_laid_out(HOME, nodes, fresh))
    shared = HOME / "shared"
    shared.mkdir(mode=0o700, exist_ok=True)
    keep_for_root(shared)
    os.environ[serve.SHARED_VARIABLE] = str(shared)
    if nodes % 2 == 0:
        (own,) = ports.several_free(1, FIRST_PORT)
        found.arbitrator = Arbitrator(service(), own, found.nodes[0].others, HOME)
    return found


@contextmanager
def for_tests(database: str) -> Iterator[str]:
    """Three nodes for the tests; the address of a database on them, by the account that may make more of them."""
    packages.install(NEEDED)
    made = Cluster(_laid_out(TESTS, 3, False, node.PATIENT))
    try:
        node.start_all(made.nodes, (database,))
        yield made.url(0, owner=True, database=database)
    finally:
        made.stop()


def _start(made: Cluster, servers: int, port: int) -> None:
    node.start_all(made.nodes, (DATABASE,))
    if made.arbitrator is not None:
        say("Starting the arbitrator, a vote without data")
        made.arbitrator.start()
    runs_as = web_service(made.nodes[0].runs_as)
    settings = serve.settings_of("demo", False, None, runs_as, None) | {
        "ORDERLY_BENCH_TLS": "1", "ORDERLY_BENCH_PROXIES": "1", "ORDERLY_BENCH_AUTHORITY": str(VAR / "tls" / "authority.pem"),
    }  # fmt: skip
    owner = settings | {serve.URL_VARIABLE: made.url(owner=True)}
    if subprocess.run(_cli("nodes", "--wait=60"), cwd=ROOT, env=owner, check=False, **runs_as.popen).returncode != 0:
        raise Problem("The nodes of the database are not in step; the lines above say how each stands.")
    if (
        subprocess.run(_cli("prepare", "--mode", "demo"), cwd=ROOT, env=owner, check=False, **runs_as.popen).returncode
        != 0
    ):
        raise Problem("The database could not be prepared; the lines above say why.")
    serve.certificate(serve.Place("127.0.0.1", port, serve.Lan("127.0.0.1")), settings, runs_as, quiet=True)
    webs = [_web(made, n, own, settings, runs_as) for n, own in enumerate(ports.several_free(servers, FIRST_PORT + 1))]
    made.before = [*webs, _front(webs, port, runs_as)]
    for each in made.before:
        each.start()
    _greet(made, webs, port)


def _cli(*words: str) -> list[str]:
    return [str(PYTHON), "-m", "orderly_bench.cli", *words]


def _web(made: Cluster, n: int, port: int, settings: dict[str, str], runs_as: Service) -> Process:
    """A web server, which asks a node of its own first."""
    logs = HOME / f"web-{n + 1}-log"
    logs.mkdir(mode=0o700, exist_ok=True)
    runs_as.own_all(logs)
    own = settings | {
        serve.URL_VARIABLE: made.url(n),
        "ORDERLY_BENCH_LOGS": str(logs),
        "ORDERLY_BENCH_NAME": f"web-{n + 1}",
    }
    return Process(f"web-{n + 1}", serve.waitress("127.0.0.1", port), port, runs_as, own)


def _front(webs: list[Process], port: int, runs_as: Service) -> Process:
    """What stands before the web servers: ``deploy/nginx.conf`` with the places filled in."""
    home = HOME / "nginx"
    home.mkdir(mode=0o700, exist_ok=True)
    runs_as.own_all(home)
    tls = VAR / "tls"
    servers = "\n        ".join(f"server 127.0.0.1:{web.port} max_fails=1 fail_timeout=2s;" for web in webs)
    text = (DEPLOY / "nginx.conf").read_text()
    filled = {
        "HERE": home, "PORT": f"127.0.0.1:{port}", "SERVERS": servers, "CERT": tls / "cert.pem", "KEY": tls / "key.pem",
        "STATIC": ROOT / "orderly_bench" / "web" / "static",
    }  # fmt: skip
    head, rest = text.split("\nworker_processes", 1)
    for word, value in filled.items():
        rest = rest.replace(f"@{word}@", str(value))
    file = HOME / "nginx.conf"
    file.write_text(f"{head}\nworker_processes{rest}")
    file.chmod(0o644)
    command = [
        program("nginx", package="nginx-light"),
        "-p",
        str(home),
        "-c",
        str(file),
        "-e",
        str(home / "error.log"),
        "-g",
        "daemon off;",
    ]
    return Process("nginx", command, port, runs_as, dict(os.environ))


def _greet(made: Cluster, webs: list[Process], port: int) -> None:
    say(
        f"\n  Orderly Bench is at https://127.0.0.1:{port}, the demo lab, from {len(made.nodes)} nodes and {len(webs)} web servers."
    )
    for each in webs:
        say(f"  {each.name}: http://127.0.0.1:{each.port} (its figures: /metrics)")
    for one in made.nodes:
        say(f"  {one.name}: 127.0.0.1:{one.port}, its log {one.log}")
    say(f"  Its certificate is signed by {VAR / 'tls' / 'authority.pem'}. Ctrl-C stops all of it.\n")
