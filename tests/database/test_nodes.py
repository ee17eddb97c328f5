"""Several nodes of a database: who asks goes to one that answers and is in step, soon, and in the middle of a question too."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator

import pymysql
import pytest
from sqlalchemy import Engine, text
from sqlalchemy.exc import OperationalError

from orderly_bench.database.engine import make_engine, nodes_of
from orderly_bench.database.nodes import (
    IN_STEP,
    LOOK_SECONDS,
    PATIENCE_SECONDS,
    Node,
    Nodes,
    Standing,
    read,
    taken_apart,
)
from tests.conftest import database_url
from tests.wires import Wire, through

#: In which another node is asked, on a machine that is busy with other tests; the driver alone would wait for half a minute.
SOON = 10.0


@pytest.fixture
def wires(engine: Engine) -> Iterator[tuple[Wire, Wire]]:
    made = Wire(database_url("orderly_test")), Wire(database_url("orderly_test"))
    yield made
    for wire in made:
        wire.go_on()
        wire.cut()


@pytest.fixture
def over_two(wires: tuple[Wire, Wire]) -> Iterator[Engine]:
    made = make_engine(through(database_url("orderly_test"), *wires))
    yield made
    nodes = nodes_of(made)
    assert nodes is not None
    nodes.close()
    made.dispose()


def test_on_a_quiet_machine_a_silent_node_is_left_within_two_seconds() -> None:
    """Asked at most one look after it went silent, and once more."""
    assert LOOK_SECONDS + 2 * PATIENCE_SECONDS <= 2.0


def current(engine: Engine) -> int:
    nodes = nodes_of(engine)
    assert nodes is not None and nodes.wait(SOON) and nodes.current is not None
    return nodes.current.port


@pytest.mark.parametrize(
    ("says", "stands"),
    [
        ({"wsrep_on": "0"}, Standing(IN_STEP, 1)),
        ({"wsrep_on": "1", "wsrep_cluster_status": "Primary", "wsrep_local_state": "4", "wsrep_ready": "ON", "wsrep_cluster_size": "3"}, Standing(IN_STEP, 3)),
        ({"wsrep_on": "1", "wsrep_cluster_status": "Primary", "wsrep_local_state": "2", "wsrep_ready": "ON", "wsrep_cluster_size": "3"}, Standing("not in step yet", 3)),
        ({"wsrep_on": "1", "wsrep_cluster_status": "Primary", "wsrep_local_state": "4", "wsrep_ready": "OFF", "wsrep_cluster_size": "3"}, Standing("not in step yet", 3)),
        ({"wsrep_on": "1", "wsrep_cluster_status": "non-Primary", "wsrep_local_state": "4", "wsrep_ready": "OFF", "wsrep_cluster_size": "1"}, Standing("without a majority", 1)),
        ({"wsrep_on": "1", "wsrep_cluster_status": "Disconnected", "wsrep_local_state": "0", "wsrep_ready": "OFF"}, Standing("without a majority", 0)),
    ],
)  # fmt: skip
def test_only_a_node_in_step_with_the_majority_is_asked(says: dict[str, str], stands: Standing) -> None:
    assert read(says) == stands
    assert stands.good == (stands.says == IN_STEP)


def test_an_address_names_one_host_or_several() -> None:
    url, nodes = taken_apart("mysql+pymysql://me:se%2Ccret@a:3307, b,[::1]:3308/lab")
    assert nodes == [Node("a", 3307), Node("b", 3306), Node("::1", 3308)]
    assert (url.host, url.port, url.database, url.password) == ("a", 3307, "lab", "se,cret")
    assert taken_apart("mysql+pymysql://me:secret@a:3307/lab")[1] == []
    for wrong, says in (("a:1,,b", "nothing is no host"), ("a:1,b:x", "b:x is no host"), ("a:1,a:1", "named twice")):
        with pytest.raises(ValueError, match=says):
            taken_apart(f"mysql+pymysql://me:secret@{wrong}/lab")


def test_what_is_read_sees_what_any_node_acknowledged_and_rows_are_counted_as_by_a_single_server(
    over_two: Engine,
) -> None:
    with over_two.connect() as connection:
        assert connection.scalar(text("SELECT @@wsrep_sync_wait")) == 1
        assert "STRICT_ALL_TABLES" in connection.scalar(text("SELECT @@sql_mode"))
        connection.execute(text("CREATE TEMPORARY TABLE held (n INT PRIMARY KEY)"))
        connection.execute(text("INSERT INTO held VALUES (1)"))
        assert connection.execute(text("UPDATE held SET n = 1")).rowcount == 1, "found, though it changes nothing"


@pytest.mark.parametrize("how", ["cut", "silent"])
def test_who_waits_for_a_node_that_goes_is_told_soon_and_another_answers(
    over_two: Engine, wires: tuple[Wire, Wire], how: str
) -> None:
    with over_two.connect() as connection:
        connection.execute(text("SELECT 1"))
        assert current(over_two) == wires[0].port, "the first in the list"
    told: list[float] = []

    def waits() -> None:
        with over_two.connect() as connection, pytest.raises(OperationalError) as error:
            began.set()
            connection.execute(text("SELECT SLEEP(60)"))
        told.append(time.monotonic())
        assert error.value.connection_invalidated

    began = threading.Event()
    waiting = threading.Thread(target=waits)
    waiting.start()
    began.wait()
    went = time.monotonic()
    wires[0].cut() if how == "cut" else wires[0].go_silent()
    waiting.join(SOON + 1)
    assert told and told[0] - went < SOON
    current(over_two)  # waits for it: a request would too
    with over_two.connect() as connection:
        assert connection.scalar(text("SELECT 1")) == 1
    assert current(over_two) == wires[1].port and time.monotonic() - went < SOON + 0.5


def test_a_node_that_comes_back_takes_nobody_from_the_one_that_answers(
    over_two: Engine, wires: tuple[Wire, Wire]
) -> None:
    nodes = nodes_of(over_two)
    assert nodes is not None and nodes.wait(SOON)
    wires[0].go_silent()
    with nodes.change:
        assert nodes.change.wait_for(lambda: nodes.current == nodes.nodes[1], SOON)
    wires[0].go_on()
    with nodes.change:
        assert nodes.change.wait_for(lambda: nodes.sizes()[nodes.nodes[0]].good, SOON + 1)
        assert nodes.current == nodes.nodes[1]


def test_where_no_node_answers_it_is_said_at_once_how_each_stands(over_two: Engine, wires: tuple[Wire, Wire]) -> None:
    nodes = nodes_of(over_two)
    assert nodes is not None and nodes.wait(SOON)
    for wire in wires:
        wire.cut()
    with nodes.change:
        assert nodes.change.wait_for(lambda: nodes.current is None, SOON)
    began = time.monotonic()
    with pytest.raises(
        OperationalError, match=rf"no node .* can be asked .*{wires[0].port}: no answer; .*{wires[1].port}: no answer"
    ):
        over_two.connect()
    assert time.monotonic() - began < SOON


@pytest.mark.parametrize(("code", "left"), [(1047, False), (1114, True), (1062, False)])
def test_a_node_that_can_not_go_on_is_left(over_two: Engine, wires: tuple[Wire, Wire], code: int, left: bool) -> None:
    """Not ready: the connection is given up. No room: so is the node, for a while. A duplicate is nobody's fault."""
    with over_two.connect() as connection, pytest.raises(Exception, match=str(code)) as error:
        connection.execute(
            text(f"BEGIN NOT ATOMIC SIGNAL SQLSTATE 'HY000' SET MYSQL_ERRNO = {code}, MESSAGE_TEXT = 'so'; END")
        )
    assert getattr(error.value, "connection_invalidated", None) is (code != 1062)
    assert current(over_two) == wires[int(left)].port


