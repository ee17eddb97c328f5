"""Entry point of ``orderly-bench`` and of ``./bench analyse``."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence

from orderly_bench import __version__
from orderly_bench.cli import analyse, prepare


def build_parser() -> argparse.ArgumentParser:
    """The parser with every command."""
    parser = argparse.ArgumentParser(prog="orderly-bench", description="Headless commands of Orderly Bench.")
    parser.add_argument("--version", action="version", version=__version__)
    commands = parser.add_subparsers(dest="command", required=True)
    one = commands.add_parser("analyse", help="compare the arms of tidy CSV files")
    analyse.add_arguments(one)
    one.set_defaults(run=analyse.run)
    two = commands.add_parser("prepare", help="bring the database up to date (used by ./bench)")
    prepare.add_arguments(two)
    two.set_defaults(run=prepare.run)
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command and return its exit status."""
    arguments = build_parser().parse_args(argv)
    return int(arguments.run(arguments))


if __name__ == "__main__":
    sys.exit(main())
