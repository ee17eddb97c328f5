"""Where things are kept. Everything that running makes lies under ``var/``."""

from __future__ import annotations

import os
import shutil
from pathlib import Path
from typing import IO

from orderly_bench.machine.problem import Problem

ROOT = Path(__file__).resolve().parents[2]
VAR = ROOT / "var"
VENV = VAR / "venv"
PYTHON = VENV / "bin" / "python"
LEAST_FREE_MB = 300


def anyone_can_reach(path: Path) -> bool:
    """Whether a user without rights of its own could enter every folder above what a path leads to."""
    return all(folder.stat().st_mode & 0o001 for folder in path.resolve().parents)


def appended(path: Path) -> IO[bytes]:
    """A log to write on, ours alone to read; a link in its place is refused."""
    return os.fdopen(os.open(path, os.O_WRONLY | os.O_APPEND | os.O_CREAT | os.O_NOFOLLOW, 0o600), "ab")


def read_own(path: Path) -> str:
    """What a file holds; a link in its place is refused, for who may read its end is another question."""
    with os.fdopen(os.open(path, os.O_RDONLY | os.O_NOFOLLOW), encoding="utf-8") as held:
        return held.read()


def make_var() -> Path:
    """The ``var`` folder, nobody else's to look into, with room in it; where root starts, the servers' account may pass through it."""
    try:
        VAR.mkdir(mode=0o700, exist_ok=True)
        if os.geteuid() in (0, VAR.stat().st_uid):
            VAR.chmod(0o711 if os.geteuid() == 0 else 0o700)
    except OSError as error:
        raise Problem(f"{VAR} can't be made ({error.strerror}). Give yourself the right to write there.") from error
    free = shutil.disk_usage(VAR).free // 2**20
    if free < LEAST_FREE_MB:
        raise Problem(
            f"Only {free} MB are free on the disk that holds {VAR}. Free at least {LEAST_FREE_MB} MB and start again."
        )
    return VAR
