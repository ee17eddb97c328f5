"""A table in which the levels of one factor stand in the heads of what was counted: *spring rooted*, *spring stuck*, *summer rooted*."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import cache

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.responses.kind import Response
from orderly_bench.formats.headings import HEADED, as_named, plain_heading, share_heads
from orderly_bench.formats.looks_across import is_look
from orderly_bench.formats.table_csv import Table
from orderly_bench.formats.tally import FAILED, LOST, OF_OTHERS, STUCK

#: What else may be noted of each level.
_BESIDE = {head for heads in HEADED.values() for head in heads}


def levels_down(
    table: Table, factors: Sequence[str], response: Response, but: Sequence[str]
) -> tuple[Table, list[Caution]] | None:
    """The table with the levels of the one factor that is no column in a column of its own; None where heads do not hold them.

    Parameters
    ----------
    factors : sequence of str
        Columns that make up the arm, all but one of which the table has.
    but : sequence of str
        Columns that somebody names, which are no levels.
    """
    columns = {name.casefold() for name in as_named(table, factors).header}
    missing = [factor for factor in factors if factor.casefold() not in columns]
    if len(missing) != 1 or response is Response.DAYS:
        return None
    others = {name.casefold() for name in but}
    wanted = (response.value, *HEADED[response.value], *share_heads(response.value))
    found: dict[str, dict[str, int]] = {}
    for i, head in enumerate(table.header):
        if head.casefold() not in others and not is_look(head) and (parted := _parted(head, wanted)):
            level, what = parted
            found.setdefault(level, {})[what] = i
    found = {level: own for level, own in found.items() if {*own} & {*wanted}}
    measured = sorted(set.intersection(*(set(own) for own in found.values()))) if found else []
    if len(found) < 2 or not {*measured} & {*wanted}:
        return None
    taken = {own[what] for own in found.values() for what in measured}
    kept = [i for i in range(len(table.header)) if i not in taken]
    rows, lines = [], []
    for level, own in found.items():
        for cells, line in zip(table.rows, table.lines, strict=True):
            if any(cells[own[what]] for what in measured):
                rows.append([*(cells[i] for i in kept), level, *(cells[own[what]] for what in measured)])
                lines.append(line)
    told = caution(
        "levels_across",
        columns=all_of([table.header[i] for i in sorted(taken)]),
        factor=missing[0],
        levels=all_of([*found]),
    )
    return Table([*(table.header[i] for i in kept), missing[0], *measured], rows, lines), [told]


def _parted(head: str, wanted: Sequence[str]) -> tuple[str, str] | None:
    """A level, and what was counted of it; None where the head is none such.

    >>> _parted("IBA 1000 rooted (%)", ("rooted percent",)), _parted("No. stuck, summer", ())
    (('IBA 1000', 'rooted percent'), ('summer', 'stuck'))
    """
    for what in sorted({*wanted, *STUCK, *LOST, *FAILED, *_BESIDE}, key=len, reverse=True):
        for pattern in _patterns(what):
            if (hit := pattern.fullmatch(head.strip())) and plain_heading(hit["level"]) not in OF_OTHERS:
                return hit["level"].strip(), what
    return None


@cache
def _patterns(what: str) -> tuple[re.Pattern[str], re.Pattern[str]]:
    """A head that ends, or begins, with what was counted."""
    words = [r"(?:%|pct|percent|per cent)" if word == "percent" else re.escape(word) for word in what.split()]
    counted = r"(?:(?:no|nr|number|n)\.?(?: of)?[\s_]+)?" + r"[\s_().-]*".join(words) + r"[\s_().]*(?:\(n\))?"
    level = r"(?P<level>[^\W_].*?)"
    return (
        re.compile(rf"{level}[\s_:,(–-]+{counted}", re.IGNORECASE),
        re.compile(rf"{counted}[\s_:,(–-]+{level}\)?", re.IGNORECASE),
    )
