"""The own password, asked again before what can't be undone; every wrong one counts as one at the door does."""

from __future__ import annotations

from collections.abc import Iterable

from flask import current_app, request

from orderly_bench.core.errors import InvalidInput, Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.trial import throttle
from orderly_bench.trial.people import confirm
from orderly_bench.web.access import actor
from orderly_bench.web.store import commit, db, now


def refuse_while_waiting(keys: Iterable[str]) -> None:
    """Nothing is tried before the wait is over.

    Raises
    ------
    Refused
        With the seconds left.
    """
    wait = throttle.wait_for(db(), keys, now())
    if wait:
        raise Refused(_("Too many tries. Wait {wait} s, then try again.", wait=wait))


def count_failed(keys: Iterable[str]) -> None:
    """Count a wrong try, although the answer is a refusal that writes nothing else."""
    db().rollback()
    throttle.failed(db(), keys, now())
    commit()


def ask_again(password: str) -> None:
    """Raise unless it is the password of who is signed in; people of the demo lab have none that they know."""
    if current_app.config["DEMO"]:
        return
    keys = throttle.keys_of(actor().sign_in_name, request.remote_addr or "")
    refuse_while_waiting(keys)
    try:
        confirm(actor(), password)
    except InvalidInput:
        count_failed(keys)
        raise
