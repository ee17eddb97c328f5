"""Wires to the test database that can be cut or go silent, as nodes of a cluster do."""

from __future__ import annotations

import contextlib
import socket
import threading

from orderly_bench.database.nodes import taken_apart


class Wire:
    """Listens on a port of its own and passes on to the database what comes, until it is cut, or silent."""

    def __init__(self, url: str) -> None:
        self.to, _ = taken_apart(url)
        self.server = socket.create_server(("127.0.0.1", 0))
        self.port = int(self.server.getsockname()[1])
        self.goes = threading.Event()
        self.goes.set()
        self.answers = True
        self.ends: list[socket.socket] = []
        self.is_cut, self.cutting = False, threading.Lock()
        threading.Thread(target=self._accept, daemon=True).start()

    def _accept(self) -> None:
        with contextlib.suppress(OSError):
            while True:
                near, _ = self.server.accept()
                far = socket.create_connection((self.to.host or "", self.to.port or 3306))
                with self.cutting:
                    self.ends += [near, far]
                    if self.is_cut:  # it was, while this came in
                        self._close()
                        return
                for a, b in ((near, far), (far, near)):
                    threading.Thread(target=self._pass_on, args=(a, b, a is far), daemon=True).start()

    def _pass_on(self, a: socket.socket, b: socket.socket, is_answer: bool) -> None:
        with contextlib.suppress(OSError):
            while piece := a.recv(65_536):
                self.goes.wait()
                if self.answers or not is_answer:
                    b.sendall(piece)
        for end in (a, b):
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)

    def go_silent(self) -> None:
        """Nothing passes, nothing is closed: as a process that is stopped."""
        self.goes.clear()

    def go_on(self) -> None:
        """It passes again."""
        self.goes.set()

    def lose_answers(self) -> None:
        """What is asked arrives and is done, and nobody hears of it."""
        self.answers = False

    def cut(self) -> None:
        """As a process that was killed."""
        with contextlib.suppress(OSError):
            self.server.shutdown(socket.SHUT_RDWR)
        self.server.close()
        with self.cutting:
            self.is_cut = True
            self._close()

    def _close(self) -> None:
        for end in self.ends:
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)
            end.close()


def through(url: str, *wires: Wire) -> str:
    """The address of the database with the wires as its hosts."""
    made, _ = taken_apart(url)
    hosts = ",".join(f"127.0.0.1:{wire.port}" for wire in wires)
    return f"{made.drivername}://{made.username}:{made.password}@{hosts}/{made.database}"
