"""How people head the columns of a sheet, and write yes and no in it."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

from orderly_bench.core.errors import UnusableData
from orderly_bench.core.responses.cells import whole
from orderly_bench.formats.table_csv import NoSuchColumn, Table, column

YES, NO = ("1", "yes", "y", "true", "rooted", "✓", "✔"), ("0", "no", "n", "false", "none", "not rooted", "✗", "✘")
#: Yes and no where a column holds both and nothing else: a lone dash says as often that nobody looked.
PLUS, MINUS = "+", ("-", "−", "–", "—")
#: What programs write where a value is missing.
MISSING = ("na", "n/a", "#n/a", "nan", "null", "<na>", ".")
#: How people call the length that is measured of each cutting.
LENGTHS = (
    "longest", "longest root", "root length", "length of longest root", "length of the longest root", "longest root length", "max root length",
    "maximum root length",
)  # fmt: skip
#: Scales whose grades are some of those from 0 to 5.
_SCALES = ("", *(f" {low}{to}{high}" for low in (0, 1) for high in (3, 4, 5) for to in (" ", " to ")))
#: How people call the grades from 0 to 5, the scale behind the name or not.
GRADES = {
    name: tuple(called + scale for called in heads for scale in _SCALES)
    for name, heads in {
        "quality": ("quality", "root quality", "rooting quality", "root grade", "rooting grade", "root score", "rooting score", "root system quality"),
        "foliage": ("foliage", "foliage score", "foliage grade", "foliage quality", "leaf quality"),
    }.items()
}  # fmt: skip
#: The same column under many heads, without capitals and signs.
HEADED = {
    "rooted": ("rooted", "rooted y n", "rooted yes no", "rooted cuttings", "cuttings rooted"),
    "root_count": ("root count", "roots", "root number", "roots counted"),
    "longest_root_mm": tuple(length + unit for length in LENGTHS for unit in ("", " mm", " in mm")),
    **GRADES,
    "root_class": ("root class", "class of roots", "root number class", "class of root number"),
    "alive": ("alive", "living", "survived", "surviving", "alive y n", "alive cuttings", "cuttings alive", "survivors"),
    "fit_to_pot_on": ("fit to pot on", "fit to pot", "ready to pot on", "ready to pot", "fit"),
    "last_without_day": ("last without day", "last day without", "last day without roots"),
    "first_with_day": ("first with day", "first day with", "first day with roots"),
    "state": ("state", "status"), "note": ("note", "notes", "remark", "remarks", "comment", "comments"),
}  # fmt: skip
#: What a share in percent is called, by what is counted.
SHARES = {
    "rooted": ("rooted", "rooting", "rooting rate"), "alive": ("alive", "survival", "survival rate", "survived"), "fit_to_pot_on": ("fit to pot on", "fit"),
}  # fmt: skip
_SIGNS = re.compile(r"[^a-z0-9]+")
_OF_HUNDRED = re.compile(r"\b(pct|perc|per cent)\b")
#: The longest root in centimetres.
_LONGEST_CM = re.compile(rf"({'|'.join(LENGTHS)})( in)? cm")
_NUMBER = re.compile(r"\d+(?:[.,]\d+)?")
#: A unit behind a head: *IBA (ppm)*.
_UNIT = re.compile(r"\s*(?:\([^()]*\)|\[[^\[\]]*\])$")
_COUNTED = re.compile(r"^(no|nr|n|num|number|count|total)( of)? | (no|nr|n|num|number|count|total)$")
#: A whole number as programs write it where cells of its column are blank.
_POINT_ZERO = re.compile(r"(\d{1,7})\.0+")


def plain_heading(typed: str) -> str:
    """A head without capitals and signs; a sign of percent is a word, for a share is no count.

    >>> plain_heading("No. of roots"), plain_heading("Rooted (%)"), plain_heading("pct_rooted")
    ('no of roots', 'rooted percent', 'percent rooted')
    """
    return _OF_HUNDRED.sub("percent", _SIGNS.sub(" ", typed.casefold().replace("%", " percent ")).strip())


def share_heads(outcome: str) -> list[str]:
    """How the share of an outcome is headed, of those that are one; *percent* alone is taken for that of *rooted*.

    >>> share_heads("fit_to_pot_on")[-2:], share_heads("rooted")[-1]
    (['percentage fit', 'fit percentage'], 'percent')
    """
    named = SHARES.get(outcome, ())
    heads = [
        way.format(name) for name in named for way in ("{} percent", "percent {}", "percentage {}", "{} percentage")
    ]
    return [*heads, *(["percent"] if outcome == "rooted" else [])]


def as_named(table: Table, names: Sequence[str]) -> Table:
    """The table with columns under the names that somebody gives them, where they differ in capitals and blanks, or lack a unit in
    brackets.

    >>> as_named(Table(["Medium", "IBA (ppm)", "Rooted"], [], []), ["medium", "iba", "tray"]).header
    ['medium', 'iba', 'Rooted']
    """
    header = list(table.header)
    for name in names:
        plain = [" ".join(typed.casefold().split()) for typed in header]
        for heads in (plain, [_UNIT.sub("", typed) for typed in plain]):
            if name not in header and heads.count(name.casefold()) == 1:
                header[heads.index(name.casefold())] = name
    return replace(table, header=header)


def lengths_in_mm(table: Table, but: Sequence[str] = ()) -> Table:
    """The table with the longest root in mm where it was measured in cm; what is no number stays as it is, to be refused.

    >>> lengths_in_mm(Table(["Longest root (cm)"], [["1,2"], [""], ["long"]], [2, 3, 4])).rows
    [['12'], [''], ['long']]
    """
    others = {name.casefold() for name in but}
    at = [
        i for i, n in enumerate(table.header) if n.casefold() not in others and _LONGEST_CM.fullmatch(plain_heading(n))
    ]
    if len(at) != 1 or "longest_root_mm" in table.header:
        return table

    def in_mm(cell: str) -> str:
        return f"{float(cell.replace(',', '.')) * 10:.6g}" if _NUMBER.fullmatch(cell.strip()) else cell

    header = ["longest_root_mm" if i == at[0] else name for i, name in enumerate(table.header)]
    rows = [[in_mm(cell) if i == at[0] else cell for i, cell in enumerate(cells)] for cells in table.rows]
    return replace(table, header=header, rows=rows)


def rooted_by_number(table: Table) -> Table:
    """The table with what has one root or more as rooted; a blank number stays unknown, one that can't be read is refused."""
    at = table.header.index("root_count")
    numbers = [whole(cells[at], "root_count", line) for cells, line in zip(table.rows, table.lines, strict=True)]
    told = ["" if number is None else "1" if number > 0 else "0" for number in numbers]
    rows = [[*cells, rooted] for cells, rooted in zip(table.rows, told, strict=True)]
    return Table([*table.header, "rooted"], rows, table.lines)


