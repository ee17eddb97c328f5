"""A table with a column for each look, as tick sheets are kept, read as a row for each look."""

from __future__ import annotations

import re
from collections.abc import Sequence
from contextlib import suppress
from datetime import date
from typing import NamedTuple

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import InvalidInput
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.typed import read_day
from orderly_bench.core.vocabulary import State
from orderly_bench.formats.headings import HEADED, of_what, plain_heading
from orderly_bench.formats.table_csv import Table
from orderly_bench.formats.tally import LOST, STATE, STUCK, column_of

#: The day of each look, and the row of the sheet that it stood in.
DAY, SHEET_ROW = "day of the look", "row of the sheet"
_DAYS, _WEEKS = "days?|d|das", "weeks?|wks?|w"
#: *Day 14*, *W3*, *rooted d 28*, *14 d*, *3 weeks*, *28 DAS rooted*.
_WHEN = re.compile(
    rf"(?:(?P<before>.+) )?(?:(?:(?P<day>{_DAYS})|{_WEEKS}) ?(?P<n>\d{{1,3}})|(?P<n_>\d{{1,3}}) ?(?:(?P<day_>{_DAYS})|{_WEEKS}))(?: (?P<after>.+))?"
)
_OUTCOME = {head: own for own, heads in HEADED.items() for head in heads} | dict.fromkeys(LOST, LOST[0])
_DEAD = ("dead", "died")
_NUMBER = re.compile(r"\d{1,4}")


def is_look(head: str) -> bool:
    """Whether a head names the day of a look."""
    return _head(0, head) is not None


class _Head(NamedTuple):
    """A column of a look: where it stands, its day (after sticking, or a date), and what was looked at, blank where its head says no more."""

    place: int
    day: int | date
    what: str


def looks_across(table: Table, outcome: str, but: Sequence[str]) -> tuple[Table, list[Caution]] | None:
    """A row for each look of a table that has a column for each; None where no two columns are looks at what is wanted.

    A row of the sheet is a cutting, or counts several; a blank cell is no look.

    Parameters
    ----------
    outcome : str
        What is wanted of each look, which no column gives once for all.
    but : sequence of str
        Columns that somebody names, which are no looks.
    """
    others = {name.casefold() for name in but}
    heads = [h for i, name in enumerate(table.header) if name.casefold() not in others and (h := _head(i, name))]
    heads = [head._replace(what=head.what or _what(table, heads, others)) for head in heads]
    if not _looks_at(outcome, heads):
        return None
    looked = {head.place for head in heads}
    kept = [i for i in range(len(table.header)) if i not in looked]
    measured = [*dict.fromkeys([head.what for head in heads]), STATE]
    rows, lines = [], []
    for day in sorted({str(head.day) for head in heads}):
        at = {head.what: head.place for head in heads if str(head.day) == day}
        for cells, line in zip(table.rows, table.lines, strict=True):
            seen = _seen({what: cells[place] for what, place in at.items()})
            if any(seen.values()):
                rows.append([str(line), *(cells[i] for i in kept), day, *(seen.get(what, "") for what in measured)])
                lines.append(line)
    header = [SHEET_ROW, *(table.header[i] for i in kept), DAY, *measured]
    dated = isinstance(heads[0].day, date)
    told = caution(
        "looks_across",
        "dates" if dated else "",
        columns=all_of([table.header[head.place] for head in heads]),
        days=all_of(list(dict.fromkeys(str(head.day) for head in heads))),
    )
    return Table(header, rows, lines), [told]


def _head(place: int, name: str) -> _Head | None:
    found = _WHEN.fullmatch(plain_heading(name))
    if found is None:
        return _dated(place, name)
    day = int(found["n"] or found["n_"]) * (1 if found["day"] or found["day_"] else 7)
    return _looked_at(place, day, found["before"] or found["after"] or "")


def _dated(place: int, name: str) -> _Head | None:
    """A date, with what was looked at before or behind it."""
    first, _, behind = name.strip().partition(" ")
    before, _, last = name.strip().rpartition(" ")
    for date_, what in ((name, ""), (first, behind), (last, before)):
        with suppress(InvalidInput):
            return _looked_at(place, read_day(date_.strip(" :,()"), ""), plain_heading(what))
    return None


def _looked_at(place: int, day: int | date, what: str) -> _Head | None:
    named = _OUTCOME.get(what) or _OUTCOME.get(of_what(what), "")
    return None if what and not named else _Head(place, day, named)


def _what(table: Table, heads: Sequence[_Head], others: set[str]) -> str:
    """What columns hold that name a day alone: roots where cells are numbers of one cutting and one is above 1, else what rooted."""
    cells = {cells[head.place].casefold() for cells in table.rows for head in heads if not head.what} - {"", *_DEAD}
    several = column_of(table, STUCK, others) is not None
    return "root_count" if not several and all(map(_NUMBER.fullmatch, cells)) and cells - {"0", "1"} else "rooted"


def _looks_at(outcome: str, heads: Sequence[_Head]) -> bool:
    """Whether these are two looks or more at an outcome, each once: what rooted is read of a number of roots too."""
    wanted = {outcome, "root_count"} if outcome == "rooted" else {outcome}
    days = {head.day for head in heads if head.what in wanted}
    return len(days) > 1 and len(set(map(type, days))) == 1 and len({head[1:] for head in heads}) == len(heads)


def _seen(cells: dict[str, str]) -> dict[str, str]:
    """What one look says; *dead* in a cell is a state, and no roots."""
    if any(cell.casefold() in _DEAD for cell in cells.values()):
        return {what: "0" for what in cells if what in ("rooted", "root_count")} | {STATE: State.DEAD.value}
    return cells
