"""Ports, on loopback unless an address is named."""

from __future__ import annotations

import socket
import time

from orderly_bench.machine.problem import Problem

LOOPBACK = "127.0.0.1"


def is_free(port: int, host: str = LOOPBACK, patience_seconds: float = 0.0) -> bool:
    """Whether a server could listen there, at once or within the patience."""
    until = time.monotonic() + patience_seconds
    while not _could_listen(port, host):
        if time.monotonic() >= until:
            return False
        time.sleep(0.1)
    return True


def _could_listen(port: int, host: str) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            return False
        return True


def any_free() -> int:
    """A port of loopback that is free now."""
    with socket.socket() as probe:
        probe.bind((LOOPBACK, 0))
        return int(probe.getsockname()[1])


def several_free(number: int, above: int) -> list[int]:
    """Different ports of loopback that are free now, the first ones above a number."""
    found: list[int] = []
    port = above
    while len(found) < number:
        port += 1
        if is_free(port):
            found.append(port)
    return found


def answers(port: int, host: str = LOOPBACK) -> bool:
    """Whether something accepts connections there."""
    with socket.socket() as probe:
        probe.settimeout(1)
        return probe.connect_ex((host, port)) == 0


def on_the_network() -> str:
    """This machine's address on its network; nothing is sent to find it.

    Raises
    ------
    Problem
        There is no network.
    """
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))
        except OSError as error:
            raise Problem("This machine has no address on a network. Name one: --lan ADDRESS.") from error
        return str(probe.getsockname()[0])
