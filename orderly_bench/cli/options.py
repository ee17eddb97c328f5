"""Options that several commands have."""

from __future__ import annotations

import argparse

from orderly_bench.cli.numbers import number
from orderly_bench.core.messages.translation import gettext as _


def add_json(parser: argparse.ArgumentParser) -> None:
    """Print what a program reads."""
    parser.add_argument("--json", action="store_true", help=_("one JSON object in the place of sentences"))


def add_alpha(parser: argparse.ArgumentParser) -> None:
    """What p is held to."""
    parser.add_argument(
        "--alpha", type=number, default=0.05, help=_("how often a trial may cry wolf where nothing differs: 0.05")
    )


def add_seed(parser: argparse.ArgumentParser) -> None:
    """Where chance begins."""
    parser.add_argument("--seed", type=int, default=1, help=_("the same number draws the same again: 1"))


def add_design(parser: argparse.ArgumentParser, trials: int) -> None:
    """A layout that is simulated: what shares a unit, blocks, and how often."""
    parser.add_argument("--per-unit", type=int, help=_("cuttings that share a pot or tray; with --icc"))
    parser.add_argument("--icc", type=number, help=_("how alike cuttings of one unit are, 0 to 0.999; with --per-unit"))
    parser.add_argument("--blocks", type=int, default=1, help=_("blocks the cuttings of each arm are shared over: 1"))
    add_alpha(parser)
    parser.add_argument("--trials", type=int, default=trials, help=_("trials simulated: {trials}", trials=trials))
    add_seed(parser)
