"""Scores go on while nodes and web servers of a cluster are killed, stopped, cut off and restarted: none lost, none doubled, all nodes alike.

Long: it starts a cluster in this folder. ``./bench test --long`` runs it; ORDERLY_BENCH_FAULTS says how many faults (20).
"""

from __future__ import annotations

import io
import os
import re
import signal
import subprocess
import threading
import time
import zipfile
from collections.abc import Callable, Iterator
from datetime import date, datetime, timedelta
from pathlib import Path
from random import Random

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session
from werkzeug.datastructures import FileStorage

from orderly_bench.core.plan.treatments import Container
from orderly_bench.database.engine import make_engine
from orderly_bench.machine import processes
from orderly_bench.machine.paths import ROOT
from orderly_bench.trial.models import Person
from tests.factories import create_locked
from tests.machine.running_cluster import (
    FAULTS,
    HOME,
    NODES,
    PATIENCE,
    PIECES,
    SERVERS,
    Cluster,
    Scores,
    Visitor,
    asked,
    cut_off,
    in_step,
    open_check,
    pid_of,
    scores,
    told,
    until,
)

pytestmark = pytest.mark.long
TRIALS, SCORERS = 5, 50


@pytest.fixture(scope="module")
def cluster() -> Iterator[Cluster]:
    made = Cluster()
    yield made
    made.stop()
    left = [n for n in range(1, NODES + 1) if processes.noted(HOME / f"node-{n}" / "server.pid", str(HOME))]
    assert left == [], "no process is left"


class Faults:
    """What goes wrong, one after another; each is over, and all nodes in step, before the next."""

    def __init__(self, cluster: Cluster) -> None:
        self.cluster, self.luck = cluster, Random(5)
        self.all: list[Callable[[], None]] = [
            self.node_killed,
            self.node_stopped,
            self.web_killed,
            self.node_cut_off,
            self.node_restarted,
            self.web_restarted,
            self.expanded,
        ]

    def _any(self) -> int:
        return self.luck.randint(1, NODES)

    def node_killed(self) -> None:
        """Killed; it comes back and takes over what it missed."""
        before = pid_of(name := f"node-{self._any()}")
        os.kill(before, signal.SIGKILL)
        until(lambda: pid_of(name) not in (0, before) and in_step(), f"{name} back after a kill")

    def node_stopped(self) -> None:
        """It says nothing for ten seconds, and wakes among others that went on without it."""
        pid = pid_of(name := f"node-{self._any()}")
        os.kill(pid, signal.SIGSTOP)
        time.sleep(10)
        os.kill(pid, signal.SIGCONT)
        until(in_step, f"{name} back after a sleep")

    def node_cut_off(self) -> None:
        """No packet passes between it and the others, and it must take nothing; then it hears them again."""
        n = self._any()
        with cut_off(n):
            until(lambda: told(n, "wsrep_cluster_status") == "non-Primary", f"node-{n} without a majority", 30)
            refused = asked(
                n,
                "INSERT INTO orderly_demo.throttle (what, fails, last_at) VALUES ('cut off', 1, NOW()); SELECT 'taken'",
            )
            assert refused == [], "a node without a majority takes no write"
            time.sleep(3)
        until(in_step, f"node-{n} back among the others")

    def node_restarted(self) -> None:
        """Ended in order, as for an upgrade, and started again."""
        before = pid_of(name := f"node-{self._any()}")
        os.kill(before, signal.SIGTERM)
        until(lambda: pid_of(name) not in (0, before) and in_step(), f"{name} back after an upgrade")

    def web_killed(self) -> None:
        """A web server is killed and comes back."""
        self._web(signal.SIGKILL)

    def web_restarted(self) -> None:
        """A web server is ended in order, as for an upgrade."""
        self._web(signal.SIGTERM)

    def expanded(self) -> None:
        """As a rolling upgrade goes while the old version serves: the new version's column is there, web servers are restarted in turn, then what is old goes."""
        asked(self._any(), "ALTER TABLE orderly_demo.score ADD COLUMN of_the_next_version INT NULL")
        for n in range(1, SERVERS + 1):
            before = pid_of(f"web-{n}")
            os.kill(before, signal.SIGTERM)
            until(lambda n=n, before=before: pid_of(f"web-{n}") not in (0, before), f"web-{n} back")  # type: ignore[misc]
        asked(self._any(), "ALTER TABLE orderly_demo.score DROP COLUMN of_the_next_version")

    def _web(self, how: signal.Signals) -> None:
        before = pid_of(name := f"web-{self.luck.randint(1, SERVERS)}")
        os.kill(before, how)
        until(lambda: pid_of(name) not in (0, before), f"{name} back")


