"""A request whose node of the database was lost under it is answered by another node, and who asked does not notice.

The whole request is run once more, from its first byte. What was written before the loss is undone by the database itself; only where the
loss came while it was being made to last is it unknown which. Then it is run again where its form has a key, by which it is known if
it was kept, and otherwise whoever sent it is told to look.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from flask import current_app, g, request
from sqlalchemy.exc import DBAPIError

from orderly_bench.database.nodes import CANT_CONNECT, Nodes
from orderly_bench.trial.turns import code_of
from orderly_bench.web.gate import AGAIN, Answer, Wsgi

TRIES = 4
#: How long a request waits for a node that can be asked.
WAIT_SECONDS = 8.0
SAFE = ("GET", "HEAD")
#: A monitor wants to know how it stands now.
ASKED_NOW = ("audit.health", "audit.metrics")


def node_lost(error: DBAPIError) -> bool:
    """Whether the error is that of a node that went away, or of none that could be asked."""
    return error.connection_invalidated or code_of(error) == CANT_CONNECT


def whether_kept_is_unknown() -> bool:
    """Whether this request had begun to make its changes last, and has no key by which it would be known again."""
    keyed = any(name.endswith("_key") and value for name, value in request.form.items())
    return request.method not in SAFE and bool(g.get("committing")) and not keyed


def wish_again(error: DBAPIError) -> None:
    """Have this request run once more by another node, where that can double nothing."""
    if node_lost(error) and not whether_kept_is_unknown() and request.endpoint not in ASKED_NOW:
        request.environ[AGAIN] = True
        current_app.extensions["metrics"].again.inc()


def sent_again(application: Wsgi, nodes: Nodes | None, wait_seconds: float = WAIT_SECONDS) -> Wsgi:
    """The application, its requests run again where they wish it and a node can be asked; of a single server as it is."""
    if nodes is None:
        return application

    def patient(environ: dict[str, Any], start_response: Callable[..., Any]) -> Answer:
        body = environ["wsgi.input"]
        begins = body.tell() if hasattr(body, "seek") else None
        for left in reversed(range(TRIES)):
            told: list[Any] = []
            own = dict(environ)
            answer = application(own, lambda *words, told=told: told.append(words))
            if AGAIN not in own or begins is None or not left or not nodes.wait(wait_seconds):
                start_response(*told[-1])
                return answer
            getattr(answer, "close", lambda: None)()
            body.seek(begins)
        raise AssertionError("the last try answers")

    return patient
