"""Trouble that a person can act on."""

from __future__ import annotations

import sys


class Problem(Exception):
    """Says what is wrong and what to do; ``./bench`` prints it and stops with status 1."""


def say(text: str) -> None:
    """One line of progress."""
    print(text, flush=True)


def complain(text: str) -> None:
    """One line on the error stream."""
    print(text, file=sys.stderr, flush=True)
