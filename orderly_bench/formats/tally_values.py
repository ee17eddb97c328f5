"""Numbers and lengths of roots in a tally: the total of a row, or the mean of its cuttings, read as a row a cutting."""

from __future__ import annotations

import re
from collections.abc import Sequence
from contextlib import suppress
from enum import StrEnum

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.responses.cells import LARGEST_COUNT, grade, millimetres, number
from orderly_bench.core.responses.kind import Response
from orderly_bench.formats.headings import HEADED, of_what, plain_heading
from orderly_bench.formats.table_csv import Table
from orderly_bench.formats.tally import counts_of, one_by_one


class Of(StrEnum):
    """What a number in a row of several cuttings is."""

    TOTAL = "total"
    ROOTED = "per-rooted"
    STUCK = "per-stuck"


#: Responses that a row of several cuttings can give in one number.
READ = {
    Response.ROOT_COUNT: lambda cell, name, line: number(cell, name, line, LARGEST_COUNT),
    Response.LONGEST: millimetres,
    Response.QUALITY: grade,
}
_MEAN = re.compile(r"^(mean|average|avg|total)( of)? ")
_IN = re.compile(r"( in)? (mm|cm)$")
_OF_WHICH = "rooted|stuck|planted"
_PER = re.compile(
    rf" (?:(?:per|of|in|on|for) )?(?:(?:each|all|the) )?(?:({_OF_WHICH}) )?(?:cuttings?|pieces?)(?: ({_OF_WHICH}))?$"
    rf"| per ({_OF_WHICH})$"
)


def values_one_by_one(
    table: Table, response: Response, typed: Sequence[str], but: Sequence[str], of: str | None, most: int
) -> tuple[Table, Caution] | None:
    """A row a cutting of a tally that gives a number, a length or a grade of several at once; None where it is none.

    The total of a row stands for its cuttings: what rooted shares it evenly, what did not has none. Only units are compared, so
    nothing rests on how even they were.

    Parameters
    ----------
    response : Response
        None of those that ``READ`` lacks is given so.
    typed : sequence of str
        The heads as they were typed, in the order of the columns.
    but : sequence of str
        Columns that are none of how many were stuck or died.
    of : str or None
        What the numbers are; None as the head of their column says.
    most : int
        Cuttings.

    Raises
    ------
    UnusableData
        Nobody says what the numbers are, roots where nothing rooted, fewer roots than cuttings that rooted; and as ``one_by_one``.
    """
    at = _column_of(table, response, typed, but) if response in READ else None
    found = None if at is None else counts_of(table, Response.ROOTED.value, [*but, table.header[at]])
    if at is None or found is None or all(tally.did < 2 for tally in found[1]):
        if response is Response.ROOT_COUNT and at is not None and found is None:
            _refuse_means(table, at, typed)
        return None
    name = typed[at] if at < len(typed) else table.header[at]
    what = Of(of) if of else _by_head(name)
    if what is None or (what is Of.TOTAL and response is Response.QUALITY):
        raise UnusableData(
            _("one number for several cuttings, and nothing says of what"),
            _("Say which it is: --numbers-are {choices}", choices=" | ".join(Of)),
            row=1,
            column=name,
        )
    in_cm = plain_heading(name).endswith(" cm") and table.header[at] != response.value  # which is in mm by then
    totals = [
        _total(_ten_times(cells[at]) if in_cm else cells[at], response, name, line, tally.did, tally.stuck, what)
        for cells, line, tally in zip(table.rows, table.lines, found[1], strict=True)
    ]
    single = one_by_one(_but_for(table, {at, *_places(table)}), Response.ROOTED.value, but, most)
    if single is None:
        return None
    shared = [
        cell
        for total, tally in zip(totals, found[1], strict=True)
        for cell in _shared(total, tally.did, tally.stuck, response is Response.ROOT_COUNT)
    ]
    rows = [[*cells, cell] for cells, cell in zip(single.rows, shared, strict=True)]
    did = single.header.index(Response.ROOTED.value)
    for cells in rows:
        cells[did] = cells[did] if cells[-1] else ""  # unknown whole: those that did not root alone would count as none
    return Table([*single.header, response.value], rows, single.lines), caution("tally_values", column=name)


