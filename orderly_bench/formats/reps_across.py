"""A table with a row for each arm and a column for each replicate, as theses and notebooks have it, read with a row for each."""

from __future__ import annotations

import re
from collections.abc import Sequence

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import all_of
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.responses.kind import Response, Scale
from orderly_bench.core.responses.registry import kind_of
from orderly_bench.formats.arms_across import how_many_or_roots, says_what_came
from orderly_bench.formats.headings import HEADED, as_named, plain_heading, share_heads
from orderly_bench.formats.table_csv import Table
from orderly_bench.formats.tally import OF_OTHERS, STUCK, column_of

#: How replicates are headed, and the column that then holds them: a block in every arm, or a vessel of one.
WORDS = {
    "r": "rep",
    "rep": "rep",
    "repl": "rep",
    "replicate": "rep",
    "replication": "rep",
    "b": "block",
    "block": "block",
    "t": "tray",
    "": "rep",
}
#: Where a row stood: its line and the head above it. Each such cell is one tray where it counts several.
CELL = "cell of the sheet"
VESSELS = ("tray", "pot", "plot", "box", "jar", "unit", "plate", "flask")
_HEAD = re.compile(
    rf"({'|'.join([*filter(None, WORDS), *VESSELS])})?(?:(?<=[a-z]) ?(?:no |nr )?)?([1-9]\d?|[ivx]{{1,4}})"
)


def reps_down(
    table: Table, factors: Sequence[str], response: Response, but: Sequence[str]
) -> tuple[Table, list[Caution]] | None:
    """The table with a row for each cell below a replicate, which stands in a column of its own; None where no columns are replicates.

    A blank cell is none. Columns of means and totals beside them are left out: they are worked out of the others.

    Parameters
    ----------
    factors : sequence of str
        Columns that make up the arm, all of which the table has.
    but : sequence of str
        Columns that somebody names, which are no replicates.

    Raises
    ------
    UnusableData
        Numbers above 1 where rooting is asked and no column says of how many.
    """
    names = {name.casefold() for name in as_named(table, factors).header}
    heads = [plain_heading(head) for head in table.header]
    known = {response.value, *HEADED.get(response.value, ()), *share_heads(response.value)}
    if response is Response.DAYS or not factors or not {f.casefold() for f in factors} <= names or known & {*heads}:
        return None
    word, places = _replicates(table, response, {name.casefold() for name in but})
    if len(places) < 2:
        return None
    _refuse_bare_counts(table, list(places), response, but)
    kept = [i for i, head in enumerate(heads) if i not in places and head not in OF_OTHERS]
    of_arm = [i for i, name in enumerate(as_named(table, factors).header) if name in factors]
    rows, lines = [], []
    for cells, line in zip(table.rows, table.lines, strict=True):
        arm = " ".join(cells[i] for i in of_arm)
        for at, number in places.items():
            if cells[at]:
                own = f"{arm} {number}" if word in VESSELS else number
                rows.append([*(cells[i] for i in kept), own, f"line {line}, {table.header[at]}", cells[at]])
                lines.append(line)
    header = [*(table.header[i] for i in kept), word, CELL, response.value]
    return Table(header, rows, lines), [
        caution("reps_across", columns=all_of([table.header[i] for i in places]), word=word)
    ]


def _replicates(table: Table, response: Response, named: set[str]) -> tuple[str, dict[int, str]]:
    """What the replicates are called, and the columns that hold them with their numbers: the most that are headed alike."""
    found: dict[str, dict[int, str]] = {}
    for i, head in enumerate(table.header):
        hit = _HEAD.fullmatch(_without_outcome(plain_heading(head), response))
        if hit and head.casefold() not in named and says_what_came([cells[i] for cells in table.rows], response):
            word = WORDS.get(hit[1] or "", hit[1] or "")
            if hit[1] or hit[2].isalpha():
                found.setdefault(word, {})[i] = hit[2]
    return max(found.items(), key=lambda one: len(one[1]), default=("", {}))


def _without_outcome(head: str, response: Response) -> str:
    """*rooted t1* without what was counted."""
    words = sorted({response.value, *HEADED.get(response.value, ())}, key=len, reverse=True)
    before = next((word for word in words if head.startswith(f"{word} ")), "")
    return head[len(before) :].strip()


def _refuse_bare_counts(table: Table, places: Sequence[int], response: Response, but: Sequence[str]) -> None:
    """How many of several rooted says nothing without of how many."""
    if (
        kind_of(response).scale is not Scale.YES_NO
        or column_of(table, STUCK, {name.casefold() for name in but}) is not None
    ):
        return
    for cells, line in zip(table.rows, table.lines, strict=True):
        for at in places:
            if how_many_or_roots(cells[at]):
                raise UnusableData(
                    _("{cell!r} does not say of how many", cell=cells[at]),
                    _("Write 8/10 for eight of ten, or add a column of how many were stuck in each"),
                    row=line,
                    column=table.header[at],
                )
