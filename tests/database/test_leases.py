"""Work that one of several servers does: taken once, taken over where its holder is gone, and never by a clock of another machine."""

from __future__ import annotations

import subprocess
import threading
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor

import pytest
from sqlalchemy import Engine, text

from orderly_bench.core.errors import Refused
from orderly_bench.database import leases
from orderly_bench.database.engine import make_engine
from orderly_bench.database.leases import Leases, make, own_name
from orderly_bench.database.one_secret import mark_of, same_as_others
from tests.conftest import database_url, emptied


@pytest.fixture
def lab() -> Iterator[Engine]:
    made = emptied(make_engine(database_url("orderly_leases")))
    make(made)
    yield made
    made.dispose()


def test_one_of_many_has_it_and_the_next_when_it_is_given_back(lab: Engine) -> None:
    many = [Leases(lab, f"server {n}") for n in range(8)]
    gate = threading.Barrier(8)

    def take(one: Leases) -> bool:
        gate.wait()
        return one.take("results 1 0")

    with ThreadPoolExecutor(8) as pool:
        taken = list(pool.map(take, many))
    assert taken.count(True) == 1
    first = many[taken.index(True)]
    other = many[taken.index(False)]
    assert first.take("results 1 0") and other.take("results 2 0"), "its own again, and another one"
    other.give_back("results 1 0")
    assert not other.take("results 1 0"), "nobody gives back what another holds"
    first.give_back("results 1 0")
    assert other.take("results 1 0")


def test_it_stays_with_a_holder_whose_heart_is_heard_and_goes_when_it_stopped(
    lab: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    clock = [100.0]
    monkeypatch.setattr(leases.time, "monotonic", lambda: clock[0])
    holder, third, waits = Leases(lab, "a"), Leases(lab, "c"), Leases(lab, "b")
    assert holder.take("results 1 0")
    for _ in range(4):
        assert not waits.take("results 1 0")
        clock[0] += leases.SILENT_SECONDS - 1
        holder.beat()
    assert not waits.take("results 1 0") and not third.take("results 1 0"), "both heard it just now"
    clock[0] += leases.SILENT_SECONDS
    assert waits.take("results 1 0") and not third.take("results 1 0"), "one of the two"
    assert not holder.take("results 1 0"), "who wakes after that has lost it"
    holder.beat()
    holder.give_back("results 1 0")
    assert waits.take("results 1 0") and not third.take("results 1 0")


def test_around_the_work_the_heart_beats_and_it_is_given_back(lab: Engine, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(leases, "BEAT_SECONDS", 0.05)
    holder, waits = Leases(lab, "a"), Leases(lab, "b")
    beats = threading.Event()
    real = holder.beat
    monkeypatch.setattr(holder, "beat", lambda: (real(), beats.set()))
    with holder.held("results 1 0") as ours:
        assert ours and beats.wait(10)
        with waits.held("results 1 0") as theirs:
            assert not theirs
        with lab.connect() as connection:
            assert connection.scalar(text("SELECT beat FROM lease")) >= 1
    with lab.connect() as connection:
        assert connection.scalar(text("SELECT COUNT(*) FROM lease")) == 0
    got = threading.Event()

    def queues() -> None:
        with waits.held("results 1 0", wait=True) as mine:
            assert mine
            got.set()

    with holder.held("results 1 0"):
        queue = threading.Thread(target=queues)
        queue.start()
        assert not got.wait(0.1)
    queue.join(10)
    assert got.is_set()


def test_no_two_processes_have_one_name() -> None:
    assert own_name() != own_name() and len(own_name()) <= 60


def test_who_ran_here_and_is_gone_is_not_waited_for_and_nobody_else_is_taken_for_gone(lab: Engine) -> None:
    ended = subprocess.Popen(["true"])
    ended.wait()
    assert Leases(lab, own_name(ended.pid)).take("results 1 0")
    assert Leases(lab, own_name()).take("results 1 0"), "its process is no more"
    assert not Leases(lab, own_name()).take("results 1 0"), "this one lives"
    host, here, pid, token = own_name(ended.pid).split()
    for elsewhere in (
        f"{host} 0{here} {pid} {token}",
        f"{host} unknown {pid} {token}",
        f"{host} {pid} {token}",
        "killed",
    ):
        assert not leases.known_dead(elsewhere), elsewhere
    assert not leases.known_dead(f"{host} {here} 1 {token}")
    assert not leases.known_dead(f"{host} {here} x {token}")


def test_a_server_with_another_secret_is_told_before_it_serves(lab: Engine) -> None:
    for _ in range(2):
        same_as_others(lab, "the secret of this lab")
    with pytest.raises(Refused, match="ORDERLY_BENCH_SHARED"):
        same_as_others(lab, "another")
    with lab.connect() as connection:
        held = connection.scalar(text("SELECT mark FROM secret_mark"))
    assert held == mark_of("the secret of this lab") and "secret" not in held
    same_as_others(lab, "another", new=True)
    same_as_others(lab, "another")
    with pytest.raises(Refused):
        same_as_others(lab, "the secret of this lab")
