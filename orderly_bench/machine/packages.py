"""Debian packages: what is missing is installed as root or with sudo, otherwise the line to run is printed."""

from __future__ import annotations

import importlib.util
import os
import shutil
import subprocess

from orderly_bench.machine.problem import Problem, say

TO_RUN = ("mariadb-server", "libpango-1.0-0", "libpangoft2-1.0-0", "libharfbuzz-subset0")
TO_TEST = ("chromium", "chromium-driver", "libnss3-tools")


def missing(packages: tuple[str, ...]) -> list[str]:
    """The packages that are not installed."""
    if shutil.which("dpkg-query") is None:
        raise Problem(f"This is not a Debian machine. Install what these packages hold, by hand: {' '.join(packages)}.")
    lacking = []
    for package in packages:
        found = subprocess.run(
            ["dpkg-query", "-W", "-f=${Status}", package], capture_output=True, text=True, check=False
        )
        if "install ok installed" not in found.stdout:
            lacking.append(package)
    if importlib.util.find_spec("ensurepip") is None:
        lacking.append("python3-venv")
    return lacking


def install(packages: tuple[str, ...]) -> None:
    """Install what is missing."""
    lacking = missing(packages)
    if not lacking:
        return
    line = "apt-get update && apt-get install -y --no-install-recommends " + " ".join(lacking)
    if os.geteuid() == 0:
        before: list[str] = []
    elif (
        shutil.which("sudo")
        and subprocess.run(["sudo", "-n", "true"], capture_output=True, check=False).returncode == 0
    ):
        before = ["sudo", "-n"]
    else:
        raise Problem(
            f"These Debian packages are missing: {' '.join(lacking)}. As root, run:\n\n    {line}\n\nthen start again."
        )
    say(f"Installing Debian packages: {' '.join(lacking)}")
    environment = dict(os.environ, DEBIAN_FRONTEND="noninteractive")
    for command in (
        ["apt-get", "update", "-q"],
        ["apt-get", "install", "-y", "-q", "--no-install-recommends", *lacking],
    ):
        done = subprocess.run([*before, *command], env=environment, capture_output=True, text=True, check=False)
        if done.returncode != 0 and command[1] == "install":
            tail = "\n".join((done.stdout + done.stderr).strip().splitlines()[-8:])
            raise Problem(
                f"The packages could not be installed:\n{tail}\nCheck the network, then as root run:\n\n    {line}"
            )
