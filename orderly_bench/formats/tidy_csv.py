"""Tidy CSV: one row per cutting, under a header."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.layouts.arrange import arrange
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import all_of, any_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.questions import (
    against_state,
    known_state,
    repeated_ids,
    unused_groupings,
)
from orderly_bench.core.observations.table import EARLIER_ROOTS, NOT_STUCK, Observations, Row
from orderly_bench.core.responses.cells import whole
from orderly_bench.core.responses.days_to_root import day as read_day
from orderly_bench.core.responses.kind import Response, Scale
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.core.vocabulary import State
from orderly_bench.formats.cuttings_across import OF_A_ROW
from orderly_bench.formats.headings import HEADED, MISSING, answers_plain, as_the_file_heads, called_as_here, parts_of
from orderly_bench.formats.looks_across import DAY, looks_across
from orderly_bench.formats.row_a_cutting import TALLIED, Columns, row_a_cutting
from orderly_bench.formats.table_csv import Table, column, read_table
from orderly_bench.formats.tally import refuse_rows_of_others
from orderly_bench.formats.upright import upright

#: Groups that give a cutting a place of its own. Where there are none, cuttings of which the same is known are one row, kept once.
OF_ONE_PLACE = {"unit", "pair", "whole_plot", "row", "column"}
OUTCOMES = ("rooted", "dead", "censored")
#: Outcomes that are found however people head them; a state is not, for a status of any kind may stand in a sheet.
MEASURED = {name: heads for name, heads in HEADED.items() if name not in ("state", "note")}
YES_OR_NO = [response.value for response in Response if kind_of(response).scale is Scale.YES_NO]
#: A comma between two digits is a point.
DECIMAL_COMMA = re.compile(r"(\d),(\d)")


def _read_starts(
    table: Table, starts: Sequence[str], factors: Sequence[str], response: Response, named: dict[str, list[Any]],
    groups: dict[str, str], places: dict[str, int],
) -> None:  # fmt: skip
    """What each cutting started with, put among the named groups; earlier roots take a place of their own."""
    if starts:
        _refuse_starts(starts, factors, groups, response)
        started = zip(*(_cells(table, column(table, name)) for name in starts), strict=True)
        kinds: dict[tuple[str, ...], tuple[tuple[str, str], ...]] = {}
        named["start"] = [kinds.setdefault(cells, tuple(zip(starts, cells, strict=True))) for cells in started]
    if EARLIER_ROOTS in table.header:
        had = [(EARLIER_ROOTS, cell or "0") for cell in _cells(table, table.header.index(EARLIER_ROOTS))]
        before = named.get("start", [()] * len(had))
        both: dict[tuple[Any, ...], tuple[Any, ...]] = {}
        named["start"] = [both.setdefault((s, o), (*s, o)) for s, o in zip(before, had, strict=True)]
        places[EARLIER_ROOTS] = table.header.index(EARLIER_ROOTS)


def read_observations(
    data: bytes,
    factors: Sequence[str],
    response: Response = Response.ROOTED,
    columns: Columns | None = None,
    least_arms: int = 2,
) -> Observations:
    """Observations from CSV bytes; a blank response is left out with ``state`` saying why.

    Parameters
    ----------
    data : bytes
    factors : sequence of str
        Columns that make up the arm, in order.
    response : Response
        Its own name is the column; days to root need ``last_without_day``, ``first_with_day`` and ``outcome``.
    columns : Columns, optional
    least_arms : int
        1 for a rate, which compares nothing.

    Raises
    ------
    UnusableData
        Names row, column and remedy.
    """
    columns = columns or Columns()
    parts = [part for name in columns.given().values() for part in parts_of(name)]
    given = [*columns.given().values(), *columns.starts, *filter(None, (columns.day, columns.stuck_on))]
    named_columns = [*factors, *given, *parts]
    typed, told_of_heads = upright(read_table(data), factors, response, named_columns)
    if OF_A_ROW in typed.header and not (columns.unit or columns.single):
        columns = replace(columns, unit=OF_A_ROW)
        told_of_heads.append(caution("row_a_unit"))
    table = called_as_here(typed, named_columns, list(columns.given().values()), MEASURED)
    with as_the_file_heads(typed, table):
        refuse_rows_of_others(table, named_columns)
        table, columns, across = _looks_down(table, response, named_columns, columns)
        table = answers_plain(table, YES_OR_NO)
        table, columns, told = row_a_cutting(table, typed.header, named_columns, factors, response, columns)
        return _arranged(table, factors, response, columns, least_arms, [*told_of_heads, *across, *told])


def _arranged(
    table: Table, factors: Sequence[str], response: Response, columns: Columns, least_arms: int, told: list[Caution]
) -> Observations:
    """A table with a row a cutting, under names of its own, as observations."""
    parts = [part for name in columns.given().values() for part in parts_of(name)]
    itself = next((f for f in factors if f in _needed(response)), None)
    if itself is not None:
        raise UnusableData(
            _("{name!r} is what is compared, so it is no factor", name=itself),
            _("Name the columns that say what was done to the cuttings"),
            row=1,
            column=itself,
        )
    _refuse_lone_day(table, response)
    groups = columns.given()
    places = {name: column(table, name) for name in [*factors, *groups.values(), *_needed(response)]}
    state = table.header.index("state") if "state" in table.header else None
    _refuse_blanks(table, places, factors, groups)
    made: dict[tuple[str, ...], tuple[str, ...]] = {}
    levels = [made.setdefault(t, t) for t in zip(*(_cells(table, places[f]) for f in factors), strict=True)]
    levels = levels or [()] * len(table.rows)
    named: dict[str, list[Any]] = {group: _cells(table, places[name]) for group, name in groups.items()}
    _read_starts(table, columns.starts, factors, response, named, groups, places)
    states = _states(table, state) if state is not None else [""] * len(table.rows)
    found = _responses(table, places, response)
    if EARLIER_ROOTS in places:
        found = _new_roots(table, places, response, found)
    rooting = _rooting_beside(table, response)
    if EARLIER_ROOTS not in places:
        found = [_of_none(of_row, did, response) for of_row, did in zip(found, rooting, strict=True)]
    against = _against_number(table, response)
    rows, known, alike = [], dict[tuple[Any, ...], Row](), not OF_ONE_PLACE & named.keys()
    for i, (line, of_row) in enumerate(zip(table.lines, found, strict=True)):
        key = (levels[i], *of_row.values(), rooting[i], against[i], *(cells[i] for cells in named.values()))
        if alike and not states[i] and key in known:
            rows.append(known[key])
            continue
        inside: dict[str, Any] = {group: cells[i] for group, cells in named.items()}
        row = Row(
            levels=levels[i],
            state=states[i],
            line=line,
            **inside,
            **of_row,
            rooted=rooting[i],
            in_wave=columns.in_waves,
        )
        if _against_its_state(row, response) or against[i]:
            row = replace(row, response=None, outcome="", rooted=None, questioned=True)
        rows.append(row)
        if alike and not states[i] and not row.questioned:
            known[key] = row
    _refuse_levels_alike(factors, rows)
    if least_arms > 1:
        _refuse_one_level(factors, {row.levels for row in rows})
    cells = {name: _cells(table, at) for at, name in enumerate(table.header)}
    used = {*factors, *groups.values(), *parts, *columns.starts, *_needed(response)}
    used |= _settled_by_others(cells, columns)
    questions = [
        *repeated_ids(
            {n: c for n, c in cells.items() if n not in used},
            [cells[name] for name in groups.values()],
            levels,
            [*factors, *groups.values()],
        ),
        *unused_groupings(cells, used, [row.response if row.known else None for row in rows]),
        *told,
    ]
    return arrange(factors, rows, least_arms, questions)


def _settled_by_others(cells: Mapping[str, Sequence[str]], columns: Columns) -> set[str]:
    """Columns that say nothing more where others are used: what each row of a tally has by itself, what is one in every block or pair, and
    another name of the whole plots.
    """

    def many(*names: str) -> int:
        return len(set(zip(*(cells[name] for name in names), strict=True)))

    found: set[str] = set()
    if columns.unit in (TALLIED, OF_A_ROW):
        found |= {name for name in cells if many(name, columns.unit) == many(name)}
    for group in filter(None, (columns.block, columns.pair)):
        found |= {name for name in cells if many(name, group) == many(group)}
    if plot := columns.whole_plot:
        found |= {name for name in cells if many(name, plot) == many(plot) == many(name)}
    return found


def _looks_down(
    table: Table, response: Response, named: Sequence[str], columns: Columns
) -> tuple[Table, Columns, list[Caution]]:
    """The table with a row for each look, where it has a column for each and none that says once for all what is compared."""
    outcome = Response.ROOTED if response is Response.DAYS else response
    if columns.day is not None or not set(_needed(response)) - set(table.header):
        return table, columns, []
    found = looks_across(table, outcome.value, named)
    return (table, columns, []) if found is None else (found[0], replace(columns, day=DAY), found[1])


def _states(table: Table, at: int) -> list[str]:
    """The states as they are written elsewhere; one that is none is refused."""
    read: dict[str, str] = {}
    for cell, line in zip(_cells(table, at), table.lines, strict=True):
        if cell in read:
            continue
        found = known_state(cell)
        if found is None:
            raise UnusableData(
                _("{cell!r} is no state of a cutting", cell=cell[:40]),
                _("Write {names}, or leave it blank", names=", ".join([*map(str, State), NOT_STUCK])),
                row=line,
                column="state",
            )
        read[cell] = found
    return [read[cell] for cell in _cells(table, at)]


def _refuse_starts(starts: Sequence[str], factors: Sequence[str], groups: dict[str, str], response: Response) -> None:
    """What a cutting started with is neither its arm, nor a group of the layout, nor what came of it."""
    taken = {*factors, *groups.values(), *_needed(response), "state"}
    wrong = next((name for name in starts if name in taken), None)
    if wrong is not None:
        raise UnusableData(
            _("{wrong!r} is no start: it is a factor, a group or the outcome", wrong=wrong),
            _("Name columns that say how the cuttings were before anything was done: length_mm, grade"),
            row=1,
            column=wrong,
        )


def _cells(table: Table, place: int) -> list[str]:
    return [cells[place] for cells in table.rows]


def _refuse_blanks(table: Table, places: dict[str, int], factors: Sequence[str], groups: dict[str, str]) -> None:
    """The first row with a level or a group that is not filled."""
    needed = [
        *((f, places[f], "level") for f in factors),
        *((n, places[n], g.replace("_", " ")) for g, n in groups.items()),
    ]
    blank = []
    for name, place, what in needed:
        missing = ("",) if what == "level" else ("", *MISSING)  # a level may be called NA
        here = (i for i, cell in enumerate(_cells(table, place)) if cell.casefold() in missing)
        blank += [(at, name, what) for at in [next(here, None)] if at is not None]
    if not blank:
        return
    at, name, what = min(blank, key=lambda found: found[0])
    remedy = _("Write it out; an arm without hormone is 'none'") if what == "level" else _("Fill it for every cutting")
    raise UnusableData(_("the {what} is blank", what=what), remedy, row=table.lines[at], column=name)


def _responses(table: Table, places: dict[str, int], response: Response) -> list[dict[str, Any]]:
    """What each row says; cells that say the same are read once."""
    if response is Response.DAYS:
        return [_days(cells, places, line) for cells, line in zip(table.rows, table.lines, strict=True)]
    read: dict[str, dict[str, Any]] = {}
    from_cell, found = kind_of(response).from_cell, []
    for cell, line in zip(_cells(table, places[response.value]), table.lines, strict=True):
        if cell not in read:
            read[cell] = {"response": from_cell(cell, response.value, line)}
        found.append(read[cell])
    return found


def _rooting_beside(table: Table, response: Response) -> list[float | None]:
    """Whether each cutting rooted, where a column beside another response says so."""
    if response is Response.ROOTED or Response.ROOTED.value not in table.header:
        return [None] * len(table.rows)
    read: dict[str, float | None] = {}
    from_cell, found = kind_of(Response.ROOTED).from_cell, []
    for cell, line in zip(_cells(table, table.header.index(Response.ROOTED.value)), table.lines, strict=True):
        if cell not in read:
            read[cell] = from_cell(cell, Response.ROOTED.value, line)
        found.append(read[cell])
    return found


def _of_none(of_row: dict[str, Any], rooted: float | None, response: Response) -> dict[str, Any]:
    """What a row says, where its number is blank and another column says that it did not root: it has no roots, of no length."""
    if rooted != 0 or response is Response.DAYS or of_row["response"] is not None:
        return of_row
    return {"response": kind_of(response).from_score(None, False)}


def _against_its_state(row: Row, response: Response) -> bool:
    """Whether a cutting has roots although it is dead, missing or was never stuck: one of the two is a slip.

    Days to root look back: one that is dead at the end, or missing, may have rooted before.
    """
    if response is Response.DAYS:
        return row.outcome == "rooted" and row.state == NOT_STUCK
    return against_state(row.state, row.response)


def _against_number(table: Table, response: Response) -> list[bool]:
    """Whether a cutting has roots of some number or length in one column and is none that rooted in another."""
    names = [n for n in ("rooted", "root_count", "longest_root_mm") if n in table.header]
    if (
        response in (Response.DAYS, Response.ALIVE)
        or "rooted" not in names
        or len(names) < 2
        or EARLIER_ROOTS in table.header
    ):
        return [False] * len(table.rows)
    rooted, *numbers = (_cells(table, table.header.index(name)) for name in names)
    return [cell == "0" and any(_above(n[i]) for n in numbers) for i, cell in enumerate(rooted)]


def _above(cell: str) -> bool:
    """Whether a cell is a number above 0."""
    try:
        return float(cell.replace(",", ".")) > 0
    except ValueError:
        return False


def _refuse_levels_alike(factors: Sequence[str], rows: Sequence[Row]) -> None:
    """Levels that differ by case or blanks only are one level written twice, or two that can't be told apart."""
    for f, factor in enumerate(factors):
        seen: dict[str, str] = {}
        lines: dict[str, int] = {}
        for row in rows:
            lines.setdefault(row.levels[f], row.line)
        for level, line in lines.items():
            first = seen.setdefault(DECIMAL_COMMA.sub(r"\1.\2", " ".join(level.split()).casefold()), level)
            if first != level:
                raise UnusableData(
                    _("{first!r} and {level!r} differ only in how they are written", first=first, level=level),
                    _("Are they one level? Then write it one way; if not, name them apart"),
                    row=line or None,
                    column=factor,
                )