def joined(table: Table, names: Sequence[str]) -> Table:
    """The table with a column for each of ``names`` that names several, comma between: what begins anew in each block, under its block.

    >>> table = Table(["bench", "pot"], [["A", "1"], ["B", "1"], ["", "2"]], [2, 3, 4])
    >>> joined(table, ["bench,pot"]).rows
    [['A', '1', 'A / 1'], ['B', '1', 'B / 1'], ['', '2', '']]

    Raises
    ------
    UnusableData
        A part that is no column.
    """
    for name in names:
        parts = parts_of(name)
        if len(parts) < 2 or name in table.header:
            continue
        places = [column(table, part) for part in parts]
        both = [[cells[i] for i in places] for cells in table.rows]
        rows = [[*c, " / ".join(own) if all(own) else ""] for c, own in zip(table.rows, both, strict=True)]
        table = Table([*table.header, name], rows, table.lines)
    return table


def parts_of(name: str) -> list[str]:
    """The columns that a name names, comma between."""
    return [part.strip() for part in name.split(",") if part.strip()]


def of_what(typed: str) -> str:
    """A head without the word that it counts something.

    >>> of_what("No. cuttings"), of_what("number of dead"), of_what("Rooted (n)"), of_what("n")
    ('cuttings', 'dead', 'rooted', 'n')
    """
    plain = plain_heading(typed)
    return _COUNTED.sub("", plain) or plain


def as_typed(table: Table, but: Sequence[str]) -> Table:
    """The table as a person would have typed it: blank where a program writes that a value is missing, and whole numbers without a
    point where all of a column are. Columns of ``but`` are left as they are: *NA* may be a level.

    >>> as_typed(Table(["arm", "roots"], [["NA", "NA"], ["b", "3.0"]], [2, 3]), ["arm"]).rows
    [['NA', ''], ['b', '3']]
    """
    others = {name.casefold() for name in but}
    columns = [list(cells) for cells in zip(*table.rows, strict=True)]
    for name, cells in zip(table.header, columns, strict=False):
        if name.casefold() not in others:
            cells[:] = ["" if cell.casefold() in MISSING else cell for cell in cells]
            whole_ones = [_POINT_ZERO.fullmatch(cell) for cell in cells]
            if all(found or not cell for found, cell in zip(whole_ones, cells, strict=True)):
                cells[:] = [found[1] if found else "" for found in whole_ones]
    return replace(table, rows=[list(cells) for cells in zip(*columns, strict=True)])


