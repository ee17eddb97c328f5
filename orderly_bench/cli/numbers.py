"""Numbers as they are typed: a decimal comma is a point."""

from __future__ import annotations

import argparse

from orderly_bench.core.messages.translation import gettext as _


def number(text: str) -> float:
    """A number of a flag.

    >>> number("0,15")
    0.15

    Raises
    ------
    argparse.ArgumentTypeError
        What is none.
    """
    try:
        return float(text.replace(",", "."))
    except ValueError:
        raise argparse.ArgumentTypeError(_("{typed!r} is not a number", typed=text[:40])) from None
