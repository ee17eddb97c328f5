"""A cluster that runs in this folder, those who are signed in to it, and what they were acknowledged."""

from __future__ import annotations

import http.client
import http.cookiejar
import os
import re
import shutil
import signal
import ssl
import subprocess
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import date
from pathlib import Path
from random import Random

from werkzeug.test import encode_multipart

from orderly_bench.machine import packages, ports
from orderly_bench.machine.paths import ROOT, VAR

FAULTS = int(os.environ.get("ORDERLY_BENCH_FAULTS", "20"))
HOME = VAR / "cluster"
NODES, SERVERS = 3, 2
PATIENCE = 180.0
NO_ANSWER = 500
PIECES = 400
#: A scorer looks at a cutting for so long, in the mean: they have something to do through all faults.
PACE_SECONDS = max(3.0, FAULTS * 0.4)


def in_step(nodes: int = NODES) -> bool:
    """Whether every node is in step and sees all others."""
    return all(
        told(n, "wsrep_local_state") == "4" and told(n, "wsrep_cluster_size") == str(nodes) for n in range(1, nodes + 1)
    )


def told(n: int, name: str) -> str:
    """What a node says of itself; blank where it says nothing."""
    rows = asked(n, f"SHOW STATUS LIKE '{name}'")
    return rows[0].split("\t")[1] if rows else ""


def asked(n: int, statement: str) -> list[str]:
    """A node asked by its administrator, through its socket."""
    command = [
        shutil.which("mariadb") or "mysql",
        "--no-defaults",
        "-S",
        str(HOME / f"node-{n}" / "tmp" / "admin.sock"),
        "-N",
        "-B",
        "-e",
        statement,
    ]
    try:
        return subprocess.run(command, capture_output=True, text=True, check=False, timeout=5).stdout.splitlines()
    except subprocess.TimeoutExpired:
        return []


def until(wanted: Callable[[], bool], what: str, seconds: float = PATIENCE) -> None:
    """Wait for it, and say what did not come."""
    end = time.monotonic() + seconds
    while not wanted():
        assert time.monotonic() < end, f"not within {seconds:g} s: {what}"
        time.sleep(0.2)


def pid_of(name: str) -> int:
    """The process of a part; 0 while there is none."""
    file = HOME / name / "server.pid" if name.startswith("node") else HOME / f"{name}.pid"
    words = file.read_text().split() if file.exists() else []
    return int(words[0]) if words else 0


@contextmanager
def cut_off(n: int) -> Iterator[None]:
    """A node whose lines to the others carry nothing: what goes to or from a port of the group is dropped, but between the others."""
    packages.install(("nftables",))
    held = [int(word) for word in (HOME / "ports").read_text().split()]
    group = held[1::4]
    ends = {socket: port for pair in lines_of_group(group) for socket, port in pair}
    its_own = {ends[socket] for socket in sockets_of(pid_of(f"node-{n}")) if socket in ends}
    others = {(a, b) for (_, a), (_, b) in lines_of_group(group) if not {a, b} & its_own}
    all_of_group = ", ".join(map(str, group))
    rules = [
        "add table inet orderly_bench_cut",
        "add chain inet orderly_bench_cut out { type filter hook output priority 0; }",
        *(
            f"add rule inet orderly_bench_cut out tcp sport . tcp dport {{ {a} . {b}, {b} . {a} }} accept"
            for a, b in others
        ),
        *(f"add rule inet orderly_bench_cut out tcp {end} {{ {all_of_group} }} drop" for end in ("sport", "dport")),
    ]
    subprocess.run(["nft", "-f", "-"], input="\n".join(rules), text=True, check=True)
    try:
        yield
    finally:
        subprocess.run(["nft", "delete", "table", "inet", "orderly_bench_cut"], check=True)


