"""What is said of one file: an answer, or one message and status 2."""

from __future__ import annotations

import sys
from collections.abc import Callable

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
