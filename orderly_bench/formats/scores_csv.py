"""Scores of one check as CSV: the columns that ``scores.csv`` has, or as few as ``cutting`` and ``roots``; every row is read before any is kept."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from typing import TypeVar

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.measures import Measure
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.questions import known_state
from orderly_bench.core.score.details import DETAILS, Details, read_details
from orderly_bench.core.score.entry import check_score
from orderly_bench.core.typed import read_measured, read_whole
from orderly_bench.core.vocabulary import FailureSign, Fit, KnownBy, Roots, Score, State, Top
from orderly_bench.formats.headings import (
    HEADED,
    NO,
    YES,
    answers_plain,
    as_the_file_heads,
    as_typed,
    dashes_blank,
    headed,
    lengths_in_mm,
)
from orderly_bench.formats.table_csv import FORMULA_STARTS, Table, column, read_table

MOST_ROWS = 5_000
#: Digits beyond which a number of roots is none.
LONGEST_NUMBER = 6
#: What a row of another check, of one not looked at, or of one that is carried forward says.
UNACCOUNTED = "unaccounted"
#: How people head the columns, beside their own names.
HEADS = {
    "cutting": ("cutting", "code", "label", "cutting code", "label code", "unit", "plant"), "roots": HEADED["root_count"], "rooted": HEADED["rooted"],
    "longest_root_mm": HEADED["longest_root_mm"], "state": HEADED["state"], "note": HEADED["note"], "callus": ("callus", "callus y n"),
    "quality": HEADED["quality"], "foliage": HEADED["foliage"], "fit_to_pot_on": ("fit to pot on", "fit"),
}  # fmt: skip
#: What names a cutting or says something in words stays as it is.
NAMES = (*HEADS["cutting"], *HEADS["note"], "site")
E = TypeVar("E", bound=StrEnum)
N = TypeVar("N", int, float)


@dataclass(frozen=True)
class ScoreRow:
    """One row: line of the file, code as typed, name of the rooting site (blank where it has one), the score."""

    line: int
    code: str
    site: str
    score: Score


def read_scores(data: bytes, planned_das: int, way: KnownBy) -> list[ScoreRow]:
    """The rows that score something at the check planned for a day.

    Rows of other checks, rows without a state and without roots, and scores carried forward are passed over.

    Parameters
    ----------
    way : KnownBy
        How the check was looked at; stands where a row names none.

    Raises
    ------
    UnusableData
        Not a table, no column ``cutting`` or ``roots``, a cell that can't be read or a score that contradicts itself: row and column named.
    """
    read = read_table(data)
    but = ["root_number"] if "root_number" in read.header else []
    table = dashes_blank(headed(lengths_in_mm(as_typed(read, NAMES)), HEADS, but), NAMES)
    with as_the_file_heads(read, table):
        return _scored(answers_plain(table, ["rooted", "callus"]), planned_das, way)


def _scored(table: Table, planned_das: int, way: KnownBy) -> list[ScoreRow]:
    """The rows of a table whose columns have names of their own."""
    if len(table.rows) > MOST_ROWS:
        raise UnusableData(_("more than {most} rows", most=str(MOST_ROWS)), _("Split the file"))
    column(table, "cutting")
    if not {"roots", "rooted", "root_number"} & set(table.header):
        column(table, "roots")
    found = []
    for cells, line in zip(table.rows, table.lines, strict=True):
        row = _Row(table, cells, line)
        if row.says("check_planned_day") not in ("", str(planned_das)) or row.says("carried_forward") == "1":
            continue
        if row.says("state") == UNACCOUNTED or not any(map(row.says, ("state", "roots", "root_number", "rooted"))):
            continue
        found.append(ScoreRow(line, row.says("cutting"), row.says("site"), row.score(way)))
    return found


#: States that say what came of a cutting, whoever looked for its roots.
NO_LOOK_NEEDED = (State.DEAD, State.TAKEN_OUT_DEAD, State.TAKEN_OUT_OTHER, State.MISSING)


@dataclass(frozen=True)
class _Row:
    table: Table
    cells: list[str]
    line: int

    def says(self, name: str) -> str:
        """A cell, blank where the file has no such column; what guards it from a spreadsheet is taken off."""
        cell = self.cells[self.table.header.index(name)] if name in self.table.header else ""
        return cell[1:] if cell.startswith("'") and cell[1:2] in FORMULA_STARTS and len(cell) > 1 else cell

    def score(self, way: KnownBy) -> Score:
        """The row's score, held to what a score may say."""
        number = self._read("root_number", read_whole)
        roots = self.says("roots")
        if roots.isdecimal() and len(roots) <= LONGEST_NUMBER:
            roots, number = (Roots.NONE.value, None) if int(roots) == 0 else (Roots.COUNTED.value, int(roots))
        roots = roots or self._by_the_rest(number)
        number = number or None
        state = self._of(known_state(self.says("state")) or self.says("state"), "state", State) or State.ALIVE
        if not roots and state in NO_LOOK_NEEDED:
            roots = Roots.NOT_LOOKED.value
        made = Score(
            state,
            self._of(roots, "roots", Roots) or self._lacks("roots"),
            number,
            self._read("longest_root_mm", lambda typed, label: read_measured(typed, label, Measure.MM)),
            self._yes_no("callus"),
            self._one_of("top", Top),
            self._one_of("failure", FailureSign),
            self._one_of("fit_to_pot_on", Fit) or Fit.NOT_JUDGED,
            self._one_of("known_by", KnownBy) or way,
            self.says("note"),
            self.says("root_class") or None,
            self._read("quality", read_whole),
            self._read("foliage", read_whole),
            self._details(),
        )
        try:
            return check_score(made)
        except InvalidInput as refused:
            raise UnusableData(str(refused).rstrip("."), _("Put the row right"), row=self.line) from None

    def _details(self) -> Details:
        try:
            return read_details({detail.name: self.says(detail.name) for detail in DETAILS})
        except InvalidInput as refused:
            raise UnusableData(
                str(refused).rstrip("."), _("Leave it blank where nobody looked"), row=self.line
            ) from None

    def _read(self, name: str, read: Callable[[str, str], N]) -> N | None:
        cell = self.says(name)
        try:
            return read(cell, name) if cell else None
        except InvalidInput as refused:
            raise UnusableData(
                str(refused).rstrip("."), _("Leave it blank where nobody looked"), row=self.line, column=name
            ) from None

    def _one_of(self, name: str, kind: type[E]) -> E | None:
        return self._of(self.says(name), name, kind)

    def _of(self, cell: str, name: str, kind: type[E]) -> E | None:
        if not cell:
            return None
        found = next((one for one in kind if one.casefold() == cell.casefold()), None)
        if found is None:
            raise UnusableData(
                _("{cell} is not known", cell=cell[:40]),
                _("It is one of: {names}", names=", ".join(kind)),
                row=self.line,
                column=name,
            )
        return found

    def _by_the_rest(self, number: int | None) -> str:
        """What is known of the roots where nothing is said of them but a number, or whether it rooted."""
        if number is not None:
            return Roots.COUNTED.value if number else Roots.NONE.value
        rooted = self._yes_no("rooted")
        return "" if rooted is None else Roots.SEEN.value if rooted else Roots.NONE.value

    def _yes_no(self, name: str) -> bool | None:
        cell = self.says(name).casefold()
        if cell not in ("", *YES, *NO):
            raise UnusableData(
                _("{cell} is neither 1 nor 0", cell=cell[:40]),
                _("1 is yes, 0 is no, blank not looked"),
                row=self.line,
                column=name,
            )
        return None if cell == "" else cell in YES

    def _lacks(self, name: str) -> Roots:
        raise UnusableData(
            _("it is blank"),
            _("Say none, a number, or not looked; a blank would be a guess"),
            row=self.line,
            column=name,
        )
