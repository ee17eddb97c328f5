"""Ports on loopback."""

from __future__ import annotations

import socket


def is_free(port: int) -> bool:
    """Whether a server could listen on 127.0.0.1:port."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
        return True


def any_free() -> int:
    """A port that is free now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def answers(port: int) -> bool:
    """Whether something accepts connections on 127.0.0.1:port."""
    with socket.socket() as probe:
        probe.settimeout(1)
        return probe.connect_ex(("127.0.0.1", port)) == 0
