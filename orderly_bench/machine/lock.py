"""One ``./bench run`` or ``demo`` at a time in a folder: the system itself lets go of the lock when its holder ends, however it ends."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager

from orderly_bench.machine.paths import make_var
from orderly_bench.machine.problem import Problem


@contextmanager
def only_one(address: str) -> Iterator[None]:
    """Hold ``var/bench.lock``; in it, for whoever is refused, our process id and address."""
    with (make_var() / "bench.lock").open("a+") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            file.seek(0)
            pid, _, where = file.read().strip().partition(" ")
            raise Problem(
                f"Orderly Bench already runs from this folder, at {where} (process {pid}). Use that one, or stop it with Ctrl-C first."
            ) from error
        file.truncate(0)
        file.write(f"{os.getpid()} {address}")
        file.flush()
        yield
