"""The Python environment, made from hashed requirement files and remade only when they change."""

from __future__ import annotations

import hashlib
import os
import subprocess
import sys
from pathlib import Path

from orderly_bench.machine.paths import PYTHON, ROOT, VENV, anyone_can_reach, make_var
from orderly_bench.machine.problem import Problem, say


def ensure(for_tests: bool = False) -> None:
    """Make or bring up to date ``var/venv``."""
    make_var()
    files = ["requirements.txt"] + (["requirements-dev.txt"] if for_tests else [])
    if not PYTHON.exists():
        say("Making the Python environment")
        _run([_base(), "-m", "venv", "--clear", str(VENV)], "The Python environment could not be made")
    for name in files:
        requirements = ROOT / name
        wanted = hashlib.sha256(requirements.read_bytes()).hexdigest()
        stamp = VENV / f".installed-{name}"
        if stamp.exists() and stamp.read_text() == wanted:
            continue
        say(f"Installing Python packages from {name}")
        pip = [str(PYTHON), "-m", "pip", "install", "--quiet", "--disable-pip-version-check", "--require-hashes"]
        _run(
            [*pip, "-r", str(requirements)],
            "The Python packages could not be installed; check the network and start again",
        )
        stamp.write_text(wanted)


def _base() -> str:
    """The interpreter to build on: this one; for root, Debian's own where only root can reach this one."""
    system = "/usr/bin/python3"
    if os.geteuid() != 0 or anyone_can_reach(Path(sys.executable)):
        return sys.executable
    fits = [system, "-c", "import ensurepip, sys; sys.exit(sys.version_info < (3, 11))"]
    try:
        found = subprocess.run(fits, capture_output=True, check=False).returncode == 0
    except OSError:
        found = False
    return system if found else sys.executable


def _run(command: list[str], otherwise: str) -> None:
    done = subprocess.run(command, capture_output=True, text=True, check=False, umask=0o022)
    if done.returncode != 0:
        tail = "\n".join((done.stdout + done.stderr).strip().splitlines()[-8:])
        raise Problem(f"{otherwise}:\n{tail}")
