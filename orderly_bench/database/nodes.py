"""The nodes that hold one database: which of them is in step is looked at all the time, and nobody waits for one that is not.

A node that dies closes its connections; one that hangs does not, and whoever waits for its answer would wait for minutes. So each node
is asked twice a second how it stands, on a connection of its own, and where it does not answer, or is not in step with the others, the
connections to it are cut: who waits gets an error at once, and the next connection goes to another node.
"""

from __future__ import annotations

import logging
import re
import socket
import threading
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple
from weakref import WeakSet

import pymysql
from pymysql.connections import Connection
from sqlalchemy import URL, make_url

LOOK_SECONDS = 0.5
#: A node that says nothing for so long is asked once more, then left.
PATIENCE_SECONDS = 0.6
#: A node whose disk is full answers as if nothing were: it is left for so long.
LEFT_SECONDS = 60.0
CANT_CONNECT, ACCESS_DENIED = 2003, 1045
DEFAULT_PORT = 3306
SYNCED = "4"
#: What the server says of itself; a server of no cluster says that replication is off.
ASKED = (
    "SELECT LOWER(variable_name), variable_value FROM information_schema.global_status WHERE variable_name IN "
    "('wsrep_ready', 'wsrep_cluster_status', 'wsrep_local_state', 'wsrep_cluster_size') UNION ALL SELECT 'wsrep_on', @@global.wsrep_on"
)
IN_STEP = "in step"
NO_ANSWER = "no answer"
log = logging.getLogger(__name__)


class Node(NamedTuple):
    """Where one server listens."""

    host: str
    port: int

    def __str__(self) -> str:
        return f"{self.host}:{self.port}"


def taken_apart(address: str) -> tuple[URL, list[Node]]:
    """An address with several hosts: that of the first alone, and all nodes in the order given.

    >>> taken_apart("mysql+pymysql://me:secret@a:3307,b/lab")[1]
    [Node(host='a', port=3307), Node(host='b', port=3306)]

    Raises
    ------
    ValueError
        A host without a name, or a port that is none.
    """
    found = re.fullmatch(r"(.+://(?:[^/]*@)?)([^/@]+)(/.*)?", address)
    if found is None or "," not in found[2]:
        return make_url(address), []
    nodes = []
    for place in found[2].split(","):
        hit = re.fullmatch(r"\s*([^:\s]+|\[[^\]]+\])(?::(\d{1,5}))?\s*", place)
        if hit is None:
            raise ValueError(
                f"{place.strip() or 'nothing'} is no host of a database; write host:port, with commas between"
            )
        nodes.append(Node(hit[1].strip("[]"), int(hit[2] or DEFAULT_PORT)))
    if len(set(nodes)) < len(nodes):
        raise ValueError("a host of the database is named twice")
    first = found[2].split(",")[0].strip()
    return make_url(f"{found[1]}{first}{found[3] or ''}"), nodes


@dataclass(frozen=True)
class Standing:
    """How a node stands: ``in step``, or what keeps it from being asked; the nodes that it sees, 1 where it is no cluster's."""

    says: str
    size: int = 0

    @property
    def good(self) -> bool:
        """Whether it may be asked."""
        return self.says == IN_STEP


def read(status: Mapping[str, str]) -> Standing:
    """How a node stands by what it says of itself.

    References
    ----------
    Galera's ``wsrep_local_state``: 1 joining, 2 donor, 3 joined, 4 synced; only a *Primary* component has a majority.
    """
    if status.get("wsrep_on") in ("0", "OFF"):
        return Standing(IN_STEP, 1)
    size = int(status.get("wsrep_cluster_size", 0))
    if status.get("wsrep_cluster_status") != "Primary":
        return Standing("without a majority", size)
    if status.get("wsrep_local_state") != SYNCED or status.get("wsrep_ready") != "ON":
        return Standing("not in step yet", size)
    return Standing(IN_STEP, size)


