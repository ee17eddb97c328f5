"""``nodes``: how each node of the lab's database stands, for whoever keeps it running."""

from __future__ import annotations

import argparse
import os
import sys
import time
from typing import Any

from sqlalchemy import text

from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.database.engine import make_engine, nodes_of
from orderly_bench.database.nodes import ASKED, Node, Standing, read

#: The first look at all of them takes at most so long.
FIRST_LOOK_SECONDS = 3.0


def run(arguments: argparse.Namespace) -> int:
    """Print a line for each node; status 1 unless all are in step and see each other."""
    url = os.environ.get("ORDERLY_BENCH_DATABASE_URL")
    if not url:
        print(_("Set ORDERLY_BENCH_DATABASE_URL to the address of the database, all its hosts in it."), file=sys.stderr)
        return 2
    engine = make_engine(url)
    nodes = nodes_of(engine)
    if nodes is None:
        return _single(engine)
    until = time.monotonic() + max(FIRST_LOOK_SECONDS, arguments.wait)
    with nodes.change:
        nodes.change.wait_for(lambda: len(nodes.standing) == len(nodes.nodes), FIRST_LOOK_SECONDS)
        if arguments.wait > 0:
            nodes.change.wait_for(lambda: all_in_step(nodes.sizes()), until - time.monotonic())
        found = nodes.sizes()
    nodes.close()
    for node, standing in found.items():
        sees = _("sees {n:node|nodes}, itself among them", n=standing.size)
        print(_("{node}: {says}; {sees}", node=str(node), says=standing.says, sees=sees))
    return 0 if all_in_step(found) else 1


def all_in_step(found: dict[Node, Standing]) -> bool:
    """Whether every node may be asked and sees at least as many as are named."""
    return all(standing.good and standing.size >= len(found) for standing in found.values())


def _single(engine: Any) -> int:
    with engine.connect() as connection:
        says = read({str(name): str(value) for name, value in connection.execute(text(ASKED)).all()}).says
    print(_("{node}: {says}; a single server", node=f"{engine.url.host}:{engine.url.port}", says=says))
    return 0
