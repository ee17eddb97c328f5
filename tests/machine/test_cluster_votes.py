"""Two nodes and a vote without data: one node alone goes on with the vote, and takes nothing without it.

Long: it starts a cluster in this folder. ``./bench test --long`` runs it.
"""

from __future__ import annotations

import http.client
import os
import signal
import time
from collections.abc import Iterator

import pytest

from tests.machine.running_cluster import Cluster, Visitor, pid_of, told, until

pytestmark = pytest.mark.long


@pytest.fixture
def cluster() -> Iterator[Cluster]:
    made = Cluster(nodes=2)
    until(lambda: told(1, "wsrep_cluster_size") == "3", "two nodes and a vote")
    yield made
    made.stop()


def answered(cluster: Cluster, path: str) -> tuple[int, str]:
    """What is answered to one request, without asking again."""
    line = http.client.HTTPSConnection("127.0.0.1", cluster.port, timeout=60, context=cluster.context)
    line.request("GET", path)
    answer = line.getresponse()
    text = answer.read().decode()
    line.close()
    return answer.status, text


def test_one_node_goes_on_with_the_vote_and_takes_nothing_without_it(cluster: Cluster) -> None:
    people = Visitor(cluster, "Ines")
    os.kill(pid_of("node-1"), signal.SIGSTOP)
    began = time.monotonic()
    assert people.post("/trials", {"botanical_name": "Daphne mezereum"}) == 200
    assert "Daphne mezereum" in people.get("/trials")
    took = time.monotonic() - began
    print(f"a node stopped: a trial was begun and seen {took:.1f} s later")
    assert took < 30
    os.kill(pid_of("arbitrator/server"), signal.SIGSTOP)
    until(lambda: told(2, "wsrep_cluster_status") == "non-Primary", "node-2 alone", 60)
    status, text = answered(cluster, "/sign-in")
    assert status == 503 and "The database does not answer." in text
    assert answered(cluster, "/health")[0] == 503
    for name in ("arbitrator/server", "node-1"):
        os.kill(pid_of(name), signal.SIGCONT)
    until(lambda: answered(cluster, "/health")[0] == 200, "all together again", 120)
    assert "Daphne mezereum" in people.get("/trials")
