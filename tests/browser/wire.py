"""A wire between browser and server that can be cut: a port of its own, forwarded while it is whole.

The browser's own emulation does not reach what a service worker asks for.
"""

from __future__ import annotations

import contextlib
import socket
import socketserver
import ssl
import threading


class Wire:
    """Forwards a port to the server at ``port``; with a ``context`` by TLS."""

    def __init__(self, port: int, context: ssl.SSLContext | None = None) -> None:
        self.whole = True
        self.turn = threading.Lock()
        self.open: set[socket.socket] = set()
        wire = self

        class Forward(socketserver.BaseRequestHandler):
            def handle(self) -> None:
                with contextlib.suppress(OSError), contextlib.ExitStack() as held:
                    near = self.request if context is None else context.wrap_socket(self.request, server_side=True)
                    held.enter_context(near)
                    there = held.enter_context(socket.create_connection(("127.0.0.1", port)))
                    # One that was on its way while the wire was cut goes nowhere.
                    with wire.turn:
                        if not wire.whole:
                            return
                        wire.open |= {near, there}
                    back = threading.Thread(target=_pour, args=(there, near), daemon=True)
                    back.start()
                    _pour(near, there)
                    back.join()

        class Server(socketserver.ThreadingTCPServer):
            daemon_threads = True

        self.server = Server(("127.0.0.1", 0), Forward)
        threading.Thread(target=self.server.serve_forever, daemon=True).start()
        self.address = f"http://127.0.0.1:{self.server.server_address[1]}"

    def cut(self) -> None:
        """Nothing goes through any more, what is on its way is lost."""
        with self.turn:
            self.whole = False
            for one in self.open:
                with contextlib.suppress(OSError):
                    one.shutdown(socket.SHUT_RDWR)
            self.open.clear()

    def mend(self) -> None:
        """All goes through again."""
        self.whole = True

    def close(self) -> None:
        """The port is given back."""
        self.cut()
        self.server.shutdown()
        self.server.server_close()


def _pour(source: socket.socket, sink: socket.socket) -> None:
    with contextlib.suppress(OSError):
        while data := source.recv(65_536):
            sink.sendall(data)
    with contextlib.suppress(OSError):
        sink.shutdown(socket.SHUT_WR)
