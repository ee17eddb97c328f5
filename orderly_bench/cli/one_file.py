"""One file: what it holds, and what is said of it: an answer, or one message and status 2."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

from orderly_bench.core.errors import OrderlyError, UnusableData
from orderly_bench.core.messages.translation import gettext as _


def answered(file: str, work: Callable[[], str]) -> int:
    """Print what ``work`` says of a file; exit status 2, and the file or flag named, when it can't be read so."""
    try:
        text = work()
    except UnusableData as error:
        print(error.within(file), file=sys.stderr)
    except OSError as error:
        why = _("{file}: cannot be read ({strerror}). Check the name.", file=file, strerror=error.strerror)
        print(why, file=sys.stderr)
    except OrderlyError as error:
        print(error, file=sys.stderr)
    else:
        print(text)
        return 0
    return 2


def contents(file: str) -> bytes:
    """The bytes of a file.

    Raises
    ------
    UnusableData
        It can't be read.
    """
    try:
        return Path(file).read_bytes()
    except OSError as error:
        raise UnusableData(
            _("can't be read ({why})", why=error.strerror), _("Check the name and the rights of the file")
        ) from error