def test_a_node_out_of_step_is_cut_off_and_one_in_step_asked(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(Nodes, "_watch", lambda self, node, over: None)
    a, b = Node("a", 1), Node("b", 2)
    nodes = Nodes([a, b], {})
    for node in (a, b):
        nodes._learn(node, Standing(IN_STEP, 2))
    assert nodes.current == a
    nodes._learn(a, Standing("without a majority", 1))
    assert nodes.current == b
    nodes._learn(b, Standing("not in step yet", 1))
    assert nodes.current is None and nodes.report() == "a:1: without a majority; b:2: not in step yet"
    with pytest.raises(pymysql.err.OperationalError, match="a:1: without a majority"):
        nodes.connect({})


def test_an_engine_that_is_put_away_leaves_nobody_watching_and_begins_again_when_it_is_asked(
    over_two: Engine, wires: tuple[Wire, Wire]
) -> None:
    own = {f"watch 127.0.0.1:{wire.port}" for wire in wires}

    def watching() -> int:
        return sum(thread.name in own for thread in threading.enumerate())

    with over_two.connect() as connection:
        connection.execute(text("SELECT 1"))
    assert watching() == 2
    over_two.dispose()
    end = time.monotonic() + SOON
    while watching():
        assert time.monotonic() < end
        time.sleep(0.05)
    with over_two.connect() as connection:
        assert connection.scalar(text("SELECT 1")) == 1
    assert watching() == 2
