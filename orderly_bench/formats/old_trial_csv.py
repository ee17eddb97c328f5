"""A finished trial from a spreadsheet: a row a cutting, or a tally of several, with what it was given, what it stood in, and what came of it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.questions import known_state
from orderly_bench.core.score.entry import check_score
from orderly_bench.core.typed import read_number, read_whole
from orderly_bench.core.vocabulary import KnownBy, Roots, Score, State, Top
from orderly_bench.formats.headings import HEADED, NO, YES, headed, plain_heading
from orderly_bench.formats.table_csv import Table, column, read_table

MOST_ROWS = 1_000
#: Columns that say what came of a cutting; one of the first two is needed.
OUTCOMES = ("rooted", "root_count", "longest_root_mm", "state", "note")
DEAD = ("dead", "died")
#: How people head the columns of a tally.
STUCK = (
    "stuck",
    "n",
    "of",
    "total",
    "cuttings",
    "number stuck",
    "no stuck",
    "no of cuttings",
    "number of cuttings",
    "planted",
    "taken",
)
LOST = ("dead", "died", "losses", "lost")
#: *9/10*, *9 of 10*.
_OF = re.compile(r"(\d{1,4}) ?(?:/|of|out of) ?(\d{1,4})", re.IGNORECASE)


@dataclass(frozen=True)
class OldRow:
    """A cutting: its line, its levels of the factors, its unit and block, and its score; a blank outcome is *not looked*."""

    line: int
    levels: tuple[str, ...]
    unit: str
    block: str
    score: Score


def read_old_trial(data: bytes, factors: Sequence[str], unit: str, block: str, way: KnownBy) -> list[OldRow]:
    """The cuttings of a finished trial, every one checked.

    Parameters
    ----------
    factors : sequence of str
        Columns in which the arms differ.
    unit, block : str
        Columns, blank where each cutting stood alone, or in no blocks.
    way : KnownBy
        How the roots were known.

    Raises
    ------
    UnusableData
        Not a table, a column that is not there, a blank level, an outcome that can't be read or contradicts itself; names row and column.
    """
    table = one_by_one(headed(read_table(data), HEADED, [*factors, unit, block]), [*factors, unit, block])
    factors = [_as_headed(table, name) for name in factors]
    unit, block = (_as_headed(table, name) if name else "" for name in (unit, block))
    if not factors:
        raise UnusableData(
            _("no column is named in which the arms differ"),
            _("The columns are: {names}", names=", ".join(table.header)),
        )
    if not {"rooted", "root_count"} & set(table.header):
        column(table, "rooted")
    if not table.rows or len(table.rows) > MOST_ROWS:
        raise UnusableData(_("a trial has 1 to {most} cuttings here", most=MOST_ROWS), _("Give each its row"))
    rows = [
        _row(_Cells(table, cells, line), factors, unit, block, way)
        for cells, line in zip(table.rows, table.lines, strict=True)
    ]
    if unit or len(set(table.lines)) == len(rows):
        return rows
    return [replace(row, unit=f"{row.unit}, {i}") for i, row in enumerate(rows, start=1)]


def one_by_one(table: Table, but: Sequence[str] = ()) -> Table:
    """A tally as a row a cutting: *9* rooted beside *10* stuck, or *9/10*, with its dead where they have a column; anything else as it is.

    Raises
    ------
    UnusableData
        More rooted and dead than stuck, or one number of roots for several cuttings.
    """
    if "rooted" not in table.header:
        return table
    at, others = table.header.index("rooted"), {name.casefold() for name in but}
    stuck, lost = (_column_of(table, names, others) for names in (STUCK, LOST))
    tallies = [_tally(cells, at, stuck, lost) for cells in table.rows]
    if not tallies or None in tallies or all(tally is not None and tally[1] == 1 for tally in tallies):
        return table
    rows: list[list[str]] = []
    lines: list[int] = []
    for tally, cells, line in zip(tallies, table.rows, table.lines, strict=True):
        assert tally is not None
        rooted, many, dead = tally
        if rooted + dead > many:
            told = _("{k} rooted and {d} dead are more than {n} stuck", k=str(rooted), d=str(dead), n=str(many))
            raise UnusableData(told, _("Put the row right"), row=line, column="rooted")
        _refuse_one_for_several(table, cells, line)
        if len(rows) + many > MOST_ROWS:
            raise UnusableData(_("a trial has 1 to {most} cuttings here", most=MOST_ROWS), _("Give each its row"))
        for said in ["1"] * rooted + [DEAD[0]] * dead + ["0"] * (many - rooted - dead):
            rows.append([*cells[:at], said, *cells[at + 1 :]])
            lines.append(line)
    return Table(table.header, rows, lines)


def _column_of(table: Table, names: Sequence[str], others: set[str]) -> int | None:
    found = [i for i, typed in enumerate(table.header) if plain_heading(typed) in names]
    return next((i for i in found if table.header[i].casefold() not in others), None)


def _tally(cells: Sequence[str], at: int, stuck: int | None, lost: int | None) -> tuple[int, int, int] | None:
    """Rooted, stuck and dead of a row; None where it is none."""
    both = _OF.fullmatch(cells[at].strip())
    counts = [both[1], both[2]] if both else [cells[at].strip(), cells[stuck].strip()] if stuck is not None else []
    counts += [cells[lost].strip() or "0" if lost is not None else "0"]
    if len(counts) < 3 or not all(count.isascii() and count.isdigit() and len(count) < 5 for count in counts):
        return None
    rooted, many, dead = map(int, counts)
    return rooted, many, dead


def _refuse_one_for_several(table: Table, cells: Sequence[str], line: int) -> None:
    for name in ("root_count", "longest_root_mm", "state"):
        if name in table.header and cells[table.header.index(name)].strip():
            raise UnusableData(
                _("a row for several cuttings has no {name} of each", name=name),
                _("Give each its row, or leave that column out"),
                row=line,
                column=name,
            )


def _as_headed(table: Table, name: str) -> str:
    """A column as the file writes it, whatever the capitals."""
    return (
        next((one for one in table.header if one.casefold() == name.casefold()), "")
        or table.header[column(table, name)]
    )


@dataclass(frozen=True)
class _Cells:
    table: Table
    cells: list[str]
    line: int

    def __getitem__(self, name: str) -> str:
        return self.cells[self.table.header.index(name)] if name in self.table.header else ""

    def wrong(self, name: str, problem: str, remedy: str) -> UnusableData:
        """What is wrong with a cell."""
        return UnusableData(problem, remedy, row=self.line, column=name)


def _row(cells: _Cells, factors: Sequence[str], unit: str, block: str, way: KnownBy) -> OldRow:
    for name in (*factors, *filter(None, (unit, block))):
        if not cells[name]:
            raise cells.wrong(name, _("the cell is blank"), _("Fill it for every cutting"))
    levels = tuple(cells[name] for name in factors)
    own = cells[unit] if unit else f"line {cells.line}"
    return OldRow(cells.line, levels, own, cells[block] if block else "", _score(cells, way))


def _score(cells: _Cells, way: KnownBy) -> Score:
    state = known_state(cells["state"])
    if state is None or state not in ("", *map(str, State)):
        raise cells.wrong("state", _("{cell!r} is no state", cell=cells["state"][:40]), _("It is one of: {names}", names=", ".join(State)))  # fmt: skip
    number = _number(cells, "root_count")
    rooted = cells["rooted"].casefold()
    if rooted in DEAD and not state:
        state, rooted = State.DEAD.value, NO[0]
    if rooted not in (*YES, *NO, ""):
        raise cells.wrong("rooted", _("{cell!r} says neither yes nor no", cell=rooted[:40]), _("Write 1 or 0; blank is not looked"))  # fmt: skip
    if number is not None and rooted and (number > 0) != (rooted in YES):
        raise cells.wrong("rooted", _("roots are counted and rooted says no, or the other way about"), _("Put the row right"))  # fmt: skip
    roots = Roots.NOT_LOOKED
    if number is not None:
        roots = Roots.COUNTED if number else Roots.NONE
    elif rooted:
        roots = Roots.SEEN if rooted in YES else Roots.NONE
    made = Score(
        State(state) if state else State.ALIVE, roots, number or None, _length(cells, number, rooted), top=Top.GONE if state == State.DEAD else None,
        known_by=way, note=cells["note"][:500],
    )  # fmt: skip
    try:
        return check_score(made)
    except InvalidInput as refused:
        raise UnusableData(str(refused).rstrip("."), _("Put the row right"), row=cells.line) from None


def _number(cells: _Cells, name: str) -> int | None:
    try:
        return read_whole(cells[name], name) if cells[name] else None
    except InvalidInput as refused:
        raise cells.wrong(name, str(refused).rstrip("."), _("Leave it blank where nobody looked")) from None


def _length(cells: _Cells, number: int | None, rooted: str) -> float | None:
    typed = cells["longest_root_mm"]
    try:
        found = read_number(typed, "longest_root_mm") if typed else None
    except InvalidInput as refused:
        raise cells.wrong("longest_root_mm", str(refused).rstrip("."), _("Leave it blank where nobody measured")) from None  # fmt: skip
    none = number == 0 or (number is None and rooted in NO)
    return None if none and not found else found