def _refuse_means(table: Table, at: int, typed: Sequence[str]) -> None:
    """A number of roots with decimals is the mean of several cuttings, and nothing says of how many."""
    for cells, line in zip(table.rows, table.lines, strict=True):
        value = READ[Response.ROOT_COUNT](cells[at], typed[at], line)
        if value is not None and value != int(value):
            raise UnusableData(
                _("{cell!r} is not a whole number", cell=cells[at]),
                _(
                    "Roots are counted; where it is a mean, add columns of how many were stuck and how many of them rooted"
                ),
                row=line,
                column=typed[at],
            )


def without_values(table: Table, response: Response, but: Sequence[str]) -> Table:
    """A tally of what rooted, or of what is fit or alive, without the numbers of its rows; any other table as it is."""
    beside = _places(table)
    found = counts_of(table, response.value, but) if beside else None
    return table if found is None or all(tally.did < 2 for tally in found[1]) else _but_for(table, beside)


def _places(table: Table) -> set[int]:
    return {i for i, name in enumerate(table.header) if name in READ}


def _but_for(table: Table, places: set[int]) -> Table:
    kept = [i for i in range(len(table.header)) if i not in places]
    return Table([table.header[i] for i in kept], [[cells[i] for i in kept] for cells in table.rows], table.lines)


def _column_of(table: Table, response: Response, typed: Sequence[str], but: Sequence[str]) -> int | None:
    """Where the numbers stand: under the name of the response, else under a head that says of what they are the mean or total."""
    if response.value in table.header:
        return table.header.index(response.value)
    others, heads = {name.casefold() for name in but}, HEADED[response.value]
    found = [
        i
        for i, name in enumerate(typed)
        if name.casefold() not in others and {_bare(name), of_what(_bare(name))} & set(heads)
    ]
    return found[0] if len(found) == 1 else None


def _bare(name: str) -> str:
    """A head without what its numbers are the mean or total of.

    >>> _bare("Mean no. of roots per rooted cutting"), _bare("Mean longest root per cutting (mm)")
    ('no of roots', 'longest root')
    """
    return _PER.sub("", _MEAN.sub("", _IN.sub("", plain_heading(name))))


def _by_head(name: str) -> Of | None:
    """What a head says its numbers are; None where it leaves that open.

    >>> _by_head("Roots per rooted cutting"), _by_head("total roots"), _by_head("Mean roots per cutting") is None
    (<Of.ROOTED: 'per-rooted'>, <Of.TOTAL: 'total'>, True)
    """
    plain = _IN.sub("", plain_heading(name))
    per = _PER.search(plain)
    said = next((part.strip() for part in per.groups() if part), "") if per else ""
    if plain.startswith("total "):
        return Of.TOTAL if per is None else None
    return Of.ROOTED if said == "rooted" else Of.STUCK if said else None


def _ten_times(cell: str) -> str:
    """Millimetres of centimetres; what is no number stays as it is, to be refused."""
    with suppress(ValueError):
        return f"{float(cell.replace(',', '.')) * 10:.12g}"
    return cell


def _total(cell: str, response: Response, name: str, line: int, did: int, stuck: int, what: Of) -> float | None:
    """The total of a row; None where its number is not known."""
    value = READ[response](cell, name, line)
    if value is None:
        return 0.0 if did == 0 else None
    total = value * {Of.TOTAL: 1, Of.ROOTED: did, Of.STUCK: stuck}[what]
    if did == 0 and value > 0:
        raise UnusableData(_("roots, and nothing of that row rooted"), _("Put the row right"), row=line, column=name)
    if response is not Response.ROOT_COUNT:
        return total
    if what is Of.TOTAL and value != int(value):
        told = _("{cell!r} is not a whole number", cell=cell)
        raise UnusableData(told, _("A total is counted; of a mean say of what: --numbers-are"), row=line, column=name)
    if round(total) < did:
        raise UnusableData(
            _("{n} rooted, and no more than {total} roots in all", n=str(did), total=str(round(total))),
            _("Put the row right, or say what its numbers are: --numbers-are {choices}", choices=" | ".join(Of)),
            row=line,
            column=name,
        )
    return float(round(total))


def _shared(total: float | None, did: int, stuck: int, whole: bool) -> list[str]:
    """The total over the cuttings of a row, in the order of ``one_by_one``: those that rooted first."""
    if total is None:
        return [""] * stuck
    if not whole:
        return [f"{total / max(1, did):.12g}"] * did + ["0"] * (stuck - did)
    each, over = divmod(int(total), max(1, did))
    return [str(each + 1)] * over + [str(each)] * (did - over) + ["0"] * (stuck - did)
