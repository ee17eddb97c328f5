"""Many at once: what a scorer waits for while thirty-two save as fast as they can, or fifty at a bench's pace, beside a reader.

Long: it starts the demo lab of this folder. ``./bench test --long`` runs it. Each saves scores of cuttings that nobody scored, on a
connection of its own, as a pad does.
"""

from __future__ import annotations

import re
import socket
import threading
import time
import urllib.parse
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date

import pytest

from tests.machine.test_endurance import Bench, Visitor

pytestmark = pytest.mark.long
ONE_MS, MANY_AT_WORST_MS, BENCH_MS = 60, 1_200, 100
PIECES = 400
LENGTH = re.compile(rb"content-length: (\d+)", re.IGNORECASE)


@pytest.fixture(scope="module")
def bench() -> Iterator[Bench]:
    made = Bench()
    researcher = Visitor(made, "Ines")
    while "They are done once and kept" in researcher.get("/trials/1/compare"):
        time.sleep(1)
    yield made
    made.stop()


@dataclass(frozen=True)
class Check:
    """An open check: its id and its cuttings, each with its tray."""

    id: int
    cuttings: list[tuple[int, int]]


@pytest.fixture
def check(bench: Bench) -> Check:
    """Of a trial of 400 pieces, stuck today."""
    researcher = Visitor(bench, "Ines")
    researcher.get("/stick-first")
    asked = {
        "plant": "Olea europaea", "pieces": PIECES, "ways": "sand\npumice", "differs": "medium", "endpoint_day": 42, "origin": "storm", "source": "gate",
    }  # fmt: skip
    assert researcher.post("/stick-first", asked) == 200
    trial = max(int(n) for n in re.findall(r"/trials/(\d+)/question", researcher.get("/trials")))
    page, today = f"/trials/{trial}", date.today().isoformat()
    assert researcher.post(f"{page}/lot", {"wave": 1, "day": today}) == 200
    trays = sorted({int(n) for n in re.findall(r"tray=(\d+)", researcher.get(f"{page}/stick"))})
    for tray in trays:
        assert researcher.post(f"{page}/stick/tray", {"tray": tray}) == 200
    assert researcher.post(f"{page}/stick/finish", {"wave": 1}) == 200
    number = re.findall(r"/checks/(\d+)/open", researcher.get(f"{page}/score"))[-1]
    opened = {"day": today, "way": "lifted and counted", "why_then": "to measure"}
    assert researcher.post(f"/checks/{number}/open", opened) == 200
    found = []
    for tray in trays:
        shown = researcher.get(f"{page}/score?check={number}&tray={tray}")
        found += [(int(n), tray) for n in dict.fromkeys(re.findall(r"cutting=(\d+)", shown))]
    cuttings = list({cutting: (cutting, tray) for cutting, tray in reversed(found)}.values())[::-1]
    assert len(cuttings) == PIECES
    return Check(int(number), cuttings)


class Scorer:
    """Someone who scores their part of the cuttings, one after another. What is sent is written before, and answers are only counted:
    whoever measures has the same two cores, and a device would have its own.
    """

    def __init__(self, bench: Bench, check: Check, cuttings: list[tuple[int, int]]) -> None:
        visitor = Visitor(bench, "Tomas")
        visitor.get("/today")
        jar = next(h for h in visitor.opener.handlers if hasattr(h, "cookiejar")).cookiejar
        cookie = "; ".join(f"{c.name}={c.value}" for c in jar)
        self.left = [self._request(bench, check, visitor.token, cookie, *one) for one in cuttings]
        self.connection = socket.create_connection(("127.0.0.1", bench.port), timeout=30)
        self.connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)

    def _request(self, bench: Bench, check: Check, token: str, cookie: str, cutting: int, tray: int) -> bytes:
        form = urllib.parse.urlencode(
            {
                "cutting": cutting, "revision": 0, "state": "alive", "roots": "counted", "root_number": 5, "longest_root_mm": 9, "tray_shown": tray,
                "request_key": f"load-{cutting}", "csrf_token": token,
            }
        )  # fmt: skip
        head = (
            f"POST /checks/{check.id}/scores HTTP/1.1", f"Host: 127.0.0.1:{bench.port}", f"Cookie: {cookie}", "HX-Request: true",
            f"Referer: http://127.0.0.1:{bench.port}/", "Content-Type: application/x-www-form-urlencoded", f"Content-Length: {len(form)}", "", form,
        )  # fmt: skip
        return "\r\n".join(head).encode()

    def save(self) -> float:
        """Milliseconds until it was acknowledged."""
        asked = self.left.pop(0)
        began = time.perf_counter()
        self.connection.sendall(asked)
        answer = b""
        while b"\r\n\r\n" not in answer:
            answer += self._more()
        head, body = answer.split(b"\r\n\r\n", 1)
        rest = int(LENGTH.search(head)[1]) - len(body)  # type: ignore[index]
        while rest > 0:
            rest -= len(self._more())
        took = 1_000 * (time.perf_counter() - began)
        assert head.startswith(b"HTTP/1.1 200 "), head[:200]
        return took

    def _more(self) -> bytes:
        piece = self.connection.recv(65_536)
        assert piece, "the connection was closed"
        return piece


def p95(bench: Bench, check: Check, many: int, each: int, pause: float, reading: bool) -> float:
    """The 95th percentile of all saves of ``many`` scorers, ms; a reader of Compare goes on beside them."""
    scorers = [Scorer(bench, check, check.cuttings[n * each : (n + 1) * each]) for n in range(many)]
    took: list[float] = []
    over = threading.Event()

    def scores(scorer: Scorer, number: int) -> None:
        over.wait(pause * number / many)
        while scorer.left:
            one = scorer.save()
            took.append(one)
            over.wait(max(0.0, pause - one / 1_000))

    def reads() -> None:
        reader = Visitor(bench, "Ines")
        while not over.is_set():
            reader.get("/trials/1/compare")

    reader = threading.Thread(target=reads)
    threads = [threading.Thread(target=scores, args=(s, n)) for n, s in enumerate(scorers)]
    if reading:
        reader.start()
    began = time.monotonic()
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    lasted = time.monotonic() - began
    over.set()
    if reading:
        reader.join()
    for scorer in scorers:
        scorer.connection.close()
    assert len(took) == each * many, "every save was acknowledged"
    found = sorted(took)[int(0.95 * len(took))]
    middle = sorted(took)[len(took) // 2]
    print(f"{many} at once, {len(took)} saves in {lasted:.0f} s: median {middle:.0f} ms, p95 {found:.0f} ms")
    return found


def test_one_scorer_alone(bench: Bench, check: Check) -> None:
    assert p95(bench, check, 1, 200, 0.0, False) < ONE_MS


def test_thirty_two_beside_a_reader(bench: Bench, check: Check) -> None:
    """The aim is half a second. Web server, database, 32 scorers and the reader share two cores here, and the same code was seen to take
    455 to 907 ms, so what is held is that it does not get worse.
    """
    assert p95(bench, check, 32, 12, 0.0, True) < MANY_AT_WORST_MS


def test_fifty_at_the_pace_of_a_bench_beside_a_reader(bench: Bench, check: Check) -> None:
    assert p95(bench, check, 50, 8, 6.0, True) < BENCH_MS
