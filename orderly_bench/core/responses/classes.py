"""Root numbers in classes, for when nobody counts past dozens: ``none``, ``1-4``, ``5-9``, ``10+``.

Classes are ordered and compared by rank; a mid-point is never made up for them.
"""

from __future__ import annotations

import re

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.words import tell

#: What the score pad offers.
CLASSES = ("none", "1-4", "5-9", "10+")
MOST = 10_000


def class_floor(label: str) -> int:
    """Least root number of a class, which orders the classes: ``none`` 0, ``5-9`` 5, ``10+`` 10.

    Raises
    ------
    InvalidInput
        Not a class: neither none, nor a range, nor 'so many or more'.
    """
    text = label.strip().lower().replace("\u2013", "-")
    if text in ("none", "0"):
        return 0
    found = re.fullmatch(r"(\d{1,5})\s*(?:-\s*(\d{1,5})|\+)", text)
    low, high = (int(found[1]), int(found[2]) if found[2] else MOST) if found else (0, 0)
    if not 1 <= low <= high <= MOST:
        raise InvalidInput("root class", tell("write none, a range such as 5-9, or 10+"), label[:40])
    return low


def class_from(floor: float) -> str:
    """The usual class that begins with a number of roots.

    >>> class_from(0), class_from(5)
    ('none', '5-9')
    """
    return next(one for one in CLASSES if class_floor(one) == floor)