def lines_of_group(group: list[int]) -> list[tuple[tuple[str, int], tuple[str, int]]]:
    """The connections between nodes: of each both ends, by the number of its socket and its port."""
    rows = [line.split() for line in Path("/proc/net/tcp").read_text().splitlines()[1:]]
    up = {(at(row[1]), at(row[2])): row[9] for row in rows if row[3] == "01" and {at(row[1]), at(row[2])} & {*group}}
    return [((up[a, b], a), (up[b, a], b)) for a, b in up if a < b and (b, a) in up]


def at(address: str) -> int:
    """The port of an address as the kernel writes it."""
    return int(address.split(":")[1], 16)


def sockets_of(pid: int) -> set[str]:
    """The numbers of the sockets that a process holds."""
    held = [os.readlink(each.path) for each in os.scandir(f"/proc/{pid}/fd")]
    return {one.removeprefix("socket:[").removesuffix("]") for one in held if one.startswith("socket:[")}


class Cluster:
    """``./bench cluster`` on a port of its own."""

    def __init__(self, nodes: int = NODES, servers: int = SERVERS) -> None:
        self.nodes = nodes
        self.port = next(port for port in range(21_000, 22_000) if ports.is_free(port))
        command = [
            str(ROOT / "bench"),
            "cluster",
            "--nodes",
            str(nodes),
            "--servers",
            str(servers),
            "--port",
            str(self.port),
            "--fresh",
        ]
        self.said = VAR / "cluster-test.log"
        with self.said.open("wb") as log:
            self.started = subprocess.Popen(command, stdout=log, stderr=log, start_new_session=True)
        until(lambda: "Ctrl-C stops all of it" in self.said.read_text() or self.started.poll() is not None, "the start")
        assert self.started.poll() is None, self.said.read_text()[-2_000:]
        self.context = ssl.create_default_context(cafile=str(VAR / "tls" / "authority.pem"))

    def stop(self) -> None:
        """As Ctrl-C does."""
        self.started.send_signal(signal.SIGINT)
        assert self.started.wait(120) == 0


class Visitor:
    """Someone signed in at a click, through what stands before the web servers; who asks again until there is an answer."""

    def __init__(self, cluster: Cluster, name: str) -> None:
        self.address, self.token = f"https://127.0.0.1:{cluster.port}", ""
        self.jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(
            urllib.request.HTTPSHandler(context=cluster.context), urllib.request.HTTPCookieProcessor(self.jar)
        )
        page = self.get("/sign-in")
        numbers = re.findall(r'name="person" value="(\d+)".*?<button[^>]*>([^<]+)', page, re.DOTALL)
        self.post("/sign-in/demo", {"person": next(n for n, who in numbers if who.startswith(name)), "next": "/today"})
        self.get("/today")

    def get(self, path: str) -> str:
        """A page, however long it takes."""
        return self._asked(urllib.request.Request(self.address + path))[1]

    def post(self, path: str, form: dict[str, object]) -> int:
        """A form, sent again until it is answered."""
        data = urllib.parse.urlencode({**form, "csrf_token": self.token}).encode()
        return self._asked(urllib.request.Request(self.address + path, data, {"Referer": self.address + "/"}))[0]

    def send(self, path: str, fields: dict[str, object]) -> tuple[int, str]:
        """A form with a file."""
        boundary, body = encode_multipart({**fields, "csrf_token": self.token})
        headers = {"Referer": self.address + "/", "Content-Type": f"multipart/form-data; boundary={boundary}"}
        return self._asked(urllib.request.Request(self.address + path, body, headers))

    def _asked(self, request: urllib.request.Request) -> tuple[int, str]:
        end = time.monotonic() + PATIENCE
        while True:
            try:
                with self.opener.open(request, timeout=30) as answer:
                    text: str = answer.read().decode()
                    self.token = (re.search(r'name="csrf_token" value="([^"]+)"', text) or [None, self.token])[1]
                    return answer.status, text
            except urllib.error.HTTPError as error:
                if error.code < 500 or time.monotonic() > end:
                    return error.code, error.read().decode()
            except (OSError, http.client.HTTPException):
                assert time.monotonic() < end, request.full_url
            time.sleep(0.2)


