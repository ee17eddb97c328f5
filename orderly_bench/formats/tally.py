"""A tally in a table: a row for several cuttings, with how many were stuck and how many of them rooted, read as a row a cutting."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import NamedTuple

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.vocabulary import State
from orderly_bench.formats.headings import HEADED, SHARES, of_what, plain_heading, share_heads
from orderly_bench.formats.table_csv import Table

#: How people head the columns of a tally.
STUCK = (
    "stuck", "n", "of", "total", "cuttings", "stuck cuttings", "cuttings stuck", "planted", "cuttings planted", "set", "inserted", "taken", "sample size",
    *(f"{what}per {unit}" for what in ("", "cuttings ", "stuck ", "n ") for unit in ("tray", "pot", "plot", "unit", "rep", "replicate")),
)  # fmt: skip
#: Those that did not root, where nobody wrote how many were stuck.
FAILED = ("not rooted", "unrooted", "non rooted", "failed", "failures", "without roots", "no roots")
LOST = ("dead", "died", "losses", "lost")
STATE = "state"
#: How a row is named that sums or averages the others.
SUMMED = ("total", "totals", "grand total", "subtotal", "sum", "overall", "mean", "average", "means")
#: What a row or a column works out of others, beside their sum or mean.
SPREAD = ("sd", "se", "sem", "cv", "std dev", "stdev", "std err", "std error", "standard deviation", "standard error")
OF_OTHERS = {*SUMMED, *SPREAD}
#: What of these a level may begin with: *total darkness*.
WHOLE = ("total", "totals", "overall", "sum")
#: How people head the day of a look, and what is written beside what was counted.
DAYS = (
    "day", "days", "date", "das", "week", "weeks", "look", "days after sticking", "day of look", "date of look", "counted on", "checked on",
)  # fmt: skip
COUNTS = (
    "rooted",
    "alive",
    "callus",
    "callused",
    "note",
    "notes",
    "remarks",
    "comment",
    "comments",
    *(head for outcome in SHARES for head in share_heads(outcome)),
)
#: *9/10*, *9 of 10*.
_OF = re.compile(r"(\d{1,4}) ?(?:/|of|out of) ?(\d{1,4})", re.IGNORECASE)
#: A cell with decimals is measured: it names nothing.
_MEASURED = re.compile(r"\d+[.,]\d+")
_SHARE = re.compile(r"(\d{1,3})(?:[.,](\d{1,6}))? ?(%?)")


class Counted(NamedTuple):
    """What a row of a tally says: how many did, were stuck and died."""

    did: int
    stuck: int
    dead: int


def one_by_one(table: Table, outcome: str, but: Sequence[str], most: int) -> Table | None:
    """A row a cutting of a tally: *9* beside *10* stuck, *9/10* or *90 %* of 10, with its dead where they have a column; None where it
    is no tally.

    Parameters
    ----------
    outcome : str
        The column of how many did: *rooted*.
    but : sequence of str
        Columns that are none of how many were stuck or died, however they are headed.
    most : int
        Cuttings.

    Raises
    ------
    UnusableData
        A row that sums others, more of them and dead than stuck, a share that no number gives or several do, one number of roots for several cuttings, or too many.
    """
    found = counts_of(table, outcome, but)
    if found is None:
        return None
    table, tallies = found
    at, others = table.header.index(outcome), {name.casefold() for name in but}
    _refuse_looks(table, tallies, others)
    _refuse_sums(table, tallies, others)
    bare = table if STATE in table.header else _with_state(table)
    state = bare.header.index(STATE)
    rows: list[list[str]] = []
    lines: list[int] = []
    for tally, cells, line in zip(tallies, bare.rows, bare.lines, strict=True):
        did, many, dead = tally
        if did + dead > many:
            told = _("{k} {outcome} and {d} dead are more than {n} stuck", k=str(did), outcome=outcome, d=str(dead), n=str(many))  # fmt: skip
            raise UnusableData(told, _("Put the row right"), row=line, column=outcome)
        _refuse_one_for_several(bare, cells, line)
        if len(rows) + many > most:
            raise UnusableData(_("a trial has 1 to {most} cuttings here", most=most), _("Give each its row"))
        for said, how in [("1", "")] * did + [("0", State.DEAD.value)] * dead + [("0", "")] * (many - did - dead):
            made = list(cells)
            made[at], made[state] = said, how
            rows.append(made)
            lines.append(line)
    return Table(bare.header, rows, lines)


def counts_of(table: Table, outcome: str, but: Sequence[str]) -> tuple[Table, list[Counted]] | None:
    """What each row of a tally counts, and the table with its outcome under that name; None where it is no tally."""
    others = {name.casefold() for name in but}
    share = None if outcome in table.header else column_of(table, share_heads(outcome), others)
    typed = table.header
    if share is not None:
        table = Table([outcome if i == share else name for i, name in enumerate(table.header)], table.rows, table.lines)
    if outcome not in table.header:
        return None
    at = table.header.index(outcome)
    stuck, lost, failed = (column_of(table, names, others) for names in (STUCK, LOST, FAILED))
    if stuck is None and failed is None and (share is not None or _all_shares(table, at)):
        raise UnusableData(
            _("a share, and no column says of how many"),
            _("Add a column of how many were stuck: 9 of 10 and 90 of 100 do not say the same"),
            row=1,
            column=typed[at],
        )
    if stuck is None and lost is None and failed is not None:
        table, stuck = _with_stuck(table, at, failed)
    tallies = [
        _tally(_with_count(cells, at, stuck, share is not None, line), at, stuck, lost)
        for cells, line in zip(table.rows, table.lines, strict=True)
    ]
    told = [tally for tally in tallies if tally is not None]
    if (
        any(tally.did > 1 for tally in told)
        and (gap := next((i for i, tally in enumerate(tallies) if tally is None), None)) is not None
    ):
        raise UnusableData(
            _("the others say how many of how many, this row does not"),
            _("Give both numbers; leave the row out where nothing of it was counted"),
            row=table.lines[gap],
            column=typed[at],
        )
    if len(told) < len(tallies) or all(tally.stuck == 1 for tally in told):
        return None
    return table, told


def _all_shares(table: Table, at: int) -> bool:
    """Whether a column holds percent and nothing else."""
    cells = [cells[at] for cells in table.rows if cells[at]]
    return bool(cells) and all(cell.endswith("%") and _SHARE.fullmatch(cell) for cell in cells)


def _refuse_looks(table: Table, tallies: Sequence[Counted], named: set[str]) -> None:
    """Rows that differ in a day only, beside what was counted, are looks at the same cuttings unless somebody says otherwise."""
    day = next((i for i, n in enumerate(table.header) if plain_heading(n) in DAYS and n.casefold() not in named), None)
    if day is None:
        return
    counts = {
        i
        for i, name in enumerate(table.header)
        if {plain_heading(name), of_what(name)} & {*COUNTS, *STUCK, *LOST}
        or any(_MEASURED.fullmatch(c[i]) for c in table.rows)
    }
    seen: dict[tuple[object, ...], int] = {}
    for i, (cells, tally) in enumerate(zip(table.rows, tallies, strict=True)):
        key = (tally.stuck, *(cell for place, cell in enumerate(cells) if place != day and place not in counts))
        first = seen.setdefault(key, i)
        if table.rows[first][day] != cells[day]:
            raise UnusableData(
                _(
                    "rows {first} and {other} differ in nothing but {day} and what was counted, as looks at the same cuttings do",
                    first=table.lines[first], other=table.lines[i], day=table.header[day],
                ),
                _("Name it as the day of each look (--day); or, where each row was stuck on its own day, as wave or block"),
                row=table.lines[i],
                column=table.header[day],
            )  # fmt: skip


def _refuse_sums(table: Table, tallies: Sequence[Counted], named: set[str]) -> None:
    """A row that sums or averages others is no arm: told by its name, the last also by its numbers."""
    places = [i for i, name in enumerate(table.header) if name.casefold() in named]
    for i, (cells, line) in enumerate(zip(table.rows, table.lines, strict=True)):
        sums_all = i > 1 and i + 1 == len(tallies) and tallies[i] == tuple(map(sum, zip(*tallies[:i], strict=True)))
        if sums_all or any(plain_heading(cells[place]) in SUMMED for place in places):
            raise _of_others(line)


def refuse_rows_of_others(table: Table, named: Sequence[str]) -> None:
    """Refuse a row that another column calls the mean or total of others, or a level that one row alone is called; and a note below all.

    Parameters
    ----------
    named : sequence of str
        Columns in which such a word may be a level: all the leaves off, *total*.

    Raises
    ------
    UnusableData
        Names the row.
    """
    levels = {name.casefold() for name in named}
    _refuse_note_below(table)
    for i, name in enumerate(table.header):
        if plain_heading(name) in HEADED["note"]:
            continue
        column = [cells[i] for cells in table.rows]
        for cell in dict.fromkeys(cell for cell in column if cell[:1].isalpha()):
            word = _of_others_called(cell, column)
            lines = {at for own, at in zip(column, table.lines, strict=True) if own == cell} if word else ()
            if len(lines) == 1 or (lines and word in SUMMED and name.casefold() not in levels):
                raise _of_others(min(lines))


def _of_others_called(cell: str, column: Sequence[str]) -> str:
    """The word by which a cell names what is worked out of others: *mean*, and *sand mean* beside *sand*; blank where it does not."""
    plain = plain_heading(cell)
    if plain in OF_OTHERS:
        return plain
    first, _, behind = plain.partition(" ")
    before, _, last = plain.rpartition(" ")
    beside = {plain_heading(own) for own in column}
    if last in OF_OTHERS and before in beside:
        return last
    return first if first in OF_OTHERS and first not in WHOLE and behind in beside else ""


def _refuse_note_below(table: Table) -> None:
    """A last row of a single cell, which stands nowhere else in its column, is a remark; with two columns it may be a cutting unseen."""
    if len(table.header) < 3 or len(table.rows) < 2:
        return
    *others, last = table.rows
    filled = [i for i, cell in enumerate(last) if cell]
    if len(filled) == 1 and all(cells[filled[0]] != last[filled[0]] for cells in others):
        raise UnusableData(
            _("only {cell!r} stands in the last row", cell=last[filled[0]][:40]),
            _("Delete it if it is a note below the table, or fill the row"),
            row=table.lines[-1],
        )


def _of_others(line: int) -> UnusableData:
    return UnusableData(
        _("the row sums or averages others, so it is no arm"),
        _("Delete it: arms are counted from their own rows"),
        row=line,
    )


def _with_state(table: Table) -> Table:
    return Table([*table.header, STATE], [[*cells, ""] for cells in table.rows], table.lines)


def _with_stuck(table: Table, at: int, failed: int) -> tuple[Table, int]:
    """The table with how many were stuck in the place of how many did not root, and where that stands."""
    header = [STUCK[0] if i == failed else name for i, name in enumerate(table.header)]
    rows = [
        [str(int(c[at]) + int(c[failed])) if i == failed and c[at].isdecimal() and c[failed].isdecimal() else cell for i, cell in enumerate(c)]
        for c in table.rows
    ]  # fmt: skip
    return Table(header, rows, table.lines), failed


def column_of(table: Table, names: Sequence[str], others: set[str]) -> int | None:
    """Where a column stands that is headed by one of some names, but for those of ``others``."""
    found = [i for i, typed in enumerate(table.header) if {plain_heading(typed), of_what(typed)} & set(names)]
    return next((i for i in found if table.header[i].casefold() not in others), None)


def _tally(cells: Sequence[str], at: int, stuck: int | None, lost: int | None) -> Counted | None:
    """How many did, were stuck and died, of a row; None where it is none."""
    both = _OF.fullmatch(cells[at].strip())
    counts = [both[1], both[2]] if both else [cells[at].strip(), cells[stuck].strip()] if stuck is not None else []
    counts += [cells[lost].strip() or "0" if lost is not None else "0"]
    if len(counts) < 3 or not all(count.isascii() and count.isdigit() and len(count) < 5 for count in counts):
        return None
    return Counted(*map(int, counts))


def _with_count(cells: list[str], at: int, stuck: int | None, shares: bool, line: int) -> list[str]:
    """The cells with a share of those stuck as their number; others as they are."""
    share = _SHARE.fullmatch(cells[at].strip())
    many = int(cells[stuck]) if stuck is not None and cells[stuck].isascii() and cells[stuck].isdigit() else 0
    if share is None or not many or not (shares or share[3]):
        return cells
    decimals = share[2] or ""
    percent = float(f"{share[1]}.{decimals or 0}")
    number, width = round(percent * many / 100), 0.5 * 10.0 ** -len(decimals)
    if number > many or abs(100 * number / many - percent) > width + 1e-9 or 100 / many <= 2 * width:
        raise UnusableData(
            _(
                "{percent:g} % of {many} is no whole number of cuttings, or could be several",
                percent=percent,
                many=str(many),
            ),
            _("Give how many there were"),
            row=line,
        )
    return [*cells[:at], str(number), *cells[at + 1 :]]


def _refuse_one_for_several(table: Table, cells: Sequence[str], line: int) -> None:
    for name in ("root_count", "longest_root_mm", STATE):
        if name in table.header and cells[table.header.index(name)].strip():
            raise UnusableData(
                _("one value for several cuttings"),
                _("Give each its row, or leave that column out"),
                row=line,
                column=name,
            )