def _refuse_one_level(factors: Sequence[str], arms: set[tuple[str, ...]]) -> None:
    """Of several factors, one that is the same in every arm is none."""
    for f, factor in enumerate(factors):
        if len(factors) > 1 and len(arms) > 1 and len({arm[f] for arm in arms}) == 1:
            raise UnusableData(
                _("factor {factor} has one level only ({level})", factor=factor, level=next(iter(arms))[f]),
                _("Leave it out of the factors; it is the same in every arm"),
                column=factor,
            )


def _refuse_lone_day(table: Table, response: Response) -> None:
    """Of the day on which roots were first seen alone nobody can tell when they came."""
    missing = [name for name in _needed(response) if name not in table.header]
    if response is not Response.DAYS or not missing:
        return
    raise UnusableData(
        _("days to root need a column {names}", names=all_of(missing)),
        _(
            "Roots came between two looks: give the last day without roots, the first day with them (blank where none came) and the "
            "outcome, {outcomes}; or name the column of the day where each row is one look",
            outcomes=any_of(OUTCOMES),
        ),
        row=1,
        column=missing[0],
    )


def _needed(response: Response) -> tuple[str, ...]:
    return ("last_without_day", "first_with_day", "outcome") if response is Response.DAYS else (response.value,)


def _new_roots(
    table: Table, places: dict[str, int], response: Response, found: list[dict[str, Any]]
) -> list[dict[str, Any]]:
    """What is new since sticking: a cutting with earlier roots counts by those alone, unknown where nobody counted."""
    if response not in (Response.ROOTED, Response.ROOT_COUNT):
        return found
    counts = _cells(table, table.header.index("root_count")) if "root_count" in table.header else [""] * len(found)
    kept = []
    for of_row, cell, count, line in zip(found, _cells(table, places[EARLIER_ROOTS]), counts, table.lines, strict=True):
        earlier, value = whole(cell, EARLIER_ROOTS, line) or 0.0, of_row["response"]
        if earlier and value and response is Response.ROOT_COUNT:
            value = max(0.0, value - earlier)
        elif earlier and value:
            now = whole(count, "root_count", line)
            value = None if now is None else float(now > earlier)
        kept.append({"response": value})
    return kept


def _days(cells: list[str], places: dict[str, int], line: int) -> dict[str, Any]:
    outcome = cells[places["outcome"]]
    if outcome not in ("", *OUTCOMES):
        raise UnusableData(
            _("{outcome!r} is no outcome", outcome=outcome[:40]),
            _("Write {names}", names=", ".join(OUTCOMES)),
            row=line,
            column="outcome",
        )
    last = read_day(cells[places["last_without_day"]], "last_without_day", line)
    first = read_day(cells[places["first_with_day"]], "first_with_day", line)
    if outcome in ("rooted", "dead") and first is None:
        raise UnusableData(
            _("{outcome}, but no day", outcome=outcome),
            _("Write the day of the check that found it"),
            row=line,
            column="first_with_day",
        )
    if outcome == "censored" and first is not None:
        raise UnusableData(
            _("censored, but with a day of rooting"),
            _("Leave it blank, or write rooted"),
            row=line,
            column="first_with_day",
        )
    if first is not None and last is not None and first <= last:
        raise UnusableData(
            _("lies not after the last day without"),
            _("Swap the two days if they were mixed up"),
            row=line,
            column="first_with_day",
        )
    return {"response": None, "last_without_day": last, "first_with_day": first, "outcome": outcome}
