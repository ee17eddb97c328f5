"""One node of a cluster of databases: a private server that holds all the others hold, by Galera."""

from __future__ import annotations

import re
import shutil
import subprocess
from dataclasses import dataclass
from pathlib import Path

from orderly_bench.machine import ports, processes
from orderly_bench.machine.database_server import DatabaseServer, program
from orderly_bench.machine.paths import VAR, appended
from orderly_bench.machine.problem import Problem, say
from orderly_bench.machine.service import Service

#: How soon the others go on without one that says nothing. On one machine, or in one house; between stations give it more.
IMPATIENT = "evs.keepalive_period=PT0.25S;evs.inactive_check_period=PT0.25S;evs.suspect_timeout=PT1.5S;evs.inactive_timeout=PT3S;evs.install_timeout=PT3S;"
#: As Galera has it of itself; for a machine that is busy with other things.
PATIENT = ""
KEPT_CHANGES = "gcache.size=64M"
#: Below the ports that outgoing connections take.
FIRST_PORT = 22_000
POSITION = re.compile(r"Recovered position:\s*([0-9a-f-]{36}):(-?\d+)")
NOWHERE = "00000000-0000-0000-0000-000000000000"


@dataclass
class Node(DatabaseServer):
    """A node with a set of ports of its own; ``others`` are where the group is met."""

    group_port: int = 0
    copy_port: int = 0
    catch_up_port: int = 0
    others: str = ""
    where: Path = VAR
    timing: str = IMPATIENT

    @property
    def home(self) -> Path:
        """Folder of this node."""
        return self.where / self.name

    @property
    def kept_apart(self) -> Path:
        """One place for all nodes: an account is theirs together."""
        return self.where

    @property
    def defaults(self) -> list[str]:
        """What all nodes have in common."""
        return [f"--defaults-file={self.where / 'galera.cnf'}"]

    @property
    def noted(self) -> int | None:
        """Its process, by id and start; None where it does not run."""
        return processes.noted(self.home / "server.pid", str(self.data))

    def position(self) -> tuple[str, int]:
        """How far its data are: the group's own name and the number of the last change; -1 where that is not known.

        A server that was killed has not written it down and is asked to look: it reads its own log of changes, and ends.
        """
        state = self.data / "grastate.dat"
        told = dict(re.findall(r"^(uuid|seqno):\s*(\S+)$", state.read_text(), re.MULTILINE)) if state.exists() else {}
        if told.get("seqno", "-1") != "-1":
            return told["uuid"], int(told["seqno"])
        if not (self.data / "ibdata1").exists():
            return NOWHERE, -1
        wanted = [
            *self.command(self.defaults),
            "--wsrep-recover",
            "--skip-networking",
            f"--log-error={self.log}.looked",
        ]
        looked = Path(f"{self.log}.looked")
        looked.unlink(missing_ok=True)
        looked.touch(mode=0o600)
        self.runs_as.own(looked)
        subprocess.run(wanted, capture_output=True, check=False, umask=0o077, timeout=120, **self.runs_as.popen)
        hits = POSITION.findall(looked.read_text(errors="replace"))
        return (hits[-1][0], int(hits[-1][1])) if hits else (NOWHERE, -1)

    def begin(self, databases: tuple[str, ...]) -> None:
        """Start it as the first, whose data the others take over."""
        self.make_folders()
        if not (self.data / "mysql").is_dir():
            self.make_data()
        state = self.data / "grastate.dat"
        if state.exists():  # as the account whose folder it is: root writes through no link that lies there
            command = ["sed", "-i", "s/^safe_to_bootstrap: 0/safe_to_bootstrap: 1/", str(state)]
            subprocess.run(command, check=True, **self.runs_as.popen)
        self._launch("--wsrep-new-cluster", f"--init-file={self.write_init(databases)}")

    def join(self) -> None:
        """Start it as one that takes over what it lacks: the changes since it left where a node has them yet, else everything."""
        self.make_folders()
        if not self.data.exists():
            self.data.mkdir(mode=0o700)
            self.runs_as.own(self.data)
        name, number = self.position()
        self._launch(*([f"--wsrep-start-position={name}:{number}"] if number >= 0 else []))

    def _launch(self, *more: str) -> None:
        options = f"gmcast.listen_addr=tcp://127.0.0.1:{self.group_port};ist.recv_addr=127.0.0.1:{self.catch_up_port};{self.timing}{KEPT_CHANGES}"
        self.launch(
            self.defaults, f"--wsrep-node-name={self.name}", f"--wsrep-cluster-address=gcomm://{self.others}",
            "--wsrep-node-address=127.0.0.1", f"--wsrep-sst-receive-address=127.0.0.1:{self.copy_port}", f"--wsrep-provider-options={options}", *more,
        )  # fmt: skip


@dataclass
class Arbitrator:
    """A vote without data, for an even number of nodes."""

    runs_as: Service
    port: int
    others: str
    where: Path
    process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start it; it joins the group when there is one."""
        home = self.where / "arbitrator"
        home.mkdir(mode=0o700, exist_ok=True)
        processes.end_leftover(home / "server.pid", "garbd", "arbitrator")
        with appended(home / "server.log") as log:
            self.process = subprocess.Popen(
                [
                    program("garbd", package="galera-arbitrator-4"), "--cfg", str(self.where / "garbd.cnf"), "--address", f"gcomm://{self.others}",
                    "--options", f"gmcast.listen_addr=tcp://127.0.0.1:{self.port};{IMPATIENT}",
                ],
                stdout=log, stderr=log, stdin=subprocess.DEVNULL, start_new_session=True, **self.runs_as.popen,
            )  # fmt: skip
        processes.note(home / "server.pid", self.process.pid)

    def alive(self) -> bool:
        """Whether it runs."""
        return self.process is not None and self.process.poll() is None

    def stop(self) -> None:
        """End it."""
        processes.end(self.process, 10)


def make_nodes(where: Path, number: int, timing: str = IMPATIENT) -> list[Node]:
    """Nodes with ports of their own; kept from one start to the next, as long as they are free."""
    file = where / "ports"
    held = [int(word) for word in file.read_text().split()] if file.exists() else []
    if len(held) != 4 * number or not all(ports.is_free(port, patience_seconds=3.0) for port in held):
        held = ports.several_free(4 * number, FIRST_PORT)
        file.write_text(" ".join(map(str, held)))
    others = ",".join(f"127.0.0.1:{held[4 * n + 1]}" for n in range(number))
    return [Node(f"node-{n + 1}", None, *_of(held, n), others, where, timing) for n in range(number)]


def _of(held: list[int], n: int) -> tuple[int, Service, int, int, int]:
    own = held[4 * n : 4 * n + 4]
    return own[0], Service(""), own[1], own[2], own[3]


def start_all(nodes: list[Node], databases: tuple[str, ...]) -> None:
    """The node that knows most begins, the others take over from it, one after another.

    Raises
    ------
    Problem
        A node does not start.
    """
    for node in nodes:
        node.make_folders()
    known = {node.name: node.position() for node in nodes}
    first = max(nodes, key=lambda node: known[node.name][1])
    say(f"Starting {first.name}")
    first.begin(databases)
    for node in nodes:
        if node is not first:
            say(f"Starting {node.name}, in step with the others")
            node.join()


def come_back(node: Node) -> None:
    """Start a node again that ended; where that fails, once more with an empty folder, which the others fill."""
    try:
        node.join()
    except Problem:
        node.stop()
        shutil.rmtree(node.data, ignore_errors=True)
        node.join()
