"""The engine: strict SQL, UTC, and connections that are tested before use; over several nodes, to one that is in step."""

from __future__ import annotations

from typing import Any
from weakref import WeakKeyDictionary

from sqlalchemy import Engine, create_engine, event
from sqlalchemy.engine import ExceptionContext

from orderly_bench.database.nodes import Nodes, taken_apart

STRICT = (
    "SET SESSION sql_mode='STRICT_ALL_TABLES,NO_ZERO_DATE,NO_ZERO_IN_DATE,ERROR_FOR_DIVISION_BY_ZERO,NO_ENGINE_SUBSTITUTION', "
    "time_zone='+00:00', innodb_lock_wait_timeout=10"
)
#: What is read waits until all is there that any node acknowledged before.
CAUSAL = ", wsrep_sync_wait=1"
#: The node can't be asked any more: not ready, shutting down, no group to commit in, the connection killed. Of its disk: no room.
NODE_GONE, NO_ROOM = (1047, 1053, 1180, 1927), (1021, 1026, 1114)
_nodes: WeakKeyDictionary[Engine, Nodes] = WeakKeyDictionary()


def make_engine(url: str) -> Engine:
    """An engine on a MariaDB server; ``url`` as SQLAlchemy takes it, driver pymysql, with commas between the hosts of a cluster.

    Raises
    ------
    ValueError
        Hosts that can't be read.
    """
    first, hosts = taken_apart(url)
    named: dict[str, Any] = {"connect_timeout": 5, "read_timeout": 30, "charset": "utf8mb4"}
    if not hosts:
        return create_engine(first, connect_args={"init_command": STRICT, **named}, **_pool())
    nodes = Nodes(hosts, {"user": first.username, "password": str(first.password or "")})
    made = create_engine(
        first, connect_args={"init_command": STRICT + CAUSAL, **named, "connect_timeout": 2}, **_pool()
    )
    _nodes[made] = nodes

    @event.listens_for(made, "do_connect")
    def to_one_in_step(_dialect: object, _record: object, _words: object, wanted: dict[str, Any]) -> object:
        return nodes.connect(wanted)

    @event.listens_for(made, "engine_disposed")
    def watch_no_more(_engine: Engine) -> None:
        nodes.close()

    @event.listens_for(made, "handle_error")
    def gone(context: ExceptionContext) -> None:
        arguments = getattr(context.original_exception, "args", ())
        code = arguments[0] if arguments else None
        if code in NODE_GONE:
            context.is_disconnect = True
        elif code in NO_ROOM and context.connection is not None:
            nodes.leave(context.connection.connection.dbapi_connection, "no room on its disk")
            context.is_disconnect = True

    return made


def _pool() -> dict[str, Any]:
    return {"pool_pre_ping": True, "pool_recycle": 1800, "pool_size": 8, "isolation_level": "READ COMMITTED"}


def nodes_of(engine: object) -> Nodes | None:
    """The nodes of an engine; None where it has a single server."""
    return _nodes.get(engine) if isinstance(engine, Engine) else None
