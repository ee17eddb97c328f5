"""Root numbers in classes, where nobody counts past dozens: ordered, never by the mid-points."""

from __future__ import annotations

import re

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.messages.translation import gettext_noop as N_
from orderly_bench.core.responses.classes import CLASSES, class_floor
from orderly_bench.core.responses.kind import Kind, Response, Scale
from orderly_bench.core.vocabulary import Score

_ROOTS = re.compile(r"\broots?\b")
_OVER = re.compile(r"(?:>|over|more than|above) ?(\d{1,4})")
_FROM = re.compile(r"(?:>=|\u2265|from|at least) ?(\d{1,4})|(\d{1,4}) ?(?:or more|and more|and over|and up)")
_TO = re.compile(r" ?(?:to|\u2013|\u2212|-) ?")


def least_of(cell: str) -> int:
    """The least number of a class, however a sheet writes it; a lone number is a class of its own.

    >>> [least_of(cell) for cell in ("1 to 4", ">10", "10 or more", "\u2265 20", "3", "none")]
    [1, 11, 10, 20, 3, 0]

    Raises
    ------
    InvalidInput
        Not a class.
    """
    plain = _ROOTS.sub("", re.sub(r"\s+", " ", cell.casefold())).strip()
    if over := _OVER.fullmatch(plain):
        return int(over[1]) + 1
    if least := _FROM.fullmatch(plain):
        return int(least[1] or least[2])
    return int(plain) if re.fullmatch(r"\d{1,4}", plain) else class_floor(_TO.sub("-", plain))


def from_cell(cell: str, name: str, line: int) -> float | None:
    """The least number of the class, which orders it."""
    if cell == "":
        return None
    try:
        return float(least_of(cell))
    except InvalidInput as error:
        raise UnusableData(
            _("{cell!r} is no class of root numbers", cell=cell[:40]),
            _("Write none, a range such as 5-9, or 10+"),
            row=line,
            column=name,
        ) from error


def from_score(score: Score | None, rooted: bool | None) -> float | None:
    """Counted numbers fall into their class; seen but neither counted nor classed is unknown."""
    if rooted is False:
        return 0.0
    if score is None or rooted is None:
        return None
    if score.root_class:
        return float(class_floor(score.root_class))
    number = score.root_number
    return None if number is None else float(max(f for f in map(class_floor, CLASSES) if f <= number))


KIND = Kind(
    Response.ROOT_CLASS,
    Scale.GRADES,
    N_("Root number in classes"),
    N_("cuttings in each class"),
    from_cell,
    from_score,
    asked=N_("the class of the number of roots"),
    effect="P(more)",
    hurdled=True,
)
