"""One ``./bench run`` or ``demo`` at a time in a folder; a stale lock is taken over."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager

from orderly_bench.machine import processes
from orderly_bench.machine.paths import make_var
from orderly_bench.machine.problem import Problem, say


@contextmanager
def only_one(address: str) -> Iterator[None]:
    """Hold ``var/bench.lock`` with our process id and address."""
    file = make_var() / "bench.lock"
    if file.exists():
        pid, _, where = file.read_text().strip().partition(" ")
        if pid.isdecimal() and int(pid) != os.getpid() and "bench" in processes.command_line(int(pid)):
            raise Problem(
                f"Orderly Bench already runs from this folder, at {where} (process {pid}). Use that one, or stop it with Ctrl-C first."
            )
        say("Taking over the lock of an earlier start that did not end cleanly")
    file.write_text(f"{os.getpid()} {address}")
    try:
        yield
    finally:
        file.unlink(missing_ok=True)
