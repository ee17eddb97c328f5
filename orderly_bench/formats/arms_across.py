"""A table with a column for each arm, and one that lies on its side, read with the arm in a column of its own."""

from __future__ import annotations

import re
from collections.abc import Sequence

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.questions import LIKE_GROUPS
from orderly_bench.core.responses.kind import Response, Scale
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.vocabulary import State
from orderly_bench.formats.headings import HEADED, MINUS, MISSING, NO, PLUS, YES, of_what, plain_heading
from orderly_bench.formats.table_csv import Table
from orderly_bench.formats.tally import COUNTS, DAYS, FAILED, LOST, OF_OTHERS, STATE, STUCK, column_of

#: What a table on its side names in its first column, and no arm is called.
_COUNTED = {*(head for heads in HEADED.values() for head in heads), *STUCK, *FAILED, *LOST}
_NO_ARM = {*_COUNTED, *COUNTS, *DAYS, *LIKE_GROUPS, *OF_OTHERS}
DEAD = ("dead", "died")
_NUMBER = re.compile(r"\d{1,4}(?:[.,]\d+)?")
_OF = re.compile(r"\d{1,4} ?(?:/|of|out of) ?\d{1,4}|\d{1,3} ?%", re.IGNORECASE)
_YES_OR_NO = {*YES, *NO, PLUS, *MINUS}


def arms_down(
    table: Table, factors: Sequence[str], response: Response, but: Sequence[str]
) -> tuple[Table, list[Caution]] | None:
    """The table with the arm in a column under the factor's name, where that is no column and arms have columns of their own.

    Each cell below an arm is a cutting, or a tray where it counts several; a blank one is none. Where the first column names what was
    counted, each arm's column is one row.

    Parameters
    ----------
    factors : sequence of str
        Only of one factor can columns be the levels.
    but : sequence of str
        Columns that somebody names, which are no arms.

    Raises
    ------
    UnusableData
        Numbers above 1 below the arms, where rooting is asked: roots of a cutting, or how many rooted.
    """
    if len(factors) != 1 or any(head.casefold() == factors[0].casefold() for head in table.header[1:]):
        return None
    factor, others = factors[0], {name.casefold() for name in but} - {factors[0].casefold()}
    if turned := _turned(table, factor):
        return turned
    heads = [plain_heading(head) for head in table.header]
    if (
        table.header[0].casefold() == factor.casefold()
        or response is Response.DAYS
        or {response.value, *HEADED[response.value]} & set(heads)
    ):
        return None
    arms = [i for i, name in enumerate(table.header) if name.casefold() not in others and _is_arm(table, i, response)]
    if len(arms) < 2:
        return None
    _refuse_two_readings(table, arms, response, others)
    kept = [i for i, name in enumerate(table.header) if i not in arms and not _only_counts(table, i, but)]
    rows, lines = [], []
    for arm in arms:
        for cells, line in zip(table.rows, table.lines, strict=True):
            if cells[arm]:
                died = cells[arm].casefold() in DEAD
                said = ("0" if kind_of(response).scale is Scale.YES_NO else "") if died else cells[arm]
                rows.append([*(cells[i] for i in kept), table.header[arm], said, State.DEAD.value if died else ""])
                lines.append(line)
    header = [*(table.header[i] for i in kept), factor, response.value, STATE]
    told = caution("arms_across", columns=all_of([table.header[i] for i in arms]), factor=factor)
    return Table(header, rows, lines), [told]


def _turned(table: Table, factor: str) -> tuple[Table, list[Caution]] | None:
    """A table on its side, set upright: its first column names two things that were counted, and the others are arms."""
    names = [cells[0] for cells in table.rows]
    known = [name for name in names if {plain_heading(name), of_what(name)} & _COUNTED]
    heads = {plain_heading(name) for name in table.header[1:]}
    if len(known) < 2 or len(set(names)) < len(names) or heads & _COUNTED:
        return None
    places = range(1, len(table.header))
    rows = [[table.header[i], *(cells[i] for cells in table.rows)] for i in places]
    told = caution("arms_across", "on_its_side", columns=all_of(table.header[1:]), rows=all_of(names))
    return Table([factor, *names], rows, [i + 1 for i in places]), [told]


def _is_arm(table: Table, at: int, response: Response) -> bool:
    """Whether a column may be an arm: it is headed like nothing else, and each of its cells says what came of a cutting."""
    if not table.header[at] or {plain_heading(table.header[at]), of_what(table.header[at])} & _NO_ARM:
        return False
    if _numbered(table, at):
        return False
    return says_what_came([cells[at] for cells in table.rows], response)


def says_what_came(column: Sequence[str], response: Response) -> bool:
    """Whether each cell says what came of a cutting or of several."""
    told = [cell.casefold() for cell in column if cell and cell.casefold() not in MISSING]
    yes_no = kind_of(response).scale is Scale.YES_NO
    return bool(told) and all(
        cell in DEAD or _NUMBER.fullmatch(cell) or (yes_no and (cell in _YES_OR_NO or _OF.fullmatch(cell)))
        for cell in told
    )


def _numbered(table: Table, at: int) -> bool:
    """Whether a column only counts its rows."""
    return len(table.rows) > 1 and [cells[at] for cells in table.rows] == [str(i + 1) for i in range(len(table.rows))]


def _only_counts(table: Table, at: int, but: Sequence[str]) -> bool:
    """Whether a column counts the rows and is no group: the same number in several arms is no cutting that stands twice."""
    name = table.header[at].casefold()
    return _numbered(table, at) and name not in LIKE_GROUPS and name not in {one.casefold() for one in but}


def how_many_or_roots(cell: str) -> bool:
    """Whether a cell is a bare number that is no yes or no."""
    return _NUMBER.fullmatch(cell) is not None and cell not in ("0", "1")


def _refuse_two_readings(table: Table, arms: Sequence[int], response: Response, others: set[str]) -> None:
    if kind_of(response).scale is not Scale.YES_NO or column_of(table, STUCK, others) is not None:
        return
    for cells, line in zip(table.rows, table.lines, strict=True):
        for arm in arms:
            if how_many_or_roots(cells[arm]):
                raise UnusableData(
                    _("{cell!r} is the number of roots of a cutting, or how many of several did", cell=cells[arm]),
                    _("Write 8/10 for eight of ten; numbers of roots are a response of their own, root_count"),
                    row=line,
                    column=table.header[arm],
                )