@dataclass
class Scores:
    """What all scorers were acknowledged, and how long each waited."""

    acknowledged: dict[int, int] = field(default_factory=dict)
    took: list[float] = field(default_factory=list)
    refused: list[tuple[int, int]] = field(default_factory=list)
    over: threading.Event = field(default_factory=threading.Event)


def scores(
    cluster: Cluster, visitor: Visitor, check: int, cuttings: list[int], found: Scores, pace: float = PACE_SECONDS
) -> None:
    """One scorer: a cutting after the other, each sent again under its key until it is acknowledged, as a pad does."""
    cookie = "; ".join(f"{c.name}={c.value}" for c in visitor.jar)
    headers = {
        "Cookie": cookie, "Content-Type": "application/x-www-form-urlencoded", "HX-Request": "true", "Referer": f"{visitor.address}/",
    }  # fmt: skip
    line = http.client.HTTPSConnection("127.0.0.1", cluster.port, timeout=30, context=cluster.context)
    luck = Random(cuttings[0])
    for cutting in cuttings:
        if found.over.wait(luck.uniform(0, 2 * pace)):
            break
        form = urllib.parse.urlencode({
            "cutting": cutting, "revision": 0, "state": "alive", "roots": "counted", "root_number": cutting % 37 + 1, "longest_root_mm": 9,
            "tray_shown": 1, "request_key": f"cluster-{cutting}", "csrf_token": visitor.token,
        })  # fmt: skip
        began = time.monotonic()
        while (status := sent(line, f"/checks/{check}/scores", form, headers)) >= NO_ANSWER:
            time.sleep(0.2)
        if status != 200:
            found.refused.append((cutting, status))
            break
        found.took.append(time.monotonic() - began)
        found.acknowledged[cutting] = cutting % 37 + 1
    line.close()


def sent(line: http.client.HTTPSConnection, path: str, form: str, headers: dict[str, str]) -> int:
    """What a form was answered; 500 where nobody answered."""
    try:
        line.request("POST", path, form, headers)
        answer = line.getresponse()
        answer.read()
        return answer.status
    except (OSError, http.client.HTTPException):
        line.close()  # the next request opens it anew
        return NO_ANSWER


def open_check(researcher: Visitor) -> tuple[int, list[int]]:
    """A trial of many pieces, stuck today, its check open: the check and the cuttings."""
    researcher.get("/stick-first")
    asked_for = {
        "plant": "Olea europaea", "pieces": PIECES, "ways": "sand\npumice", "differs": "medium", "endpoint_day": 42, "origin": "storm", "source": "gate",
    }  # fmt: skip
    assert researcher.post("/stick-first", asked_for) == 200
    trial = max(int(n) for n in re.findall(r"/trials/(\d+)/question", researcher.get("/trials")))
    page, today = f"/trials/{trial}", date.today().isoformat()
    assert researcher.post(f"{page}/lot", {"wave": 1, "day": today}) == 200
    for tray in sorted({int(n) for n in re.findall(r"tray=(\d+)", researcher.get(f"{page}/stick"))}):
        assert researcher.post(f"{page}/stick/tray", {"tray": tray}) == 200
    assert researcher.post(f"{page}/stick/finish", {"wave": 1}) == 200
    check = int(re.findall(r"/checks/(\d+)/open", researcher.get(f"{page}/score"))[-1])
    opened = {"day": today, "way": "lifted and counted", "why_then": "to measure"}
    assert researcher.post(f"/checks/{check}/open", opened) == 200
    rows = asked(
        1,
        f"SELECT cutting.id FROM orderly_demo.cutting JOIN orderly_demo.unit ON unit.id = cutting.unit_id WHERE unit.trial_id = {trial} ORDER BY 1",
    )
    return check, [int(row) for row in rows]
