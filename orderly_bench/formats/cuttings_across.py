"""A table with a row for each tray and a column, or a number in one cell, for each of its cuttings, read with a row for each cutting."""

from __future__ import annotations

import re
from collections.abc import Sequence

from orderly_bench.core.cautions import Caution
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.responses.kind import Response, Scale
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.vocabulary import State
from orderly_bench.formats.arms_across import DEAD, how_many_or_roots, says_what_came
from orderly_bench.formats.headings import HEADED, as_named, plain_heading
from orderly_bench.formats.table_csv import Table
from orderly_bench.formats.tally import OF_OTHERS, STATE, STUCK, column_of

#: The column of the row that a cutting stood in, which is its unit unless somebody says otherwise; and of its number there.
OF_A_ROW, NUMBER = "row of the sheet with its cuttings", "number in its row"
_HEAD = re.compile(r"(?:cutting|cut|c|piece|plant|explant|shoot)?(?:(?<=[a-z]) ?(?:no |nr )?)?([1-9]\d?)")
#: Columns headed by a number alone are cuttings from so many on: two may be anything.
FEWEST = 3
_APART = re.compile(r"\s*;\s*|,\s+|\s+")
_VALUE = r"\d{1,4}(?:[.,]\d+)?"
_LIST = re.compile(rf"{_VALUE}(?:(?:\s*;\s*|,\s+|\s+){_VALUE})+|\d{{1,4}}(?:,\d{{1,4}}){{2,}}")
_ONE_OR_MORE = re.compile(rf"{_LIST.pattern}|{_VALUE}")


def cuttings_down(
    table: Table, factors: Sequence[str], response: Response, but: Sequence[str]
) -> tuple[Table, list[Caution]] | None:
    """The table with a row for each cutting; None where no columns, and no lists in a column, are the cuttings of a row.

    Parameters
    ----------
    factors : sequence of str
        Columns that make up the arm, all of which the table has.
    but : sequence of str
        Columns that somebody names, which are no cuttings.
    """
    names = {name.casefold() for name in as_named(table, factors).header}
    if response is Response.DAYS or not factors or not {f.casefold() for f in factors} <= names:
        return None
    others = {name.casefold() for name in but}
    return _columns_down(table, response, others) or _lists_down(table, response, others)


def _columns_down(table: Table, response: Response, others: set[str]) -> tuple[Table, list[Caution]] | None:
    heads = [plain_heading(head) for head in table.header]
    if {response.value, *HEADED.get(response.value, ())} & {*heads} or column_of(table, STUCK, others) is not None:
        return None
    places = {i: hit[1] for i, head in enumerate(heads) if (hit := _HEAD.fullmatch(head)) and head not in others}
    bare = all(heads[i].isdecimal() for i in places)
    if len(places) < 2 or (bare and (len(places) < FEWEST or sorted(map(int, places.values()))[-1] != len(places))):
        return None
    cells = [row[i] for row in table.rows for i in places]
    if not says_what_came(cells, response) or any("/" in cell or "%" in cell for cell in cells):
        return None
    kept = [i for i, head in enumerate(heads) if i not in places and head not in OF_OTHERS]
    found = [
        (line, [row[i] for i in kept], [(number, row[i]) for i, number in places.items() if row[i]])
        for row, line in zip(table.rows, table.lines, strict=True)
    ]
    made = _made([table.header[i] for i in kept], found, response)
    return made, [caution("cuttings_across", columns=all_of([table.header[i] for i in places]))]


def _lists_down(table: Table, response: Response, others: set[str]) -> tuple[Table, list[Caution]] | None:
    """Of one column whose cells list the cuttings: *3, 5, 0, 2*."""
    at = column_of(table, [response.value, *HEADED.get(response.value, ())], others)
    if at is None and response is Response.ROOTED:
        at = column_of(table, HEADED["root_count"], others)
    cells = [row[at] for row in table.rows if row[at]] if at is not None else []
    if at is None or not any(map(_LIST.fullmatch, cells)) or not all(map(_ONE_OR_MORE.fullmatch, cells)):
        return None
    kept = [i for i in range(len(table.header)) if i != at]
    found = [
        (line, [row[i] for i in kept], [(str(i + 1), one) for i, one in enumerate(_listed(row[at]))])
        for row, line in zip(table.rows, table.lines, strict=True)
    ]
    made = _made([table.header[i] for i in kept], found, response)
    return made, [caution("cuttings_across", "listed", column=table.header[at])]


def _listed(cell: str) -> list[str]:
    """The values of a cell; a comma alone parts them where nothing else does, for *2,5* is a number.

    >>> _listed("3, 5, 0, 2"), _listed("2,5; 3"), _listed("3,5,0")
    (['3', '5', '0', '2'], ['2,5', '3'], ['3', '5', '0'])
    """
    apart = [one for one in _APART.split(cell.strip()) if one]
    return cell.strip().split(",") if len(apart) == 1 and cell.count(",") > 1 else apart


def _made(header: list[str], found: list[tuple[int, list[str], list[tuple[str, str]]]], response: Response) -> Table:
    """A row for each value; numbers above 1 where rooting is asked are those of roots."""
    yes_no = kind_of(response).scale is Scale.YES_NO
    counted = response is Response.ROOTED and any(how_many_or_roots(cell) for *_, own in found for _, cell in own)
    rows, lines = [], []
    for line, beside, own in found:
        for number, cell in own:
            died = cell.casefold() in DEAD
            said = ("0" if yes_no and not counted else "") if died else cell
            rows.append([*beside, f"row {line}", number, said, State.DEAD.value if died else ""])
            lines.append(line)
    outcome = Response.ROOT_COUNT.value if counted else response.value
    return Table([*header, OF_A_ROW, NUMBER, outcome, STATE], rows, lines)
