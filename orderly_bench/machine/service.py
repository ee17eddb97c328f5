"""The system user that the servers run as: never root, where root started them."""

from __future__ import annotations

import os
import pwd
import shutil
import subprocess
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from orderly_bench.machine.paths import PYTHON, ROOT, VAR, anyone_can_reach
from orderly_bench.machine.problem import complain

NAME = "orderly-bench"


@dataclass(frozen=True)
class Service:
    """Whom the servers run as; ``uid`` None: as whoever started them."""

    name: str
    uid: int | None = None
    gid: int | None = None

    @property
    def popen(self) -> dict[str, Any]:
        """Arguments of ``subprocess`` that start a process as this user."""
        return {} if self.uid is None else {"user": self.uid, "group": self.gid, "extra_groups": []}

    def own(self, path: Path) -> None:
        """Give a file or folder to this user; of a link the link itself, never what it leads to."""
        if self.uid is not None and self.gid is not None:
            os.chown(path, self.uid, self.gid, follow_symlinks=False)

    def own_all(self, folder: Path) -> None:
        """Give a folder with all in it to this user, where it is another's: a lab made by an earlier version."""
        if self.uid is None or not folder.exists() or folder.lstat().st_uid == self.uid:
            return
        self.own(folder)
        for place, folders, files in os.walk(folder, followlinks=False):
            for name in (*folders, *files):
                self.own(Path(place) / name)


def service() -> Service:
    """The unprivileged user when root starts, made where there is none; else the present one.

    Where that user can't reach the folder, root it stays, and it is said.
    """
    me = pwd.getpwuid(os.geteuid()).pw_name
    if os.geteuid() != 0:
        return Service(me)
    if not anyone_can_reach(ROOT / "bench"):
        complain(
            f"Only root may enter {ROOT}, so the servers run as root too. Move the folder to a place such as /srv to have them run unprivileged."
        )
        return Service(me)
    found = _found() or _made()
    if found is None:
        complain(
            f"The system user {NAME} could not be made, so the servers run as root. Make it with useradd --system {NAME}."
        )
        return Service(me)
    keep_for_root(VAR)
    return Service(NAME, found.pw_uid, found.pw_gid)


def keep_for_root(folder: Path) -> None:
    """A folder in which root writes, and runs what lies there, is root's: others may pass through it, not look or write.

    One that an earlier version gave to the serving account is taken back, with the files in it; links in it are taken away.
    """
    if os.geteuid() != 0:
        return
    if folder.lstat().st_uid != 0:
        os.chown(folder, 0, 0, follow_symlinks=False)
        for path in folder.iterdir():
            if path.is_symlink():
                path.unlink()
            elif path.is_file():
                os.chown(path, 0, 0, follow_symlinks=False)
    folder.chmod(0o711)


def web_service(database: Service) -> Service:
    """Whom the web server runs as: as the database does, where that user can reach the interpreter too."""
    if database.uid is None or anyone_can_reach(Path(os.path.realpath(PYTHON))):
        return database
    complain(
        f"Only root can reach {os.path.realpath(PYTHON)}, so the web server runs as root. With Debian's own python3 and python3-venv, "
        "delete var/venv and start again: it then runs unprivileged."
    )
    return Service("root")


def _found() -> pwd.struct_passwd | None:
    try:
        return pwd.getpwnam(NAME)
    except KeyError:
        return None


def _made() -> pwd.struct_passwd | None:
    program = shutil.which("useradd", path=f"{os.environ.get('PATH', '')}:/usr/sbin:/sbin")
    if program is None:
        return None
    command = [
        program,
        "--system",
        "--user-group",
        "--no-create-home",
        "--home-dir",
        "/nonexistent",
        "--shell",
        "/usr/sbin/nologin",
        NAME,
    ]
    subprocess.run(command, capture_output=True, check=False)
    return _found()
