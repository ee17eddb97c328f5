"""Processes we started, found again by id and never by name alone."""

from __future__ import annotations

import os
import signal
import subprocess
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


def end(process: subprocess.Popen[bytes] | None, patience_seconds: float) -> None:
    """End a child of ours: asked first, then made to."""
    if process is None or process.poll() is not None:
        return
    process.terminate()
    try:
        process.wait(patience_seconds)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()


def started_at(pid: int) -> str:
    """When a process started, in ticks since the machine did; empty when there is none. An id used again starts later."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[19]
    except (OSError, IndexError):
        return ""


def note(file: Path, pid: int) -> None:
    """Keep a process of ours by id and start, to be found again."""
    file.write_text(f"{pid} {started_at(pid)}")


def noted(file: Path, mark: str) -> int | None:
    """The process kept in a file, where it still runs: same id, same start, ``mark`` in its command line."""
    text = file.read_text().split() if file.exists() else []
    if len(text) != 2 or not text[0].isdecimal():
        return None
    pid = int(text[0])
    return pid if started_at(pid) == text[1] and mark in command_line(pid) else None


def end_leftover(file: Path, mark: str, what: str) -> None:
    """End a process of ours that an earlier start left behind."""
    pid = noted(file, mark)
    if pid is not None:
        say(f"Ending a {what} that an earlier start left behind")
        stop(pid)
    file.unlink(missing_ok=True)


def end_children(file: Path, program: str) -> None:
    """End what a process kept in a file left behind when it was killed: of its group, and running the same program."""
    text = file.read_text().split() if file.exists() else []
    if len(text) != 2 or not text[0].isdecimal():
        return
    for place in Path("/proc").iterdir():
        if not place.name.isdecimal() or place.name == text[0]:
            continue
        try:
            group = (place / "stat").read_text().rsplit(")", 1)[1].split()[2]
            same = os.path.realpath(place / "exe") == os.path.realpath(program)
        except (OSError, IndexError):
            continue
        if group == text[0] and same:
            stop(int(place.name))


def _alive(pid: int) -> bool:
    """Whether it still holds anything: a zombie whose other threads go on has its ports open yet."""
    try:
        state = Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0]
        return state != "Z" or len(os.listdir(f"/proc/{pid}/task")) > 1
    except OSError:
        return False