class Nodes:
    """The nodes of one database, watched while it lives; connections go to one of them, the first in the list that is in step.

    It stays with that one as long as it may be asked: one that comes back takes nobody from it.
    """

    def __init__(self, nodes: Sequence[Node], login: Mapping[str, Any]) -> None:
        self.nodes, self.login = list(nodes), login
        self.change = threading.Condition()
        self.standing: dict[Node, Standing] = {}
        self.current: Node | None = None
        self._open: dict[Node, WeakSet[Connection[Any]]] = {node: WeakSet() for node in self.nodes}
        self._left: dict[Node, float] = {}
        self._over: threading.Event | None = None
        self._begin()

    def connect(self, wanted: Mapping[str, Any]) -> Connection[Any]:
        """A connection to the node that is asked now; ``wanted`` as pymysql takes it, its host and port aside.

        Raises
        ------
        pymysql.err.OperationalError
            No node can be asked; it says how each stands.
        """
        self._begin()
        self.wait(0.0 if len(self.standing) == len(self.nodes) else 3 * PATIENCE_SECONDS)
        for _ in self.nodes:
            with self.change:
                node = self.current
            if node is None:
                break
            try:
                made: Connection[Any] = pymysql.connect(**{**wanted, "host": node.host, "port": node.port})
            except pymysql.err.OperationalError as error:
                if error.args[:1] != (CANT_CONNECT,):
                    raise
                self._learn(node, Standing(NO_ANSWER))
                continue
            with self.change:
                self._open[node].add(made)
                if self.current != node:
                    _cut(made)
            return made
        raise pymysql.err.OperationalError(CANT_CONNECT, f"no node of the database can be asked ({self.report()})")

    def wait(self, seconds: float) -> bool:
        """Whether there is a node to ask, now or within some seconds."""
        with self.change:
            return self.change.wait_for(lambda: self.current is not None, seconds)

    def report(self) -> str:
        """How each node stands, in words for a log."""
        with self.change:
            return "; ".join(f"{node}: {self._stands(node).says}" for node in self.nodes)

    def sizes(self) -> dict[Node, Standing]:
        """How each node stands."""
        with self.change:
            return {node: self._stands(node) for node in self.nodes}

    def leave(self, connection: object, why: str) -> None:
        """Ask the node of a connection no more for a while: it answers, but can't keep anything."""
        for node, open_ones in self._open.items():
            if connection in open_ones:
                with self.change:
                    self._left[node] = time.monotonic() + LEFT_SECONDS
                self._learn(node, Standing(why))

    def _begin(self) -> None:
        """Watch, where nobody does."""
        with self.change:
            if self._over is not None:
                return
            self._over = over = threading.Event()
        for node in self.nodes:
            threading.Thread(target=self._watch, args=(node, over), daemon=True, name=f"watch {node}").start()

    def close(self) -> None:
        """Watch no more, until a connection is wanted again."""
        with self.change:
            if self._over is not None:
                self._over.set()
            self._over, self.current = None, None
            self.standing.clear()
            self.change.notify_all()

    def _stands(self, node: Node) -> Standing:
        return self.standing.get(node, Standing("not asked yet"))

    def _watch(self, node: Node, over: threading.Event) -> None:
        own: Connection[Any] | None = None
        silent = 0
        while not over.is_set():
            try:
                own = own or pymysql.connect(
                    host=node.host, port=node.port, connect_timeout=PATIENCE_SECONDS, read_timeout=PATIENCE_SECONDS, autocommit=True,
                    **self.login,
                )  # fmt: skip
                with own.cursor() as cursor:
                    cursor.execute(ASKED)
                    found = read({str(name): str(value) for name, value in cursor.fetchall()})
                silent = 0
            except (pymysql.err.MySQLError, OSError, ValueError, TypeError) as error:
                _close(own)
                own = None
                silent += 1
                if silent < 2 and _timed_out(error):
                    continue
                found = Standing("refuses the account" if error.args[:1] == (ACCESS_DENIED,) else NO_ANSWER)
            if self._left.get(node, 0.0) < time.monotonic() and not over.is_set():
                self._learn(node, found)
            over.wait(LOOK_SECONDS)
        _close(own)

    def _learn(self, node: Node, found: Standing) -> None:
        with self.change:
            before, self.standing[node] = self.standing.get(node), found
            if (before.says if before is not None else IN_STEP) != found.says:
                log.warning("database node %s: %s", node, found.says)
            self._choose()
            if not found.good:
                for one in list(self._open[node]):
                    _cut(one)
                self._open[node].clear()
            self.change.notify_all()

    def _choose(self) -> None:
        """Keep the node that is asked while it is good; else the first good one, once those before it are known."""
        if self.current is not None and self._stands(self.current).good:
            return
        self.current = None
        for node in self.nodes:
            if node not in self.standing:
                return
            if self._stands(node).good:
                self.current = node
                return


def _timed_out(error: BaseException) -> bool:
    return "timed out" in str(error)


def _close(connection: Connection[Any] | None) -> None:
    if connection is not None:
        _cut(connection)
        connection._force_close()


def _cut(connection: Connection[Any]) -> None:
    """Wake whoever waits for an answer on it; closing it is theirs."""
    wire = connection._sock
    if wire is not None:
        try:
            wire.shutdown(socket.SHUT_RDWR)
        except OSError:
            return
