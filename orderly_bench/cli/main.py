"""Entry point of ``orderly-bench`` and of ``./bench analyse``."""

from __future__ import annotations

import argparse
import os
import re
import sys
from collections.abc import Sequence
from pathlib import Path

from orderly_bench import __version__
from orderly_bench.cli import analyse, arms, claims, combine, conditions, plan, rehearse, sums
from orderly_bench.cli.numbers import number
from orderly_bench.cli.parser import Parser
from orderly_bench.core.errors import OrderlyError
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import use_language


def build_parser() -> argparse.ArgumentParser:
    """The parser with every command."""
    parser: argparse.ArgumentParser = Parser(prog="./bench", description=_("Headless commands of Orderly Bench."))
    parser.add_argument("--version", action="version", version=__version__)
    parser.add_argument("--language", metavar="FILE", help=_("say everything in the language of this .po or .mo file"))
    commands = parser.add_subparsers(dest="command", required=True)
    one = commands.add_parser(
        "analyse",
        help=_("compare the arms of tidy CSV files"),
        epilog="./bench analyse trial.csv --factors medium,hormone --block block --margin 0.15",
    )
    analyse.add_arguments(one)
    one.set_defaults(run=analyse.run)
    plan.add_commands(commands)
    arms.add_command(commands)
    rehearse.add_command(commands)
    claims.add_command(commands)
    combine.add_command(commands)
    conditions.add_command(commands)
    sums.add_command(commands)
    seven = commands.add_parser(
        "nodes",
        help=_("how the nodes of the database stand"),
        epilog="ORDERLY_BENCH_DATABASE_URL=mysql+pymysql://user:password@a:3306,b:3306/name ./bench nodes --wait 60",
    )
    seven.add_argument("--wait", type=number, default=0.0, help=_("wait so many seconds until all are in step"))
    seven.set_defaults(run=_nodes)
    six = commands.add_parser(
        "words", help=_("write the list of all texts, to be said in another language"), epilog="./bench words"
    )
    six.set_defaults(run=_words)
    three = commands.add_parser(
        "benchmark", help=_("medians of what people wait for"), epilog="./bench benchmark --repeats 3"
    )
    three.add_argument("--repeats", type=int, default=5, help=_("how often each is timed: 5"))
    three.set_defaults(run=_benchmark)
    two = commands.add_parser("prepare", help=_("bring the database up to date (used by ./bench)"))
    two.add_argument("--mode", choices=("demo", "run"), required=True)
    two.add_argument("--fresh", action="store_true", help=_("empty the demo lab first"))
    two.add_argument(
        "--new-secret", action="store_true", help=_("the secret this lab was served with is lost for good")
    )
    two.set_defaults(run=_prepare)
    five = commands.add_parser(
        "certificate", help=_("the lab's certificate for its network (used by ./bench run --lan)")
    )
    for name in ("folder", "host", "port"):
        five.add_argument(f"--{name}", required=True)
    five.add_argument("--cert")
    five.add_argument("--key")
    five.set_defaults(run=_certificate)
    for name, what in (
        ("backup", _("write the lab into a file, while it runs")),
        ("restore", _("put a file's lab into an empty installation")),
        ("upgrade", _("back up, bring to the newest version, check")),
    ):
        four = commands.add_parser(name, help=what)
        four.add_argument("file")
        if name != "upgrade":
            four.add_argument(
                "--passphrase-file", default="", help=_("seal or open it with the passphrase in this file")
            )
        if name == "restore":
            four.add_argument("--over", metavar="KEPT", help=_("keep the lab that is here in this file first"))
        four.set_defaults(run=_keep)
    return parser


def _words(arguments: argparse.Namespace) -> int:
    """Imported here, as those below: analysing a file should not wait for what it does not need."""
    from orderly_bench.cli import words

    return words.run(arguments)


def _nodes(arguments: argparse.Namespace) -> int:
    from orderly_bench.cli import nodes

    return nodes.run(arguments)


def _benchmark(arguments: argparse.Namespace) -> int:
    from orderly_bench.cli import benchmark

    return benchmark.run(arguments)


def _certificate(arguments: argparse.Namespace) -> int:
    from orderly_bench.cli import certificate

    return certificate.run(arguments)


def _keep(arguments: argparse.Namespace) -> int:
    from orderly_bench.cli import keep

    return keep.run(arguments)


def _prepare(arguments: argparse.Namespace) -> int:
    from orderly_bench.cli import prepare

    return prepare.run(arguments)


def _spoken(argv: Sequence[str]) -> tuple[list[str], str]:
    """The words without ``--language FILE``, wherever it stands, and its file; blank without one, whatever the locale.

    It is taken out before the parser is made, whose own texts are said in it.
    """
    words = list(argv)
    for n, word in enumerate(words):
        name, sign, file = word.partition("=")
        if name == "--language":
            if not sign:
                file = "".join(words[n + 1 : n + 2])
            return words[:n] + words[n + 2 - bool(sign) :], file
    return words, ""


def _with_negatives(argv: Sequence[str]) -> list[str]:
    """A number below nought with a comma, which is else taken for an option, goes with the option before it: ``--forecast-c=-3,5``."""
    made: list[str] = []
    for one in argv:
        if re.fullmatch(r"-\d+,\d+", one) and made and re.fullmatch(r"--[\w-]+", made[-1]):
            made[-1] += f"={one}"
        else:
            made.append(one)
    return made


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command and return its exit status."""
    words, language = _spoken(sys.argv[1:] if argv is None else argv)
    if language:
        from orderly_bench.formats.catalogue import read_language

        try:
            use_language(read_language(Path(language)))
        except OrderlyError as error:
            print(error, file=sys.stderr)
            return 2
    arguments = build_parser().parse_args(_with_negatives(words))
    try:
        status = int(arguments.run(arguments))
        sys.stdout.flush()
    except BrokenPipeError:  # whoever reads has read enough, as ``| head`` does
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    return status


if __name__ == "__main__":
    sys.exit(main())
