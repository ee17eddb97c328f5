"""``./bench backup``, ``restore`` and ``upgrade``: with the database as it runs, or started for it."""

from __future__ import annotations

import argparse
import os
import subprocess
from datetime import datetime
from pathlib import Path

from orderly_bench.machine import environment, packages, scheduled
from orderly_bench.machine.database_server import DatabaseServer
from orderly_bench.machine.paths import PYTHON, ROOT, make_var
from orderly_bench.machine.problem import Problem, say
from orderly_bench.machine.serve import DATABASES, SERVERS, URL_VARIABLE, photos


def act(arguments: argparse.Namespace) -> int:
    """Run one of the three."""
    if getattr(arguments, "every", None):
        return _schedule(arguments)
    mode = "demo" if arguments.demo else "run"
    file = _file(arguments)
    own = URL_VARIABLE not in os.environ
    packages.install(packages.TO_RUN if own else packages.TO_RUN[1:])
    environment.ensure()
    settings = dict(os.environ, PYTHONPATH=str(ROOT), ORDERLY_BENCH_PHOTOS=str(photos(mode)))
    server = DatabaseServer(SERVERS[mode]) if own else None
    running = server is not None and server.runs_elsewhere()
    if running and arguments.command != "backup":
        raise Problem(f"Orderly Bench runs from this folder. Stop it with Ctrl-C, then {arguments.command}.")
    try:
        if server is not None:
            if not running:
                server.start((DATABASES[mode],))
            settings[URL_VARIABLE] = server.owner_url(DATABASES[mode])
        command = [str(PYTHON), "-m", "orderly_bench.cli", arguments.command, str(file)]
        if secret := getattr(arguments, "passphrase_file", ""):
            command.append(f"--passphrase-file={Path(secret).absolute()}")
        if getattr(arguments, "over", False):
            command.append(f"--over={_kept('over')}")
        return subprocess.run(command, env=settings, check=False).returncode
    finally:
        if server is not None and not running:
            server.stop()


def _schedule(arguments: argparse.Namespace) -> int:
    """Keep or end the setting of backups that the running lab makes."""
    if arguments.demo:
        raise Problem("The demo lab is thrown away with --fresh; it is backed up by hand alone.")
    made = scheduled.remember(arguments.file, arguments.every, arguments.keep, arguments.passphrase_file)
    if made is None:
        say("No more backups are made by themselves; those that are there stay.")
    else:
        say(
            f"While ./bench run runs, a backup goes to {made.folder} every {made.every}; the newest {made.keep} are kept."
        )
    return 0


def _kept(what: str) -> Path:
    """Where a lab is kept before something is done to it."""
    folder = make_var() / "backups"
    folder.mkdir(mode=0o700, exist_ok=True)
    return folder / f"{what}-{datetime.now():%Y%m%d-%H%M%S}.zip"


def _file(arguments: argparse.Namespace) -> Path:
    if arguments.command == "upgrade":
        return _kept("before")
    file = Path(arguments.file).absolute()
    if arguments.command == "backup" and file.exists():
        raise Problem(f"{file} is there already. Give another name; a backup is never overwritten.")
    if arguments.command == "backup" and not file.parent.is_dir():
        raise Problem(f"There is no folder {file.parent}. Make it, or give another.")
    if arguments.command == "restore" and not file.is_file():
        raise Problem(f"There is no file {file}.")
    return file