def sums(n: int) -> dict[str, str]:
    """The checksum of every table of a node."""
    tables = asked(n, "SELECT table_name FROM information_schema.tables WHERE table_schema = 'orderly_demo' ORDER BY 1")
    rows = asked(n, f"CHECKSUM TABLE {', '.join(f'orderly_demo.{table}' for table in tables)}")
    return dict(row.split("\t") for row in rows)  # type: ignore[misc]


def test_no_acknowledged_score_is_lost_or_doubled_whatever_goes_down(cluster: Cluster) -> None:
    until(in_step, "all nodes in step")
    opened = [open_check(Visitor(cluster, "Ines")) for _ in range(TRIALS)]
    assert [len(cuttings) for _, cuttings in opened] == [PIECES] * TRIALS
    found, each = Scores(), TRIALS * PIECES // SCORERS
    checks = ", ".join(str(check) for check, _ in opened)
    parts = [(check, cuttings[n : n + each]) for check, cuttings in opened for n in range(0, PIECES, each)]
    people = [(Visitor(cluster, "Tomas"), *part) for part in parts]
    threads = [threading.Thread(target=scores, args=(cluster, *person, found)) for person in people]
    for thread in threads:
        thread.start()
    faults = Faults(cluster)
    for n in range(FAULTS):
        time.sleep(2)
        faults.all[n % len(faults.all)]()
    found.over.set()
    for thread in threads:
        thread.join(PATIENCE)
    until(in_step, "all nodes in step at the end")
    took = sorted(found.took)
    print(
        f"{FAULTS} faults, {len(took)} scores: median {1_000 * took[len(took) // 2]:.0f} ms, p95 {took[int(0.95 * len(took))]:.2f} s, longest {took[-1]:.1f} s"
    )
    assert found.refused == [] and len(took) > 5 * FAULTS
    rows = asked(
        1, f"SELECT cutting_id, root_number FROM orderly_demo.score WHERE check_id IN ({checks}) AND current = 1"
    )
    assert len(rows) == len({row.split("\t")[0] for row in rows}), "none is doubled"
    kept = {int(cutting): int(roots) for cutting, roots in (row.split("\t") for row in rows)}
    assert found.acknowledged.items() <= kept.items(), "none is lost"
    assert set(kept.values()) <= set(range(1, 38))
    first = sums(1)
    assert len(first) > 40 and all(sums(n) == first for n in range(2, NODES + 1)), "all nodes hold the same"


def units() -> int:
    return int(asked(1, "SELECT COUNT(*) FROM orderly_demo.unit")[0])


