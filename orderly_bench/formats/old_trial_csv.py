"""A finished trial from a spreadsheet: a row a cutting, a row for each look at one, or a tally of several, with what it was given, what it stood in, and what came of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.questions import known_state, repeated_ids
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.score.entry import check_score
from orderly_bench.core.typed import read_number, read_whole
from orderly_bench.core.vocabulary import KnownBy, Roots, Score, State, Top
from orderly_bench.formats.counts_over_time import counted_looks, last_counts
from orderly_bench.formats.cuttings_across import OF_A_ROW
from orderly_bench.formats.headings import HEADED, NO, YES, answers_plain, as_the_file_heads, called_as_here
from orderly_bench.formats.looks_across import DAY, SHEET_ROW, looks_across
from orderly_bench.formats.merged import merged_down
from orderly_bench.formats.reps_across import CELL
from orderly_bench.formats.several_looks import NOT_LOOKED, days_of, last_looks, looks_of_each
from orderly_bench.formats.table_csv import Table, column, read_table
from orderly_bench.formats.tally import one_by_one, refuse_rows_of_others
from orderly_bench.formats.upright import upright

MOST_ROWS = 1_000
#: Columns that say what came of a cutting; one of the first two is needed.
OUTCOMES = ("rooted", "root_count", "longest_root_mm", "state", "note")
DEAD = ("dead", "died")


@dataclass(frozen=True)
class OldLook:
    """A look at a cutting: its day, after sticking or (``dated``) a date's ordinal, and what was seen."""

    day: float
    dated: bool
    score: Score


@dataclass(frozen=True)
class OldRow:
    """A cutting: its line, its levels of the factors, its unit and block, its score and the looks it was seen at, if there were
    several; a blank outcome is *not looked*.
    """

    line: int
    levels: tuple[str, ...]
    unit: str
    block: str
    score: Score
    looks: tuple[OldLook, ...] = ()


def read_old_trial(
    data: bytes, factors: Sequence[str], unit: str, block: str, way: KnownBy, day: str = "", alone: bool = False
) -> list[OldRow]:
    """The cuttings of a finished trial, every one checked.

    Parameters
    ----------
    factors : sequence of str
        Columns in which the arms differ.
    unit, block : str
        Columns, blank where each cutting stood alone, or in no blocks; several with a comma between, where names begin anew in each.
    way : KnownBy
        How the roots were known.
    day : str
        Column of the day, where each row is one of several looks at a cutting: its score is how it was last seen.
    alone : bool
        Of a tally without a column of the unit: its cuttings each stood alone; else a row is a unit.

    Raises
    ------
    UnusableData
        Not a table, a column that is not there, a blank level, an outcome that can't be read or contradicts itself; names row and column.
    """
    named = [*factors, *filter(None, (unit, block, day))]
    typed = read_table(data)
    typed, _told = merged_down(typed, named) if day else upright(typed, factors, Response.ROOTED, named)
    table = called_as_here(typed, [*factors, day], [unit, block], HEADED)
    with as_the_file_heads(typed, table):
        return _old_rows(table, factors, unit, block, way, day, alone)


def _old_rows(
    table: Table, factors: Sequence[str], unit: str, block: str, way: KnownBy, day: str, alone: bool
) -> list[OldRow]:
    """The cuttings of a table whose columns have names of their own."""
    refuse_rows_of_others(table, [*factors, unit, block])
    if not day and not {"rooted", "root_count"} & set(table.header):
        across = looks_across(table, "rooted", [*factors, unit, block])
        table, day = (across[0], DAY) if across else (table, day)
    table = _answered(table)
    factors = [_as_headed(table, name) for name in factors]
    unit, block, day = (_as_headed(table, name) if name else "" for name in (unit, block, day))
    beside = [*factors, *filter(None, (unit, block))]
    seen = table
    tally = _of_a_tally(table, beside, day)
    table = tally or _once_each(table, beside, day)
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
    if day:
        rows = [replace(row, looks=looks) for row, looks in zip(rows, _looks(seen, beside, day, way), strict=True)]
    if unit or len(set(table.lines)) == len(rows):
        return rows
    if (tally is not None or OF_A_ROW in table.header) and not alone:
        several = len({(row.line, row.levels) for row in rows}) > len(set(table.lines))
        return [replace(row, unit=", ".join([row.unit, *row.levels])) for row in rows] if several else rows
    return [replace(row, unit=f"{row.unit}, {i}") for i, row in enumerate(rows, start=1)]


