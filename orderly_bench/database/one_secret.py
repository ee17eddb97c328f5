"""All servers of one lab sign with one secret: its mark stands in the database, and a server with another one is told before it serves.

The secret itself never stands there. With another one sessions of its people would end at every other page, and the secrets of their
second factors could not be opened.
"""

from __future__ import annotations

import hashlib
import hmac

from sqlalchemy import Column, Engine, MetaData, String, Table, insert, select, update
from sqlalchemy.exc import IntegrityError

from orderly_bench.core.errors import Refused
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.database.base import TABLE as OPTIONS

TABLE = "secret_mark"
_mark = Table(
    TABLE, MetaData(), Column("id", String(10), primary_key=True), Column("mark", String(64), nullable=False), **OPTIONS
)
_ROW = "secret"


def mark_of(secret: str) -> str:
    """What is kept of a secret: nothing that it could be found from."""
    return hmac.new(secret.encode(), b"orderly bench, the secret of its servers", hashlib.sha256).hexdigest()


def make(engine: Engine) -> None:
    """The table, where there is none yet."""
    _mark.create(engine, checkfirst=True)


def same_as_others(engine: Engine, secret: str, new: bool = False) -> None:
    """Keep the mark of the first server's secret, or hold this one against it; ``new`` puts this one in its place.

    Raises
    ------
    Refused
        Another secret was used for this lab.
    """
    make(engine)
    mark = mark_of(secret)
    try:
        with engine.begin() as connection:
            held = connection.scalar(select(_mark.c.mark))
            if held is None:
                connection.execute(insert(_mark).values(id=_ROW, mark=mark))
            elif new:
                connection.execute(update(_mark).values(mark=mark))
    except IntegrityError:
        held = None
    if new:
        return
    with engine.connect() as connection:
        held = connection.scalar(select(_mark.c.mark))
    if held is None or not hmac.compare_digest(held, mark):
        raise Refused(
            _(
                "This server's secret is not the one this lab was served with. Set ORDERLY_BENCH_SHARED to the folder that its servers share, or "
                "put back var/secret. Where the old one is lost for good: ./bench run --new-secret; everybody signs in again, and second factors are turned on anew."
            )
        )
