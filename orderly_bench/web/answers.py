"""How a write is answered: forward when it went through, the form again with the message when not."""

from __future__ import annotations

from collections.abc import Callable
from urllib.parse import urlsplit

from flask import redirect, request, url_for
from flask.typing import ResponseReturnValue

from orderly_bench.core.errors import OrderlyError
from orderly_bench.trial.errors import Busy, Conflict, NotFound
from orderly_bench.web.store import db


def safe_next(target: str) -> str:
    """A path of ours to go to; anything else goes to Today."""
    parts = urlsplit(target)
    ours = target.startswith("/") and not target.startswith("//") and "\\" not in target
    return target if ours and not parts.netloc and not parts.scheme else url_for("today.today_page")


def is_htmx() -> bool:
    """Whether a part of a page asks."""
    return request.headers.get("HX-Request") == "true"


def status_of(error: OrderlyError) -> int:
    """404 for what is not there, 409 for conflicts, 503 for what is busy, 422 for everything else that is refused."""
    if isinstance(error, NotFound):
        return 404
    if isinstance(error, Busy):
        return 503
    return 409 if isinstance(error, Conflict) else 422


def answer(do: Callable[[], object], then: str, otherwise: Callable[[OrderlyError], str]) -> ResponseReturnValue:
    """Run ``do`` and go to ``then``; when refused, show ``otherwise(error)`` with nothing written."""
    try:
        do()
    except OrderlyError as error:
        db().rollback()
        return otherwise(error), status_of(error)
    return redirect(then, 303)
