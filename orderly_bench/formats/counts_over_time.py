"""A tally with a row for each look at a tray or pot: it counts once, as it was last counted, and its cuttings rooted between looks."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from orderly_bench.core.cautions import Caution
from orderly_bench.core.errors import UnusableData
from orderly_bench.core.messages.say import caution
from orderly_bench.core.messages.translation import gettext as _
from orderly_bench.core.observations.over_time import checks
from orderly_bench.formats.several_looks import DAYS_TO_ROOT, NOT_LOOKED, STATE, days_of
from orderly_bench.formats.table_csv import Table, column
from orderly_bench.formats.tally import Counted, counts_of, one_by_one


@dataclass(frozen=True)
class _Look:
    """One look at what stands together: its place in the table, its day, and what was counted."""

    at: int
    day: float
    counted: Counted


def last_counts(
    table: Table, day: str, outcome: str, beside: Sequence[str], most: int
) -> tuple[Table, list[Caution]] | None:
    """A row a cutting of what was last counted, with the columns of days to root where days are counted from sticking; None where
    it is no tally.

    Parameters
    ----------
    day : str
        The column of the day of each look.
    outcome : str
        The column of how many did: *rooted*.
    beside : sequence of str
        Factors and groups: what stands together is alike in all of them.
    most : int
        Cuttings.

    Raises
    ------
    UnusableData
        A day that can't be read, two rows of one day, or another number stuck than at the look before.
    """
    tally = counts_of(table, outcome, [*beside, day])
    if tally is None:
        return None
    table, counted = tally
    looks, after_sticking = _looks_of(table, counted, day, beside)
    ends = [seen[-1].at for seen in looks.values()]
    last = Table(table.header, [table.rows[i] for i in ends], [table.lines[i] for i in ends])
    found = one_by_one(last, outcome, [*beside, day], most)
    if found is None:
        return None
    began = checks((look.day, key) for key, seen in looks.items() for look in seen)[-1][0]
    uncounted = [seen[-1].day < began for seen in looks.values() for _each in range(seen[-1].counted.stuck)]
    found = _unknown_where(found, outcome, uncounted)
    if after_sticking and not set(DAYS_TO_ROOT) & set(found.header):
        written = [row for seen in looks.values() for row in _days_of_each(seen)]
        rows = [[*cells, *days] for cells, days in zip(found.rows, written, strict=True)]
        found = Table([*found.header, *DAYS_TO_ROOT], rows, found.lines)
    fallen = sum(max(0, a.counted.did - b.counted.did) for seen in looks.values() for a, b in pairwise(seen))
    told = [caution("several_looks", "counts", rows=len(counted), trays=len(looks))]
    told += [caution("several_looks", "uncounted", n=sum(uncounted))] if any(uncounted) else []
    return found, told + ([caution("roots_vanished", n=fallen, days=_("two looks"), serious=True)] if fallen else [])


def counted_looks(table: Table, day: str, outcome: str, beside: Sequence[str]) -> list[list[tuple[float, bool, bool]]]:
    """Of each cutting of ``last_counts``, in its order: the day of each look, whether it had rooted, and whether it was dead."""
    tally = counts_of(table, outcome, [*beside, day])
    found: list[list[tuple[float, bool, bool]]] = []
    for seen in _looks_of(*tally, day, beside)[0].values() if tally else ():
        end = seen[-1].counted
        for nth in range(1, end.stuck + 1):
            of_dead = nth - end.did
            found.append(
                [(look.day, nth <= look.counted.did, 0 < of_dead <= min(end.dead, look.counted.dead)) for look in seen]
            )
    return found


def _looks_of(
    table: Table, counted: Sequence[Counted], day: str, beside: Sequence[str]
) -> tuple[dict[tuple[str, ...], list[_Look]], bool]:
    """The looks at what stands together, in order of their days, and whether these are counted from sticking."""
    days, after_sticking = days_of(table, column(table, day), day)
    looks: dict[tuple[str, ...], list[_Look]] = {}
    places = [column(table, name) for name in beside]
    for i in sorted(range(len(counted)), key=lambda i: days[i]):
        looks.setdefault(tuple(table.rows[i][place] for place in places), []).append(_Look(i, days[i], counted[i]))
    for seen in looks.values():
        _refuse(table, seen, day)
    return looks, after_sticking


def _unknown_where(table: Table, outcome: str, uncounted: Sequence[bool]) -> Table:
    """The table with cuttings as not looked at where nobody counted their tray at the last check: those that had rooted before alone
    would speak for it.
    """
    at, state = table.header.index(outcome), table.header.index(STATE)
    rows = [[*cells] for cells in table.rows]
    for cells, missed in zip(rows, uncounted, strict=True):
        if missed:
            cells[at], cells[state] = "", NOT_LOOKED
    return Table(table.header, rows, table.lines)


def _refuse(table: Table, seen: Sequence[_Look], day: str) -> None:
    for before, after in pairwise(seen):
        here, other = table.lines[after.at], table.lines[before.at]
        if before.day == after.day:
            raise UnusableData(
                _("rows {other} and {here} are of one day", other=other, here=here),
                _("Name the column in which they differ with --unit or --block"),
                row=here,
                column=day,
            )
        if before.counted.stuck != after.counted.stuck:
            raise UnusableData(
                _("{n} stuck, and {m} at the look before (row {other})", n=after.counted.stuck, m=before.counted.stuck, other=other),
                _("Give how many were stuck in every row, and what died in a column dead; leave --day out where each look took others"),
                row=here,
            )  # fmt: skip


def _days_of_each(seen: Sequence[_Look]) -> Iterator[tuple[str, str, str]]:
    """Days to root of each cutting, in the order of ``one_by_one``: those that did, the dead, the rest."""
    end = seen[-1].counted
    each_look = {"rooted": [look.counted.did for look in seen], "dead": [look.counted.dead for look in seen]}
    for how, counts in each_look.items():
        for nth in range(1, counts[-1] + 1):
            first = next(i for i, count in enumerate(counts) if count >= nth)
            yield (f"{seen[first - 1].day:g}" if first else "", f"{seen[first].day:g}", how)
    for _other in range(end.stuck - end.did - end.dead):
        yield (f"{seen[-1].day:g}", "", "censored")