def test_what_is_large_goes_through_whole_and_a_backup_stops_nobody(cluster: Cluster, tmp_path: Path) -> None:
    until(in_step, "all nodes in step")
    passwords = (HOME / "owner-password").read_text().strip()
    hosts = ",".join(f"127.0.0.1:{asked(n, 'SELECT @@port')[0]}" for n in range(1, NODES + 1))
    own = os.environ | {"ORDERLY_BENCH_DATABASE_URL": f"mysql+pymysql://orderly_owner:{passwords}@{hosts}/orderly_demo"}
    engine, before = make_engine(own["ORDERLY_BENCH_DATABASE_URL"]), units()
    with Session(engine) as session:
        ines = session.scalars(select(Person).where(Person.name.startswith("Ines"))).one()
        create_locked(session, ines, cuttings_per_arm=750, container=Container(rows=30, columns=50, volume_ml=60))
        session.commit()
    engine.dispose()
    assert units() == before + 3_000, "four arms, each cutting a unit, drawn and locked at once"
    people = Visitor(cluster, "Ines")
    tally = FileStorage(io.BytesIO(b"medium,stuck,rooted\ngrit,500,400\nbark,500,100\n"), "old.csv")
    told_of = {
        "plant": "Buxus sempervirens", "factors": "medium", "stuck_on": "2025-03-01", "looked_on": "2025-05-10", "way": "lifted and counted",
        "endpoint": "rooted", "came": "drawn by lot", "told": "notebook of 2025, page 14", "file": tally,
    }  # fmt: skip
    assert people.send("/old-trial", told_of)[0] == 200
    first = date.today() - timedelta(days=1)
    known = {int(n) for n in re.findall(r"/trials/(\d+)/", people.get("/trials"))}
    page = f"/trials/{sorted(known)[1]}"
    rows = (
        f"{datetime.combine(first, datetime.min.time()) + timedelta(seconds=i / 2):%Y-%m-%d %H:%M:%S},{20 + i % 7 / 10}"
        for i in range(100_000)
    )
    log = FileStorage(io.BytesIO("\n".join(["time,temperature_c", *rows]).encode()), "log.csv")
    people.get(f"{page}/tend")
    status, text = people.send(f"{page}/logs", {"low": "16", "high": "24", "zone": "bench", "log": log})
    assert status == 200, text[:500]
    until(lambda: asked(1, "SELECT state FROM orderly_demo.log_intake")[-1:] == ["kept"], "100,000 rows kept", 300)
    file = tmp_path / "lab.zip"
    done = subprocess.run(
        [str(ROOT / "bench"), "backup", str(file)], env=own, capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr
    with zipfile.ZipFile(file) as archive:
        assert sum(1 for _ in archive.open("tables/score.jsonl")) >= 1_000
    told_nodes = subprocess.run([str(ROOT / "bench"), "nodes"], env=own, capture_output=True, text=True, check=False)
    assert told_nodes.returncode == 0 and told_nodes.stdout.count("in step; sees 3 nodes") == NODES
    until(lambda: all(sums(n) == sums(1) for n in range(2, NODES + 1)), "all nodes hold the same", 30)


def in_megabytes(folder: Path) -> int:
    """Room left where a folder lies."""
    room = os.statvfs(folder)
    return room.f_bavail * room.f_frsize // 2**20


@pytest.mark.skipif(os.geteuid() != 0, reason="a disk of a node's own is mounted as root")
def test_a_node_whose_disk_is_full_is_left_and_comes_back_when_there_is_room(cluster: Cluster) -> None:
    until(in_step, "all nodes in step")
    full = 2  # the one that the second web server asks
    check, cuttings = open_check(Visitor(cluster, "Ines"))
    data = HOME / f"node-{full}" / "data"
    owner = data.stat()
    options = f"size=320m,uid={owner.st_uid},gid={owner.st_gid},mode=700"
    subprocess.run(["mount", "-t", "tmpfs", "-o", options, "tmpfs", str(data)], check=True)
    try:
        os.kill(pid_of(f"node-{full}"), signal.SIGKILL)
        until(lambda: (data / "ibdata1").exists() and in_step(), "the node on a small disk")
        (data / "filler").write_bytes(b"0")
        subprocess.run(["fallocate", "-l", f"{in_megabytes(data)}M", str(data / "filler")], check=True)
        assert in_megabytes(data) == 0
        found, each = Scores(), PIECES // 10
        people = [Visitor(cluster, "Tomas") for _ in range(10)]
        threads = [
            threading.Thread(
                target=scores, args=(cluster, person, check, cuttings[n * each : (n + 1) * each], found, 0.5)
            )
            for n, person in enumerate(people)
        ]
        asked(full, "CREATE TABLE orderly_demo.large (id INT PRIMARY KEY AUTO_INCREMENT, held LONGTEXT)")
        for thread in threads:
            thread.start()
        for _ in range(20):
            asked(1, "INSERT INTO orderly_demo.large (held) VALUES (REPEAT('rooted', 300000))")
        for thread in threads:
            thread.join(PATIENCE)
        assert "failed with error 28" in (HOME / f"node-{full}" / "server.log").read_text(), "its disk was full"
        (data / "filler").unlink(missing_ok=True)
    finally:
        subprocess.run(["umount", "-l", str(data)], check=True)
    pid = pid_of(f"node-{full}")
    if pid and processes.noted(HOME / f"node-{full}" / "server.pid", str(HOME)):
        os.kill(pid, signal.SIGKILL)
    until(in_step, "the node back on its own disk")
    asked(1, "DROP TABLE orderly_demo.large")
    took = sorted(found.took)
    print(f"disk full: {len(took)} scores, longest {took[-1]:.1f} s")
    assert found.refused == [] and len(found.acknowledged) == PIECES
    rows = asked(
        1,
        f"SELECT COUNT(*), COUNT(DISTINCT cutting_id) FROM orderly_demo.score WHERE check_id = {check} AND current = 1",
    )
    assert rows == [f"{PIECES}\t{PIECES}"]
    assert all(sums(n) == sums(1) for n in range(2, NODES + 1))


def test_what_stands_in_the_folder_is_what_deploy_ships(cluster: Cluster) -> None:
    assert (HOME / "galera.cnf").read_text() == (ROOT / "deploy" / "galera.cnf").read_text()
    filled = Path(HOME / "nginx.conf").read_text().split("worker_processes", 1)[1]
    assert "@" not in filled and str(cluster.port) in filled
