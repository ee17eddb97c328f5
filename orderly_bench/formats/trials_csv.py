"""Trials of one question as CSV: a row per trial and arm, columns ``trial``, ``arm``, ``k``, ``n`` and, if wanted, ``n_effective``."""

from __future__ import annotations

from orderly_bench.core.errors import InvalidInput, UnusableData
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.methods.combine import ArmOfTrial
from orderly_bench.core.typed import read_number, read_whole
from orderly_bench.formats.headings import HEADED, as_typed, headed
from orderly_bench.formats.table_csv import Table, column, read_table
from orderly_bench.formats.tally import STUCK

NEEDED = ("trial", "arm", "k", "n")
WORTH = "n_effective"
#: How people head them.
HEADS = {
    "trial": ("trial", "study", "experiment", "year", "season", "site"), "arm": ("arm", "treatment"), "k": ("k", *HEADED["rooted"]), "n": ("n", *STUCK),
    WORTH: ("n effective", "effective n"),
}  # fmt: skip


def read_trials(data: bytes, arms: tuple[str, str] | None = None) -> tuple[tuple[str, str], list[tuple[str, ArmOfTrial, ArmOfTrial]]]:  # fmt: skip
    """The two arms, first and second, and every trial's counts of them.

    Parameters
    ----------
    data : bytes
        The file.
    arms : (first, second), optional
        Which two; without it the file holds two, taken in order of name.

    Raises
    ------
    UnusableData
        Not a table, counts that can't be, an arm that a trial lacks or has twice, more arms than two and none named.
    """
    table = headed(as_typed(read_table(data), NEEDED[:2]), HEADS)
    found: dict[str, dict[str, ArmOfTrial]] = {}
    for number, cells in enumerate(table.rows):
        trial, arm, counts = _row(table, cells, table.lines[number])
        if arm in found.setdefault(trial, {}):
            raise UnusableData(
                _("arm {arm} of trial {trial} comes twice", arm=arm, trial=trial),
                _("Keep one row for each arm of each trial"),
                row=table.lines[number],
            )
        found[trial][arm] = counts
    chosen = arms or _two(sorted({arm for has in found.values() for arm in has}))
    for trial, has in found.items():
        lacking = [arm for arm in chosen if arm not in has]
        if lacking:
            raise UnusableData(
                _("trial {trial} has no arm {arm}", trial=trial, arm=lacking[0]),
                _("Leave the trial out, or name arms that all have: --arms A,B"),
            )
    return chosen, [(trial, has[chosen[0]], has[chosen[1]]) for trial, has in found.items()]


def _two(names: list[str]) -> tuple[str, str]:
    if len(names) != 2:
        raise UnusableData(
            _("there are {n} arms, and a difference has two: {names}", n=len(names), names=", ".join(names)),
            _("Say which, the first minus the second: --arms A,B"),
        )
    return names[0], names[1]


def _row(table: Table, cells: list[str], line: int) -> tuple[str, str, ArmOfTrial]:
    trial, arm, k, n = (cells[column(table, name)] for name in NEEDED)
    if not trial or not arm:
        name = "arm" if trial else "trial"
        raise UnusableData(_("it has no name"), _("Name every trial and every arm"), row=line, column=name)
    worth = cells[table.header.index(WORTH)] if WORTH in table.header else ""
    try:
        counts = ArmOfTrial(read_whole(k, "k"), read_whole(n, "n"), read_number(worth, WORTH) if worth else None)
    except InvalidInput as refused:
        raise UnusableData(str(refused).rstrip("."), _("Type counts: k of n"), row=line) from None
    if not 0 <= counts.k <= counts.n or counts.n == 0:
        raise UnusableData(
            _("{k} of {n} can't be", k=counts.k, n=counts.n), _("k lies between 0 and n, and n is 1 or more"), row=line
        )  # fmt: skip
    if not 0 < counts.worth <= counts.n:
        raise UnusableData(
            _("an effective number of {worth:g} of {n} can't be", worth=counts.worth, n=counts.n),
            _("It lies above 0 and is at most n"),
            row=line,
            column=WORTH,
        )
    return trial, arm, counts
