"""Processes we started, found again by id and never by name alone."""

from __future__ import annotations

import os
import signal
import time
from pathlib import Path

from orderly_bench.machine.problem import say


def command_line(pid: int) -> str:
    """What a process was started with; empty when there is none."""
    try:
        return Path(f"/proc/{pid}/cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
    except OSError:
        return ""


def stop(pid: int, patience_seconds: float = 20.0) -> None:
    """End one process: asked first, then made to."""
    for number, patience in ((signal.SIGTERM, patience_seconds), (signal.SIGKILL, 5.0)):
        try:
            os.kill(pid, number)
        except ProcessLookupError:
            return
        until = time.monotonic() + patience
        while time.monotonic() < until and _alive(pid):
            time.sleep(0.05)
        if not _alive(pid):
            return


def end_leftover(file: Path, mark: str, what: str) -> None:
    """End a process of ours that an earlier start left behind: its id in ``file``, ``mark`` in its command line."""
    if not file.exists():
        return
    text = file.read_text().strip()
    if text.isdecimal() and mark in command_line(int(text)):
        say(f"Ending a {what} that an earlier start left behind")
        stop(int(text))
    file.unlink()


def _alive(pid: int) -> bool:
    try:
        state = Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0]
    except OSError:
        return False
    return state != "Z"
