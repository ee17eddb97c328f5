"""``./bench sum NAME``: one of the bench's sums, with its working."""

from __future__ import annotations

import argparse
import json
import sys
from typing import Any

from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.sums.registry import SUMS


def add_command(commands: Any) -> None:
    """Add ``sum`` with a command for each."""
    parser = commands.add_parser(
        "sum",
        help=_("a sum of the bench, with its working"),
        epilog="./bench sum dilution --stock 10000 --want 1000 --volume-ml 250",
    )
    names = parser.add_subparsers(dest="sum", required=True, metavar="NAME")
    for one in SUMS.values():
        own = names.add_parser(one.name, help=_(one.words), epilog=one.command(one.example))
        for asked in one.asks:
            how = {"action": "store_const", "const": "yes"} if asked.kind.box else {"metavar": _("VALUE")}
            words = _(asked.words).replace("%", "%%")  # argparse takes one alone for a place to fill in
            own.add_argument(asked.option, dest=f"asked_{asked.name}", default="", help=words, **how)
        own.add_argument("--json", action="store_true", help=_("as JSON: result, working, cautions"))
    parser.set_defaults(run=run)


def run(arguments: argparse.Namespace) -> int:
    """Work it out and print it; bad values are one message and status 2."""
    one = SUMS[arguments.sum]
    try:
        found = one.of({asked.name: getattr(arguments, f"asked_{asked.name}") for asked in one.asks})
    except OrderlyError as error:
        print(error, file=sys.stderr)
        return 2
    if arguments.json:
        print(json.dumps(found.plain(), ensure_ascii=False))
        return 0
    for line in (*found.working, *found.cautions):
        print(line)
    return 0