def answers_plain(table: Table, names: Sequence[str]) -> Table:
    """The table with *yes* and *no* in some columns as 1 and 0; any other cell stays, to be refused or read as it is.

    >>> answers_plain(Table(["rooted"], [["Yes"], ["n"], ["9"]], [2, 3, 4]), ["rooted"]).rows
    [['1'], ['0'], ['9']]
    """
    plain = {**dict.fromkeys(YES, "1"), **dict.fromkeys(NO, "0")}
    signs = {PLUS: "1", **dict.fromkeys(MINUS, "0"), "": ""}
    of_column: dict[int, dict[str, str]] = {}
    for place in (table.header.index(name) for name in names if name in table.header):
        found = {cells[place] for cells in table.rows}
        of_column[place] = signs if PLUS in found and len(found - {""}) > 1 and found <= signs.keys() else plain
    rows = [
        [of_column[i].get(cell.casefold(), cell) if i in of_column else cell for i, cell in enumerate(cells)]
        for cells in table.rows
    ]
    return replace(table, rows=rows)


def called_as_here(
    table: Table, named: Sequence[str], joins: Sequence[str], heads: Mapping[str, Sequence[str]]
) -> Table:
    """The table with its columns and cells as they are read here, however a person or a program wrote them.

    Parameters
    ----------
    named, joins : sequence of str
        Columns that somebody names, which stay what they are; of ``joins`` each may name several, comma between.
    heads : mapping
        What is found under which heads.
    """
    own = [*named, *joins, *(part for name in joins for part in parts_of(name))]
    plain = as_typed(joined(as_named(table, own), joins), own)
    return dashes_blank(headed(lengths_in_mm(plain, own), heads, own), own)


def dashes_blank(table: Table, but: Sequence[str]) -> Table:
    """The table with nothing where a dash stands among numbers, if a column says what rooted: else a dash may well say *none*.

    >>> dashes_blank(Table(["rooted", "root_count", "alive"], [["0", "-", "-"], ["1", "4", "1"]], [2, 3]), []).rows
    [['0', '', '-'], ['1', '4', '1']]
    """
    others = {name.casefold() for name in but}
    columns = [list(cells) for cells in zip(*table.rows, strict=True)]
    for name, cells in zip(table.header, columns, strict=False):
        told = {cell for cell in cells if cell not in ("", *MINUS)}
        if name.casefold() not in others and told - {"0", "1"} and all(map(_NUMBER.fullmatch, told)):
            cells[:] = ["" if cell in MINUS else cell for cell in cells]
    known = {"rooted", *share_heads("rooted")} & set(map(plain_heading, table.header))
    return replace(table, rows=[list(cells) for cells in zip(*columns, strict=True)]) if known else table


@contextlib.contextmanager
def as_the_file_heads(typed: Table, table: Table) -> Iterator[None]:
    """Whatever is wrong with a table inside is said of the column as its file heads it."""
    heads = dict(zip(table.header, typed.header, strict=False))
    try:
        yield
    except NoSuchColumn as error:
        column(typed, error.column or "")
        raise
    except UnusableData as error:
        if heads.get(error.column or "", error.column) == error.column:
            raise
        raise UnusableData(
            error.problem, error.remedy, file=error.file, row=error.row, column=heads[error.column or ""]
        ) from error


def headed(table: Table, ways: Mapping[str, Sequence[str]], but: Sequence[str] = ()) -> Table:
    """The table with its columns under their own names, however they are headed; ``but`` are left as they are.

    >>> headed(Table(["Medium", "No. of roots"], [], []), HEADED).header
    ['Medium', 'root_count']
    >>> headed(Table(["Root quality (0-5)", "Foliage (1-9)"], [], []), HEADED).header
    ['quality', 'Foliage (1-9)']
    """
    known = {words: name for name, heads in ways.items() for words in heads if name not in table.header}
    header: list[str] = []
    others = {name.casefold() for name in but}
    for typed in table.header:
        name = (
            typed if typed.casefold() in others else known.get(plain_heading(typed)) or known.get(of_what(typed), typed)
        )
        header.append(typed if name in header else name)
    return replace(table, header=header)
