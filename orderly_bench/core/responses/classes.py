"""Root numbers in classes, for when nobody counts past dozens: ``none``, ``1-4``, ``5-9``, ``10+``.

Classes are ordered and compared by rank; a mid-point is never made up for them.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.translation import gettext as _

#: What the score pad offers where the plan has none of its own.
CLASSES = ("none", "1-4", "5-9", "10+")
MOST_CLASSES = 8
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
        raise InvalidInput("root class", _("write none, a range such as 5-9, or 10+"), label[:40])
    return low


def class_from(floor: float) -> str:
    """The usual class that begins with a number of roots.

    >>> class_from(0), class_from(5)
    ('none', '5-9')
    """
    return next(one for one in CLASSES if class_floor(one) == floor)


def read_classes(typed: str) -> tuple[str, ...]:
    """Classes of one's own, commas between, from 1 on without a gap, the last open; none from nothing.

    Raises
    ------
    InvalidInput
        Not a class, a gap or an overlap, an end that is not open, more than the pad has room for.

    >>> read_classes("1-3, 4-11, 12-23, 24+")
    ('1-3', '4-11', '12-23', '24+')
    """
    parts = re.split(",", typed.replace("\u2013", "-"))
    found = tuple(label for part in parts if (label := re.sub(r"\s", "", part)))
    if not found:
        return ()
    where, rule = (
        _("classes of root numbers"),
        _("begin with 1, leave no gap, and end with so many or more: 1-3, 4-11, 12+"),
    )
    if len(found) > MOST_CLASSES:
        raise InvalidInput(where, _("give at most {n}", n=str(MOST_CLASSES)), len(found))
    begins = 1
    for i, label in enumerate(found, start=1):
        if class_floor(label) != begins or label.endswith("+") != (i == len(found)):
            raise InvalidInput(where, rule, typed[:60])
        begins = 0 if label.endswith("+") else int(label.rpartition("-")[2]) + 1
    return found


def class_of(number: int, classes: Sequence[str]) -> str:
    """The class that a counted number falls into; none from 0.

    >>> class_of(7, ("1-3", "4-11", "12+")), class_of(0, CLASSES)
    ('4-11', 'none')
    """
    return max((label for label in classes if class_floor(label) <= number), key=class_floor, default="none")
