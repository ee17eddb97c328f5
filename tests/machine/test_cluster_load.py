"""What nodes and web servers cost and bring: saves in a second at each, as ratios of one run, and what 50 and 200 scorers wait for.

Long: it starts clusters in this folder. ``./bench test --long`` runs it. All of it shares the cores of this machine, so what more
machines bring is not seen here; what a node costs is.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

import pytest

from tests.machine.running_cluster import Cluster, Scores, Visitor, in_step, open_check, scores, until

pytestmark = pytest.mark.long
AS_FAST, SECONDS = 8, 15.0
#: Of a save, with three nodes and two web servers, at a bench's pace; twice that on a machine that is busy with all of it.
FIFTY_MS, PACE_SECONDS = 500, 6.0


@contextmanager
def running(nodes: int, servers: int) -> Iterator[Cluster]:
    made = Cluster(nodes, servers)
    try:
        until(lambda: in_step(nodes), "all nodes in step")
        yield made
    finally:
        made.stop()


def measured(cluster: Cluster, many: int, pace: float, seconds: float) -> Scores:
    """Scorers at work, each at cuttings of their own."""
    each = max(1, 400 // many) if many <= 400 else 1
    found, parts = Scores(), []
    while len(parts) < many:
        check, cuttings = open_check(Visitor(cluster, "Ines"))
        parts += [(check, cuttings[n : n + each]) for n in range(0, len(cuttings), each)]
    people = [(Visitor(cluster, "Tomas"), *part) for part in parts[:many]]
    threads = [threading.Thread(target=scores, args=(cluster, *person, found, pace)) for person in people]
    for thread in threads:
        thread.start()
    time.sleep(seconds)
    found.over.set()
    for thread in threads:
        thread.join(60)
    assert found.refused == []
    return found


def test_what_a_node_costs_and_what_fifty_and_two_hundred_wait_for() -> None:
    rates: dict[tuple[int, int], float] = {}
    for nodes, servers in ((1, 1), (1, 2), (3, 1), (3, 2)):
        with running(nodes, servers) as cluster:
            rates[nodes, servers] = len(measured(cluster, AS_FAST, 0.0, SECONDS).took) / SECONDS
            if (nodes, servers) != (3, 2):
                continue
            for many, seconds in ((50, 40.0), (200, 40.0)):
                took = sorted(measured(cluster, many, PACE_SECONDS, seconds).took)
                p95 = 1_000 * took[int(0.95 * len(took))]
                print(
                    f"{many} scorers, {len(took)} saves: median {1_000 * took[len(took) // 2]:.0f} ms, p95 {p95:.0f} ms"
                )
                assert many > 50 or p95 < FIFTY_MS
    first = rates[1, 1]
    for (nodes, servers), rate in rates.items():
        print(f"{nodes} nodes, {servers} web servers: {rate:.0f} saves a second, {rate / first:.2f} of one of each")
    assert rates[3, 2] > first / 4, "a node more does not cost all there is"
