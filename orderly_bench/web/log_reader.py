"""Large logger files are read by a thread of their own, which ends with its file."""

from __future__ import annotations

import threading
from collections.abc import Callable
from datetime import datetime
from functools import partial

from flask import current_app
from sqlalchemy.orm import Session

from orderly_bench.trial.intake import read_in


def start(number: int) -> None:
    """Have a file read; one that is read already is left alone."""
    clock: Callable[[], datetime] = current_app.config["CLOCK"]
    open_session = partial(Session, current_app.extensions["engine"], join_transaction_mode="create_savepoint")
    if current_app.config["WORK"] == "at once":
        read_in(open_session, number, clock)
    else:
        threading.Thread(
            target=read_in, args=(open_session, number, clock), daemon=True, name=f"intake {number}"
        ).start()
