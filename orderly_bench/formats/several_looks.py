"""A table with a row for each look at a cutting, read as a row a cutting: as it was last seen, and between which days it rooted."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.over_time import Followed, Look, checks, followed
from orderly_bench.core.observations.questions import OF_A_CUTTING, known_state
from orderly_bench.core.responses.cells import number, whole, yes_or_no
from orderly_bench.core.responses.days_to_root import LARGEST_DAY
from orderly_bench.core.responses.kind import DEAD
from orderly_bench.core.typed import read_day
from orderly_bench.formats.table_csv import Table, column

STATE, NOT_LOOKED = "state", "not looked"
DAYS_TO_ROOT = ("last_without_day", "first_with_day", "outcome")
#: What a look measures, blank where a cutting is unknown at the last check.
MEASURED = ("rooted", "root_count", "longest_root_mm", "quality", "foliage", "root_class", "alive", "fit_to_pot_on")


def last_looks(table: Table, day: str, beside: Sequence[str], own: str | None = None) -> tuple[Table, list[Caution]]:
    """Each cutting once, as it was last seen, with the columns of days to root where days are counted from sticking.

    Parameters
    ----------
    table : Table
    day : str
        The column of the day of each look: days after sticking, or dates.
    beside : sequence of str
        Factors and groups: numbers of cuttings may begin anew inside them.
    own : str, optional
        The column that names the cuttings, where it is not headed so.

    Raises
    ------
    UnusableData
        No column names the cuttings, a day can't be read, or a cutting stands twice on one day.
    """
    if not table.rows:
        return table, []
    days, after_sticking = days_of(table, column(table, day), day)
    of_cutting = looks_of_each(table, days, beside, own)
    began = checks((days[i], key) for key, rows in of_cutting.items() for i in rows)[-1][0]
    header = list(dict.fromkeys([*table.header, STATE, *(DAYS_TO_ROOT if after_sticking else ())]))
    made, lines, found = [], [], []
    for rows in of_cutting.values():
        result = followed([_look(table, i, days[i]) for i in rows], began)
        row = rows[result.counts]
        cells = dict(zip(table.header, table.rows[row], strict=True))
        cells = {**_of_days(result), **cells} if after_sticking else cells
        if result.unseen:
            said_last = dict(zip(table.header, table.rows[rows[-1]], strict=True)).get(STATE, "")
            cells |= dict.fromkeys([one for one in MEASURED if one in cells], "") | {STATE: said_last or NOT_LOOKED}
        made.append([cells.get(one, "") for one in header])
        lines.append(table.lines[row])
        found.append(result)
    return Table(header, made, lines), _questions(table, found)


def looks_of_each(
    table: Table, days: Sequence[float], beside: Sequence[str], own: str | None = None
) -> dict[tuple[str, ...], list[int]]:
    """The rows of each cutting, by what it and what stands ``beside`` are called, in order of their days.

    Raises
    ------
    UnusableData
        No column names the cuttings, or one stands twice on one day.
    """
    own = own or next((name for name in table.header if name.casefold() in OF_A_CUTTING), None)
    if own is None:
        remedy = _("Name it in a column: {names}", names=", ".join(OF_A_CUTTING))
        raise UnusableData(_("no column says which cutting was looked at"), remedy, row=1)
    places = [column(table, name) for name in (own, *beside)]
    found: dict[tuple[str, ...], list[int]] = {}
    for i in sorted(range(len(table.rows)), key=lambda i: days[i]):
        found.setdefault(tuple(table.rows[i][place] for place in places), []).append(i)
    for (name, *_inside), rows in found.items():
        _refuse_twice(table, rows, days, name, own)
    return found


def _questions(table: Table, found: Sequence[Followed]) -> list[Caution]:
    """What was done with the rows, and what can't be true of them."""
    unseen, gone, risen = (sum(getattr(one, name) for one in found) for name in ("unseen", "vanished", "risen"))
    told = [caution("several_looks", rows=len(table.rows), pieces=len(found))]
    told += [caution("several_looks", "unseen", n=unseen)] if unseen else []
    between = _("two looks")
    told += [caution("roots_vanished", n=gone, days=between, serious=True)] if gone else []
    return told + ([caution("living_after_dead", n=risen, days=between, serious=True)] if risen else [])


def days_of(table: Table, at: int, name: str) -> tuple[list[float], bool]:
    """The day of each row, and whether they are counted from sticking as the first one is, or else dates."""
    cells = [cells[at] for cells in table.rows]
    counted = _counted(cells[0]) is not None
    found = []
    for cell, line in zip(cells, table.lines, strict=True):
        day = _counted(cell) if counted else _dated(cell)
        if day is None:
            remedy = _("Write days after sticking in every row, or a date in every row")
            raise UnusableData(_("{cell!r} is no day", cell=cell[:40]), remedy, row=line, column=name)
        found.append(day)
    return found, counted


def after_sticking(table: Table, day: str, stuck_on: str) -> Table:
    """The table with days after sticking in the place of dates.

    Parameters
    ----------
    day : str
        The column of the day of each look.
    stuck_on : str
        The date of sticking, or the column that holds it.

    Raises
    ------
    UnusableData
        No dates, or a look before sticking.
    """
    at = column(table, day)
    days, counted = days_of(table, at, day)
    if counted:
        remedy = _("Leave --stuck-on out")
        raise UnusableData(_("days are counted from sticking already"), remedy, row=table.lines[0], column=day)
    stuck = _dated(stuck_on)
    if stuck is None:
        stuck_days, counted = days_of(table, column(table, stuck_on), stuck_on)
    else:
        stuck_days = [stuck] * len(days)
    rows = []
    for cells, line, then, begun in zip(table.rows, table.lines, days, stuck_days, strict=True):
        if counted or then < begun:
            told = (
                _("looked at {day}, before it was stuck", day=cells[at])
                if not counted
                else _("{name} is no date", name=stuck_on)
            )
            raise UnusableData(told, _("Put the dates right"), row=line, column=day)
        rows.append([f"{then - begun:g}" if i == at else cell for i, cell in enumerate(cells)])
    return Table(table.header, rows, table.lines)


def _counted(cell: str) -> float | None:
    try:
        return number(cell, "", 0, LARGEST_DAY)
    except UnusableData:
        return None


def _dated(cell: str) -> float | None:
    try:
        return float(read_day(cell, "").toordinal())
    except InvalidInput:
        return None


def _refuse_twice(table: Table, rows: Sequence[int], days: Sequence[float], name: str, own: str) -> None:
    for i, j in pairwise(rows):
        if days[i] == days[j]:
            raise UnusableData(
                _("{name!r} stands twice on one day (row {other} too)", name=name[:40], other=table.lines[i]),
                _("Keep it once; where numbers begin anew in each tray or pot, name that with --unit or --block"),
                row=table.lines[j],
                column=own,
            )


def _look(table: Table, i: int, day: float) -> Look:
    cells, line = dict(zip(table.header, table.rows[i], strict=True)), table.lines[i]
    rooted = yes_or_no(cells.get("rooted", ""), "rooted", line)
    if rooted is None:
        rooted = whole(cells.get("root_count", ""), "root_count", line)
    return Look(day, None if rooted is None else rooted > 0, known_state(cells.get(STATE, "")) in DEAD)


def _of_days(result: Followed) -> dict[str, str]:
    days = result.days
    written = ["" if day is None else f"{day:g}" for day in (days.last_without, days.first_with)]
    return dict(zip(DAYS_TO_ROOT, (*written, days.outcome), strict=True))
