"""Scores go on while everything is killed in turn: none that was acknowledged is lost, none is there twice.

Long: it starts the demo lab of this folder. ``./bench test --long`` runs it.
"""

from __future__ import annotations

import csv
import http.cookiejar
import io
import os
import re
import signal
import subprocess
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Iterator
from datetime import date
from random import Random

import pytest

from orderly_bench.machine import ports
from orderly_bench.machine.paths import ROOT, VAR

KILLS = int(os.environ.get("ORDERLY_BENCH_KILLS", "20"))
PATIENCE = 120
pytestmark = pytest.mark.long


class Bench:
    """``./bench demo`` on a port of its own, and a browser of sorts."""

    def __init__(self) -> None:
        # Below those that outgoing connections take: one could hold it while the bench is down.
        self.port = next(port for port in range(21_000, 22_000) if ports.is_free(port))
        self.luck = Random(11)
        self.started: subprocess.Popen[bytes] | None = None
        self.start("--fresh")

    def start(self, *more: str) -> None:
        """Start it and wait until it answers."""
        left = self.web()
        self.launch(*more)
        until = time.monotonic() + PATIENCE
        # What an earlier start left behind answers until this one ends it.
        while time.monotonic() < until and (self.web() in ("", left) or not self.answers()):
            time.sleep(0.2)
        assert self.answers() and self.started is not None and self.started.poll() is None, (
            VAR / "endurance.log"
        ).read_text()[-2000:]

    def launch(self, *more: str) -> None:
        """Start it and wait for nothing."""
        command = [str(ROOT / "bench"), "demo", "--port", str(self.port), *more]
        with (VAR / "endurance.log").open("ab") as log:
            self.started = subprocess.Popen(command, stdout=log, stderr=log, start_new_session=True)

    @staticmethod
    def web() -> str:
        """The web server that is noted, by id and start."""
        file = VAR / "web.pid"
        return file.read_text() if file.exists() else ""

    def answers(self) -> bool:
        """Whether the lab is there, database and all."""
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{self.port}/health", timeout=3) as answer:
                return bool(answer.status == 200)
        except OSError:
            return False

    def kill(self, what: str) -> None:
        """End one of the three without a word, as the system does when memory runs out; or all while it starts, or stops."""
        assert self.started is not None
        if what in ("supervisor", "start", "stop"):
            if what == "stop":  # while it stops as it was asked to
                self.started.send_signal(signal.SIGINT)
                time.sleep(self.luck.uniform(0, 1.5))
            self.started.kill()
            self.started.wait()
            if what == "start":  # and again while it comes up
                self.launch()
                time.sleep(self.luck.uniform(0, 6))
                self.started.kill()
                self.started.wait()
            self.start()
            return
        file = {"web": VAR / "web.pid", "database": VAR / "demo-mariadb" / "server.pid"}[what]
        os.kill(int(file.read_text().split()[0]), signal.SIGKILL)

    def stop(self) -> None:
        """As Ctrl-C does."""
        assert self.started is not None
        self.started.send_signal(signal.SIGINT)
        self.started.wait(60)


class Visitor:
    """Someone signed in at a click, who tries again until there is an answer."""

    def __init__(self, bench: Bench, name: str) -> None:
        self.bench = bench
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))
        page = self.get("/sign-in")
        numbers = re.findall(r'name="person" value="(\d+)".*?<button[^>]*>([^<]+)', page, re.DOTALL)
        number = next(n for n, who in numbers if who.startswith(name))
        self.post("/sign-in/demo", {"person": number, "next": "/today"})

    def get(self, path: str) -> str:
        """A page, however long it takes."""
        until = time.monotonic() + PATIENCE
        while True:
            try:
                with self.opener.open(f"http://127.0.0.1:{self.bench.port}{path}", timeout=10) as answer:
                    text: str = answer.read().decode()
                    self.token = (re.search(r'name="csrf_token" value="([^"]+)"', text) or [None, ""])[1]
                    return text
            except OSError:
                if time.monotonic() > until:
                    raise
                time.sleep(0.2)

    def post(self, path: str, form: dict[str, object]) -> int:
        """A form, sent again with the same key until the server acknowledges it."""
        until = time.monotonic() + PATIENCE
        data = urllib.parse.urlencode({**form, "csrf_token": self.token}).encode()
        headers = {"Referer": f"http://127.0.0.1:{self.bench.port}/"}
        while True:
            request = urllib.request.Request(f"http://127.0.0.1:{self.bench.port}{path}", data, headers)
            try:
                with self.opener.open(request, timeout=10) as answer:
                    return int(answer.status)
            except urllib.error.HTTPError as error:
                if error.code < 500:
                    return error.code
            except OSError:
                pass
            if time.monotonic() > until:
                raise TimeoutError(path)
            time.sleep(0.2)


@pytest.fixture
def bench() -> Iterator[Bench]:
    made = Bench()
    yield made
    made.stop()


def test_no_acknowledged_score_is_lost_or_doubled_through_kills(bench: Bench) -> None:
    scorer, researcher = Visitor(bench, "Tomas"), Visitor(bench, "Ines")
    check = re.search(r"/checks/(\d+)/open", researcher.get("/trials/2/score"))
    assert check, "the demo lab has a check that is due"
    opened = {"day": date.today().isoformat(), "way": "at the hole"}
    assert researcher.post(f"/checks/{check[1]}/open", opened) == 200
    page = scorer.get("/trials/2/score")
    first = int(re.search(r'name="cutting" value="(\d+)"', page)[1])  # type: ignore[index]
    said: dict[int, int] = {}
    revision: dict[int, int] = {}
    killed = acknowledged = 0
    names = ("database", "web", "supervisor", "start", "stop")
    cutting, number = first, 0
    while killed < KILLS:
        number += 1
        roots = number % 37 + 1
        form = {
            "cutting": cutting, "revision": revision.get(cutting, 0), "state": "alive", "roots": "counted", "root_number": roots,
            "longest_root_mm": 9, "request_key": f"endure-{number}", "reason": "again" if cutting in said else "",
        }  # fmt: skip
        if number % 3 == 0:
            bench.kill(names[killed % len(names)])
            killed += 1
        assert scorer.post(f"/checks/{check[1]}/scores", form) == 200, (number, form)
        acknowledged += 1
        said[cutting], revision[cutting] = roots, revision.get(cutting, 0) + 1
        cutting = (
            first
            if len(said) >= 4
            else int(re.search(r'name="cutting" value="(\d+)"', scorer.get("/trials/2/score"))[1])
        )  # type: ignore[index]
    assert acknowledged >= KILLS
    rows = list(csv.DictReader(io.StringIO(researcher.get("/trials/2/scores.csv").lstrip("\ufeff"))))
    found = [
        int(row["root_number"])
        for row in rows
        if row["scored_by"] == "Tomas Birk" and row["root_number"] and row["longest_root_mm"] in ("9", "9.0")
    ]
    assert sorted(found) == sorted(said.values()), "every cutting once, with the last number that was acknowledged"
