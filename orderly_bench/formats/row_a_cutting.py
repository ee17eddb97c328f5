"""A table with one row a cutting, of one whose rows are looks at cuttings or count several."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.responses.kind import Response
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.formats.counts_over_time import last_counts
from orderly_bench.formats.headings import rooted_by_number
from orderly_bench.formats.looks_across import SHEET_ROW
from orderly_bench.formats.reps_across import CELL
from orderly_bench.formats.several_looks import after_sticking, last_looks
from orderly_bench.formats.table_csv import MOST_ROWS, Table
from orderly_bench.formats.tally import counts_of, one_by_one
from orderly_bench.formats.tally_values import READ, values_one_by_one, without_values

#: The unit of a tally of which nothing else is said: its row.
TALLIED = "row of the tally"


@dataclass(frozen=True)
class Columns:
    """Which columns hold the groups, None where the layout has none, and what the cuttings started with."""

    unit: str | None = None
    block: str | None = None
    pair: str | None = None
    whole_plot: str | None = None
    row: str | None = None
    column: str | None = None
    wave: str | None = None
    starts: tuple[str, ...] = ()
    in_waves: bool = False
    #: of a tally: each piece was drawn to its arm by itself, so that a row of several is no unit
    single: bool = False
    #: each row is a look at a cutting on the day in this column
    day: str | None = None
    #: date of sticking, or its column, where looks have dates
    stuck_on: str | None = None
    #: of a tally: what its numbers and lengths are, one of ``tally_values.Of``
    numbers_are: str | None = None

    def given(self) -> dict[str, str]:
        """Group by name of the row's attribute."""
        return {
            name: value
            for name, value in vars(self).items()
            if value and name not in ("starts", "in_waves", "single", "day", "stuck_on", "numbers_are")
        }


def row_a_cutting(
    table: Table,
    typed: Sequence[str],
    named: Sequence[str],
    factors: Sequence[str],
    response: Response,
    columns: Columns,
) -> tuple[Table, Columns, list[Caution]]:
    """The table with one row a cutting, where its rows are looks at cuttings or a tally of several; ``typed`` are its heads as typed."""
    by_number = response is Response.ROOTED and response.value not in table.header and "root_count" in table.header
    if by_number and counts_of(table, response.value, named) is None:
        counted, by_row, told = row_a_cutting(rooted_by_number(table), typed, named, factors, response, columns)
        return counted, by_row, [*told, caution("rooted_by_number")]
    if columns.day is None:
        if columns.stuck_on:
            raise InvalidInput("--stuck-on", _("goes with --day, or with a sheet that has a column for each look"))
        return _of_a_tally(table, typed, named, factors, response, columns)
    day = columns.day
    if columns.stuck_on and table.rows:
        table = after_sticking(table, day, columns.stuck_on)
    outcome = Response.ROOTED if response is Response.DAYS else response
    own = SHEET_ROW if SHEET_ROW in table.header else None
    beside = [*factors, *columns.given().values(), *([own] if own else [])]
    if kind_of(outcome).yes_no:
        of_counts = last_counts(table, day, outcome.value, beside, MOST_ROWS)
        if of_counts is not None:
            counted, by_row, told = _rows_as_units(of_counts[0], columns, factors)
            return counted, by_row, [*told, *of_counts[1]]
    if counts_of(table, Response.ROOTED.value, [*named, day]) and outcome in READ:
        raise UnusableData(
            _("rows of several looks, and one number for several cuttings"),
            _("Keep the rows of the last look alone, and leave --day out"),
            row=1,
        )
    if columns.single:
        raise InvalidInput("--single", _("is of a tally, and here each row is a look at one cutting; leave it out"))
    found, told = last_looks(table, day, beside, own)
    return found, columns, told


def _of_a_tally(
    table: Table,
    typed: Sequence[str],
    named: Sequence[str],
    factors: Sequence[str],
    response: Response,
    columns: Columns,
) -> tuple[Table, Columns, list[Caution]]:
    """A tally as a row a cutting, its rows the units where no other column and nobody says otherwise; anything else as it is."""
    if kind_of(response).yes_no:
        found = one_by_one(without_values(table, response, named), response.value, named, MOST_ROWS)
        return (table, columns, []) if found is None else _rows_as_units(found, columns, factors)
    of_values = values_one_by_one(table, response, typed, named, columns.numbers_are, MOST_ROWS)
    if of_values is None and columns.numbers_are:
        raise InvalidInput("--numbers-are", _("is of a tally that gives one number for several cuttings; leave it out"))
    if of_values is None:
        return table, columns, []
    if columns.single:
        raise InvalidInput("--single", _("needs the number of each cutting, and here a row gives one for several"))
    found, beside = of_values
    counted, by_row, told = _rows_as_units(found, columns, factors, "numbers")
    return counted, by_row, [*told, beside]


def _rows_as_units(
    found: Table, columns: Columns, factors: Sequence[str], of: str = ""
) -> tuple[Table, Columns, list[Caution]]:
    """Cuttings of a tally with its rows as their units, where no other column and nobody says otherwise; a row that holds several arms, or
    replicates, is a unit in each. In a square a cell is a unit, and nothing is left to ask; pairs of rows are blocks of two.
    """
    if columns.unit or columns.single:
        return found, columns, []
    arm = [found.header.index(name) for name in (*factors, CELL) if name in found.header]
    places = [(line, *(cells[i] for i in arm)) for cells, line in zip(found.rows, found.lines, strict=True)]
    units = {place: " / ".join(map(str, place)) for place in places}
    if len(units) == len(set(found.lines)):
        units = {place: str(place[0]) for place in units}
    rows = [[*cells, units[place]] for cells, place in zip(found.rows, places, strict=True)]
    asked = [] if columns.row and columns.column else [caution("tally", of, rows=len(units), pieces=len(rows))]
    by_row = replace(columns, unit=TALLIED)
    if columns.pair and not columns.block and len(rows) > len(units):
        by_row = replace(by_row, pair=None, block=columns.pair)
        asked.append(caution("pairs_of_units", column=columns.pair))
    return Table([*found.header, TALLIED], rows, found.lines), by_row, asked