def _as_headed(table: Table, name: str) -> str:
    """A column as the file writes it, whatever the capitals."""
    return (
        next((one for one in table.header if one.casefold() == name.casefold()), "")
        or table.header[column(table, name)]
    )


def _answered(table: Table) -> Table:
    """The table with yes, no and *dead* in the column of rooting as 1, 0, and 0 with its state."""
    table = answers_plain(table, ["rooted"])
    if "rooted" not in table.header:
        return table
    header = list(dict.fromkeys([*table.header, "state"]))
    rooted, state = header.index("rooted"), header.index("state")
    rows = [[*cells, *[""] * (len(header) - len(cells))] for cells in table.rows]
    for cells in rows:
        if cells[rooted].casefold() in DEAD and not cells[state]:
            cells[rooted], cells[state] = "0", State.DEAD.value
    return Table(header, rows, table.lines)


def _of_a_tally(table: Table, beside: Sequence[str], day: str) -> Table | None:
    """A row a cutting of a tally, as it was last counted; None where it is none."""
    if not day:
        return one_by_one(table, "rooted", beside, MOST_ROWS)
    found = last_counts(table, day, "rooted", [*beside, *_own(table)], MOST_ROWS)
    return None if found is None else _sound(*found)


def _once_each(table: Table, beside: Sequence[str], day: str) -> Table:
    """Each cutting once: as it was last seen, or refused where it stands twice and nobody says on which days."""
    columns = {name: [cells[i] for cells in table.rows] for i, name in enumerate(table.header)}
    if not day:
        others = {name: cells for name, cells in columns.items() if name not in beside}
        if twice := repeated_ids(others, [columns[name] for name in beside]):
            remedy = _(
                "Keep each once; name the column of the day where rows are looks on several; leave the column out if it names no cutting"
            )
            raise UnusableData(twice[0].text.split(".")[0], remedy)
        return table
    return _sound(*last_looks(table, day, beside, *_own(table)))


def _own(table: Table) -> list[str]:
    """The column of the row of a tick sheet, which is a cutting or a tray."""
    return [SHEET_ROW] if SHEET_ROW in table.header else []


def _looks(table: Table, beside: Sequence[str], day: str, way: KnownBy) -> list[tuple[OldLook, ...]]:
    """Each look at each cutting, in the order of the cuttings as they were last seen."""
    days, after_sticking = days_of(table, column(table, day), day)
    if counted := counted_looks(table, day, "rooted", [*beside, *_own(table)]):
        return [
            tuple(OldLook(on, not after_sticking, _as_counted(rooted, dead, way)) for on, rooted, dead in looks)
            for looks in counted
        ]
    return [
        tuple(
            OldLook(days[i], not after_sticking, _score(_Cells(table, table.rows[i], table.lines[i]), way))
            for i in rows
        )
        for rows in looks_of_each(table, days, beside, *_own(table)).values()
    ]


def _as_counted(rooted: bool, dead: bool, way: KnownBy) -> Score:
    state = State.DEAD if dead else State.ALIVE
    return Score(state, Roots.SEEN if rooted else Roots.NONE, top=Top.GONE if dead else None, known_by=way)


def _sound(found: Table, questions: Sequence[Caution]) -> Table:
    """What looks come to, refused where it can't be true."""
    if wrong := next((one for one in questions if one.serious), None):
        raise UnusableData(wrong.text.rstrip("."), _("Put the row right"))
    return found


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
    own = cells[unit] if unit else cells[CELL] or f"line {cells.line}"
    return OldRow(cells.line, levels, own, cells[block] if block else "", _score(cells, way))


def _score(cells: _Cells, way: KnownBy) -> Score:
    state = known_state(cells["state"])
    if state == NOT_LOOKED:
        state = ""
    if state is None or state not in ("", *map(str, State)):
        raise cells.wrong("state", _("{cell!r} is no state", cell=cells["state"][:40]), _("It is one of: {names}", names=", ".join(State)))  # fmt: skip
    number = _number(cells, "root_count")
    rooted = cells["rooted"].casefold()
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
