"""What an administrator reads: every request as a line of JSON, and what touches who may do what in a file of its own."""

from __future__ import annotations

import json
import logging
import secrets
import time
from logging.handlers import RotatingFileHandler
from pathlib import Path

from flask import Flask, Response, current_app, g, request
from flask_login import current_user

from orderly_bench.web.gate import AGAIN
from orderly_bench.web.store import now

REQUESTS, SECURITY = logging.getLogger("orderly_bench.requests"), logging.getLogger("orderly_bench.security")
MOST_BYTES, KEPT_FILES = 5_000_000, 8
#: By endpoint: what has happened when it answered a form with a redirect or a page.
EVENTS = {
    "account.sign_in": "signed in",
    "account.second": "signed in with a second factor",
    "account.sign_in_demo": "signed in at a click",
    "account.sign_out": "signed out",
    "account.change_password": "changed the own password",
    "account.change_second": "changed the second factor",
    "account.new_password": "set a password by a link",
    "account.end_session": "ended a session",
    "people.first_account": "made the first account",
    "people.add_person": "added a person",
    "people.change_person": "changed a person",
    "people.give_link": "gave a link for a new password",
    "people.change_lab": "changed the lab",
    "score.reveal": "was shown the arms",
    "compare.look_early": "looked early",
}
REFUSED = {
    401: "not signed in, or a wrong password",
    403: "not allowed",
    429: "too many tries",
    400: "a form without its token",
}


def init_logs(app: Flask) -> None:
    """Write to the folder configured; without one the lines go to whatever the process logs to."""
    folder = app.config["LOG_FOLDER"]
    for logger, name in ((REQUESTS, "requests.jsonl"), (SECURITY, "security.jsonl")):
        logger.setLevel(logging.INFO)
        logger.propagate = not folder
        for old in list(logger.handlers):
            logger.removeHandler(old)
            old.close()
        if folder:
            Path(folder).mkdir(parents=True, exist_ok=True, mode=0o700)
            handler = RotatingFileHandler(
                Path(folder) / name, maxBytes=MOST_BYTES, backupCount=KEPT_FILES, encoding="utf-8", delay=True
            )
            handler.setFormatter(logging.Formatter("%(message)s"))
            logger.addHandler(handler)

    @app.before_request
    def begin() -> None:
        g.request_id, g.began = secrets.token_hex(6), time.perf_counter()

    @app.after_request
    def end(response: Response) -> Response:
        if request.endpoint == "static":
            return response
        response.headers["X-Request-Id"] = g.get("request_id", "")
        line = {
            "time": now().isoformat(timespec="milliseconds"),
            "server": current_app.config["OWN_NAME"],
            "request": g.get("request_id", ""),
            "person": _who(),
            "method": request.method,
            "route": str(request.url_rule) if request.url_rule else "none",
            "status": response.status_code if not request.environ.get(AGAIN) else "again",
            "ms": round(1000 * (time.perf_counter() - g.get("began", time.perf_counter())), 1),
        }
        REQUESTS.info(json.dumps(line))
        event = _event(response.status_code)
        if event:
            SECURITY.info(
                json.dumps({**line, "event": event, "address": request.remote_addr, "path": request.path[:120]})
            )
        return response


def _who() -> int | None:
    """The person's number; names and what was typed never stand in a log."""
    person = g.get("_login_user")
    return current_user.id if person is not None and person.is_authenticated else None


def _event(status: int) -> str:
    if status in REFUSED and (request.method == "POST" or status == 403):
        return REFUSED[status]
    return EVENTS.get(request.endpoint or "", "") if request.method == "POST" and status < 400 else ""
